"""The steps that bring an archive of an older schema to the present one."""

from __future__ import annotations

import json
from typing import Any

from sqlalchemy import Connection, inspect, text

from samovar.archive.schema import (
    BODY,
    CHANGE,
    COURSE,
    DRAFTED,
    EDITION,
    HAND_READING,
    LOAD,
    PHOTOGRAPH,
    RATE,
    RESULT,
)

_METRES = ("height_mm", "radiator_mm")


def _columns(connection: Connection, table: str, **columns: str) -> None:
    for name, kind in columns.items():
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
