"""A run's rows in the tables: its entry, channels, journal and series, written and read."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from sqlalchemy import Connection, insert, select, update

from samovar.archive.problems import Problems
from samovar.archive.records import Run
from samovar.archive.samples import pack_series, unpack_blocks, unpack_series
from samovar.archive.schema import CHANNEL, CHUNK, RUN, SERIES
from samovar.core.entered import checked
from samovar.core.facts import Facts
from samovar.core.quantity import Channel


def run_of(row: Any, problems: Problems) -> Run:
    """A row of the run table as a record; facts that cannot be read are named, and cost only themselves."""
    facts = problems.readable(
        f"facts of r{row['id']:04d}:", [row], lambda r: checked(Facts, r["facts"] or {})
    )
    return Run(
        row["id"],
        row["review_id"],
        row["setup_id"],
        row["load"],
        row["pass_number"],
        row["state"],
        row["reason"],
        row["started"],
        row["duration_s"],
        row["interval_s"],
        row["channels"],
        row["samples"],
        facts[0] if facts else Facts(),
        row["left_out"],
        bool((row["course"] or {}).get("unguarded")),
    )


def insert_channels(connection: Connection, number: int, channels: Sequence[Channel]) -> None:
    """Enter a run's channels in their order."""
    rows = [
        {
            "run_id": number, "position": position, "name": c.name, "quantity": c.quantity, "unit": c.unit,
            "role": c.role, "domain": c.domain, "sensor": c.id,
        }
        for position, c in enumerate(channels)
    ]  # fmt: skip
    if rows:
        connection.execute(insert(CHANNEL), rows)


def channels_of(connection: Connection, number: int) -> list[Channel]:
    """A run's channels in their order."""
    rows = connection.execute(select(CHANNEL).where(CHANNEL.c.run_id == number).order_by(CHANNEL.c.position))
    return [Channel(r.name, r.quantity, r.unit, r.role, r.domain, r.sensor) for r in rows]


def journal_of(connection: Connection, number: int, channels: int) -> tuple[np.ndarray, np.ndarray]:
    """Times, shape (n,), and values, shape (m, n), of a run under way."""
    blocks = connection.execute(
        select(CHUNK.c.samples, CHUNK.c.data).where(CHUNK.c.run_id == number).order_by(CHUNK.c.id)
    )
    return unpack_blocks(((count, data) for count, data in blocks), channels)


def series_of(
    connection: Connection, number: int, channels: int, positions: Sequence[int] | None
) -> tuple[np.ndarray, np.ndarray]:
    """Times and values of a sealed run; only the channels at `positions` where given."""
    query = select(SERIES.c.position, SERIES.c.encoding, SERIES.c.data).where(SERIES.c.run_id == number)
    if positions is not None:
        query = query.where(SERIES.c.position.in_([-1, *positions]))
    rows = {p: unpack_series(e, d) for p, e, d in connection.execute(query)}
    time_s = rows.pop(-1, np.empty(0))
    wanted = range(channels) if positions is None else positions
    values = np.array([rows[p] for p in wanted]) if rows else np.empty((len(list(wanted)), len(time_s)))
    return time_s, values


def write_series(connection: Connection, number: int, time_s: np.ndarray, values: np.ndarray) -> None:
    """Write a run's samples as one series a channel."""
    rows = []
    for position, row in enumerate([time_s, *values], start=-1):
        encoding, data = pack_series(np.ascontiguousarray(row))
        rows.append({"run_id": number, "position": position, "encoding": encoding, "data": data})
    connection.execute(insert(SERIES), rows)


def close_run(
    connection: Connection, number: int, state: str, reason: str | None, time_s: np.ndarray, channels: int
) -> None:
    """Set a run's state and what is known of it at its end."""
    several = len(time_s) > 1
    connection.execute(
        update(RUN)
        .where(RUN.c.id == number)
        .values(
            state=state,
            reason=reason,
            duration_s=float(time_s[-1] - time_s[0]) if several else 0.0,
            interval_s=float(np.median(np.diff(time_s))) if several else None,
            samples=len(time_s) * channels,
            owner=None,
        )
    )
