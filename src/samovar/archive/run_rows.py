"""A run's rows in the tables: its entry, channels, journal and series, written and read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, fields
from typing import Annotated, Any

import numpy as np
from sqlalchemy import Connection, insert, select, update

from samovar.archive.problems import Problems
from samovar.archive.records import Run
from samovar.archive.samples import pack_series, unpack_blocks, unpack_series
from samovar.archive.schema import CHANGE, CHANNEL, CHUNK, RUN, SERIES
from samovar.core.entered import (
    TEXT_MOST,
    Check,
    Line,
    Words,
    between,
    checked,
    clean,
    one_of,
    strict,
    visible,
)
from samovar.core.facts import Facts
from samovar.core.quantity import Channel
from samovar.core.recording import Change

STATES = ("recording", "sealed", "stopped", "interrupted", "did-not-finish")


@strict
@dataclass(frozen=True, slots=True)
class _Entry:
    """What stands in a run's row beside its facts."""

    load: Annotated[str, Check(clean(TEXT_MOST))]
    pass_number: Annotated[int, between(0, 10**6)]
    state: Annotated[str, one_of(STATES, "state of a run")]
    reason: Words | None
    started: Line
    duration_s: Annotated[float, between(0.0, 1e12, "s")]
    interval_s: Annotated[float, between(0.0, 1e12, "s")] | None
    channels: Annotated[int, between(0, 10**6)]
    samples: Annotated[int, between(0, 10**12)]
    left_out: Words | None


_COLUMNS = tuple(f.name for f in fields(_Entry))


def runs_of(rows: Sequence[Any], problems: Problems) -> list[Run]:
    """Rows of the run table as records. A row that cannot be read costs itself, facts that cannot be only themselves;
    both are named."""
    facts_of: dict[str, Facts] = {}

    def facts(row: Any) -> Facts:
        # Many runs have one rig's facts: each is looked at once.
        key = repr(row["facts"])
        if key not in facts_of:
            found = problems.readable(
                f"facts of r{row['id']:04d}:", [row], lambda r: checked(Facts, r["facts"] or {})
            )
            facts_of[key] = found[0] if found else Facts()
        return facts_of[key]

    def run(row: Any) -> Run:
        entry = checked(_Entry, {name: row[name] for name in _COLUMNS}, f"r{row['id']:04d}")
        course = row["course"]
        return Run(
            row["id"], row["review_id"], row["setup_id"], visible(entry.load), entry.pass_number, entry.state, entry.reason,
            entry.started, entry.duration_s, entry.interval_s, entry.channels, entry.samples, facts(row), entry.left_out,
            isinstance(course, dict) and bool(course.get("unguarded")),
        )  # fmt: skip

    return problems.readable("run", rows, run)


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


def insert_change(connection: Connection, number: int, change: Change) -> None:
    """Enter a change of load or fans."""
    connection.execute(insert(CHANGE).values(run_id=number, **asdict(change)))


def changes_of(connection: Connection, number: int) -> tuple[Change, ...]:
    """A run's changes of load and fans, in order of time."""
    rows = connection.execute(
        select(CHANGE).where(CHANGE.c.run_id == number).order_by(CHANGE.c.at_s, CHANGE.c.id)
    )
    return tuple(Change(r.at_s, r.what, r.name, r.value) for r in rows)


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
