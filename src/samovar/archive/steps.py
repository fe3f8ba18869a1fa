"""The steps that bring an archive of an older schema to the present one."""

from __future__ import annotations

import json
from typing import Any

from sqlalchemy import Column, Connection, DefaultClause, inspect, text
from sqlalchemy.dialects import sqlite

from samovar.archive.schema import (
    ANNOTATION,
    BODY,
    CHANGE,
    CHANNEL,
    CHANNEL_VIEW,
    CLIP,
    COLUMN_MAP,
    COURSE,
    DRAFTED,
    EDITION,
    EXCLUDED,
    FINDING,
    HAND_READING,
    IMPRINT,
    LOAD,
    META,
    PHOTOGRAPH,
    PICTURE,
    PLAN,
    RATE,
    RESULT,
    RUN,
)
from samovar.archive.sums import seal_all

_METRES = ("height_mm", "radiator_mm")


def _columns(connection: Connection, table: str, **columns: str) -> None:
    # A table that an earlier step made has today's columns already.
    there = {c["name"] for c in inspect(connection).get_columns(table)}
    for name, kind in columns.items():
        if name not in there:
            connection.execute(text(f'ALTER TABLE "{table}" ADD COLUMN {name} {kind}'))


def frame_in_full(connection: Connection) -> None:
    """From 1 to 2: prices with their day, notes, rigs in full, courses, loads, rates, and what is out of sight."""
    state = "VARCHAR(10) NOT NULL DEFAULT 'kept'"
    _columns(
        connection,
        "product",
        prices="JSON NOT NULL DEFAULT '[]'",
        notes="JSON NOT NULL DEFAULT '[]'",
        state=state,
    )
    _columns(
        connection,
        "rig",
        details="JSON NOT NULL DEFAULT '{}'",
        sensors="JSON NOT NULL DEFAULT '{}'",
        state=state,
    )
    _columns(connection, "review", courses="JSON NOT NULL DEFAULT '{}'", state=state)
    _columns(connection, "setup", state=state)
    for table in (RATE, COURSE, LOAD):
        table.create(connection, checkfirst=True)
    for key, body, price, currency in connection.execute(
        text("SELECT id, specification, price, currency FROM product")
    ).all():
        # The day of these prices was never kept: the first day there is says that it is not known.
        prices = [{"amount": price, "currency": currency, "day": "1970-01-01"}] if price and currency else []
        connection.execute(
            text("UPDATE product SET specification = :body, prices = :prices WHERE id = :key"),
            {"body": json.dumps(_in_metres(_plain(body))), "prices": json.dumps(prices), "key": key},
        )
    for key, conditions in connection.execute(text("SELECT id, conditions FROM rig")).all():
        plain = _plain(conditions)
        details = {("surroundings" if k == "room" else k): v for k, v in plain.items()}
        connection.execute(
            text("UPDATE rig SET details = :details WHERE id = :key"),
            {"details": json.dumps(details), "key": key},
        )
    for key, changes in connection.execute(text("SELECT id, changes FROM setup")).all():
        old = _plain(changes)
        new = {"other": ", ".join(f"{k} {v}" for k, v in old.items())} if old else {}
        connection.execute(
            text("UPDATE setup SET changes = :changes WHERE id = :key"),
            {"changes": json.dumps(new), "key": key},
        )


def _plain(value: Any) -> dict[str, Any]:
    found = json.loads(value) if isinstance(value, str) else value
    return dict(found or {})


def _in_metres(specification: dict[str, Any]) -> dict[str, Any]:
    out = {}
    for key, value in specification.items():
        if key in _METRES and isinstance(value, int | float):
            out["radiator_length_m" if key == "radiator_mm" else "height_m"] = value / 1000.0
        else:
            out[key] = value
    return out


def results_of_all(connection: Connection) -> None:
    """From 2 to 3: results and changes of runs, readings by hand in full, what a review is about, claims about a
    change."""
    _columns(connection, "review", noise_distance_m="FLOAT", figure="VARCHAR(80) NOT NULL DEFAULT ''")
    _columns(connection, "claim", about="JSON")
    if inspect(connection).has_table("finding"):
        _columns(connection, "finding", steps="JSON")
    RESULT.create(connection, checkfirst=True)
    CHANGE.create(connection, checkfirst=True)
    old = connection.execute(
        text(
            "SELECT run_id, at_s, quantity, value, half_width, unit, instrument FROM hand_reading ORDER BY run_id, at_s, id"
        )
    ).all()
    HAND_READING.drop(connection)
    HAND_READING.create(connection)
    counted: dict[int, int] = {}
    for run, at_s, kind, value, half_width, unit, words in old:
        counted[run] = counted.get(run, 0) + 1
        part, colon, instrument = str(words).partition(": ")
        place = part if kind == "surface" and colon and " " not in part else ""
        instrument = instrument if place else str(words)
        kind = "contact" if kind == "surface" and instrument.startswith("contact") else kind
        connection.execute(
            HAND_READING.insert().values(
                run_id=run, n=counted[run], at_s=at_s, kind=kind, value=value, half_width=half_width, unit=unit,
                place=place, instrument=instrument,
                bound="at most" if kind == "noise" and "at most this" in instrument else None,
            )
        )  # fmt: skip


def demands_of_reviews(connection: Connection) -> None:
    """From 3 to 4: what a review asks of its setups, and what others published."""
    _columns(
        connection, "review", demands="JSON NOT NULL DEFAULT '[]'", elsewhere="JSON NOT NULL DEFAULT '[]'"
    )


def criteria_of_reviews(connection: Connection) -> None:
    """From 4 to 5: the criteria a reviewer chose, how prices are told, and the editions that were published."""
    EDITION.create(connection, checkfirst=True)
    _columns(
        connection,
        "review",
        criteria="JSON NOT NULL DEFAULT '[]'",
        priced="VARCHAR(80) NOT NULL DEFAULT ''",
        conclusion="JSON NOT NULL DEFAULT '[]'",
    )


def articles_of_reviews(connection: Connection) -> None:
    """From 5 to 6: what became of drafted sentences, photographs, and the files of editions."""
    for table in (DRAFTED, PHOTOGRAPH, BODY):
        table.create(connection, checkfirst=True)
    if "files" not in {c["name"] for c in inspect(connection).get_columns("edition")}:
        _columns(connection, "edition", files="JSON")


def _made_as(column: Column[Any]) -> str:
    """How a column is added to a table that has rows already."""
    kind = str(column.type.compile(dialect=sqlite.dialect()))
    default = column.server_default
    if isinstance(default, DefaultClause):
        return f"{kind} NOT NULL DEFAULT '{default.arg}'"
    return kind


def sums_of_all(connection: Connection) -> None:
    """From 6 to 7: checksums, who recorded and changed what, and tables for what was text between the program's notes."""
    for table in META.metadata.sorted_tables:
        _columns(connection, table.name, **{c.name: _made_as(c) for c in table.c if not c.primary_key})
    connection.execute(
        text("UPDATE finding SET in_steps = 1 WHERE steps IS NOT NULL AND CAST(steps AS TEXT) <> 'null'")
    )
    for indexed in (FINDING, RUN):
        for index in indexed.indexes:
            index.create(connection, checkfirst=True)
    # What stands in an archive already is kept; the checksums say what it was from today on.
    runs = set(connection.execute(text("SELECT id FROM run")).scalars())
    rigs = set(connection.execute(text("SELECT id FROM rig")).scalars())
    for key, value in connection.execute(text("SELECT key, value FROM meta")).all():
        try:
            taken = _from_note(connection, str(key), str(value), runs, rigs)
        except (ValueError, TypeError):
            # What nobody can read stays where it is.
            continue
        if taken:
            connection.execute(META.delete().where(META.c.key == key))
    seal_all(connection)


def accuracies(connection: Connection) -> None:
    """From 7 to 8: what the instrument of a channel may be off by, and what that makes of results."""
    for table in (CHANNEL, RESULT):
        _columns(connection, table.name, **{c.name: _made_as(c) for c in table.c if "since" in c.info})


def sounds(connection: Connection) -> None:
    """From 8 to 9: what else was heard beside a level, and pieces of it."""
    CLIP.create(connection, checkfirst=True)
    _columns(connection, HAND_READING.name, heard=_made_as(HAND_READING.c.heard))


def surfaces(connection: Connection) -> None:
    """From 9 to 10: plans of rigs, and temperature pictures of runs."""
    for table in (PLAN, PICTURE):
        table.create(connection, checkfirst=True)


def _from_note(connection: Connection, key: str, value: str, runs: set[int], rigs: set[int]) -> bool:
    """Enter one of the program's old notes in the table it now has; False where it is none of them."""
    last = key.rsplit(" ", 1)[-1]
    number = int(last) if last.isdigit() else -1
    if key.startswith("window of run ") and number in runs:
        start_s, end_s = (float(part) for part in value.split())
        _annotate(connection, number, start_s=start_s, end_s=end_s)
    elif key.startswith("note on run ") and number in runs:
        _annotate(connection, number, note=value)
    elif key.startswith("left out of run ") and number in runs:
        for start_s, end_s, reason in json.loads(value):
            row = {"run_id": number, "start_s": start_s, "end_s": end_s, "reason": reason}
            connection.execute(EXCLUDED.insert().values(**row))
    elif key.startswith("channels of rig ") and (number in rigs or number == 0):
        connection.execute(CHANNEL_VIEW.insert().values(rig_id=number or None, body=json.loads(value)))
    elif key.startswith("log map "):
        connection.execute(COLUMN_MAP.insert().values(titles=key, body=json.loads(value)))
    elif key.startswith("imprint "):
        connection.execute(IMPRINT.insert().values(key=key.removeprefix("imprint "), value=value))
    else:
        return False
    return True


def _annotate(connection: Connection, number: int, **values: Any) -> None:
    changed = connection.execute(ANNOTATION.update().where(ANNOTATION.c.run_id == number).values(**values))
    if not changed.rowcount:
        connection.execute(ANNOTATION.insert().values(run_id=number, **values))
