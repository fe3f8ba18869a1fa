"""The steps that bring an archive of an older schema to the present one."""

from __future__ import annotations

import json
from typing import Any

from sqlalchemy import Connection, text

from samovar.archive.schema import COURSE, LOAD, RATE

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
