"""A run's rows in the tables: its entry, channels, journal and series, written and read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, fields
from typing import Annotated, Any

import numpy as np
from sqlalchemy import Connection, delete, insert, select, tuple_, update

from samovar.archive.damage import DamagedRun
from samovar.archive.problems import Problems
from samovar.archive.records import Run
from samovar.archive.samples import pack_series, unpack_blocks, unpack_series
from samovar.archive.schema import CHANGE, CHANNEL, CHUNK, FINDING, RESULT, RUN, SERIES
from samovar.archive.sums import CHANGES, CHANNELS, COMPUTED, ENTRY, fits, reseal, series_words, sum_of_series
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
            isinstance(course, dict) and bool(course.get("unguarded")), visible(row["bench"] or ""),
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
    reseal(connection, number, ENTRY, CHANNELS)


def channels_of(connection: Connection, number: int) -> list[Channel]:
    """A run's channels in their order."""
    rows = connection.execute(select(CHANNEL).where(CHANNEL.c.run_id == number).order_by(CHANNEL.c.position))
    return [channel_of(row) for row in rows]


def channel_of(row: Any) -> Channel:
    """A row of the channel table as a channel."""
    return Channel(row.name, row.quantity, row.unit, row.role, row.domain, row.sensor)


def change_of(row: Any) -> Change:
    """A row of the change table as a change."""
    return Change(row.at_s, row.what, row.name, row.value)


def insert_change(connection: Connection, number: int, change: Change) -> None:
    """Enter a change of load or fans."""
    connection.execute(insert(CHANGE).values(run_id=number, **asdict(change)))
    reseal(connection, number, CHANGES)


def forget_finding(connection: Connection, number: int) -> None:
    """Let go of what was computed of a run: what it stood on has changed, and it is computed anew when next asked for."""
    connection.execute(delete(FINDING).where(FINDING.c.run_id == number))
    connection.execute(delete(RESULT).where(RESULT.c.run_id == number))
    reseal(connection, number, *COMPUTED)


def journal_of(connection: Connection, number: int, channels: int) -> tuple[np.ndarray, np.ndarray]:
    """Times, shape (n,), and values, shape (m, n), of a run under way."""
    blocks = connection.execute(
        select(CHUNK.c.samples, CHUNK.c.data).where(CHUNK.c.run_id == number).order_by(CHUNK.c.id)
    )
    return unpack_blocks(((count, data) for count, data in blocks), channels)


def series_of(
    connection: Connection, number: int, channels: int, positions: Sequence[int] | None
) -> tuple[np.ndarray, np.ndarray]:
    """Times and values of a sealed run; only the channels at `positions` where given. Raises DamagedRun."""
    query = select(SERIES.c.position, SERIES.c.encoding, SERIES.c.data, SERIES.c.sum).where(
        SERIES.c.run_id == number
    )
    wanted = list(range(channels)) if positions is None else list(positions)
    if positions is not None:
        query = query.where(SERIES.c.position.in_([-1, *wanted]))
    rows = {row.position: row for row in connection.execute(query)}
    for position in (-1, *wanted):
        if position not in rows or not fits(rows[position]):
            raise DamagedRun(number, series_words(position))
    time_s, *values = (unpack_series(rows[p].encoding, rows[p].data) for p in (-1, *wanted))
    return time_s, np.array(values) if values else np.empty((0, len(time_s)))


def courses_of(connection: Connection, names: Mapping[int, str]) -> dict[int, tuple[np.ndarray, np.ndarray]]:
    """Times and values of one named channel of each of several sealed runs, in two statements."""
    channels = select(CHANNEL.c.run_id, CHANNEL.c.position, CHANNEL.c.name).where(
        CHANNEL.c.run_id.in_(list(names))
    )
    places = {r.run_id: r.position for r in connection.execute(channels) if r.name == names[r.run_id]}
    query = select(SERIES.c.run_id, SERIES.c.position, SERIES.c.encoding, SERIES.c.data, SERIES.c.sum)
    wanted = [(number, position) for number, place in places.items() for position in (-1, place)]
    found: dict[int, dict[int, np.ndarray]] = {}
    for row in connection.execute(query.where(tuple_(SERIES.c.run_id, SERIES.c.position).in_(wanted))):
        if fits(row):
            found.setdefault(row.run_id, {})[row.position] = unpack_series(row.encoding, row.data)
    return {
        number: (found[number][-1], found[number][place])
        for number, place in places.items()
        if set(found.get(number, ())) == {-1, place}
    }


def write_series(connection: Connection, number: int, time_s: np.ndarray, values: np.ndarray) -> None:
    """Write a run's samples as one series a channel."""
    rows = []
    for position, row in enumerate([time_s, *values], start=-1):
        encoding, data = pack_series(np.ascontiguousarray(row))
        total = sum_of_series(position, encoding, data)
        rows.append(
            {"run_id": number, "position": position, "encoding": encoding, "data": data, "sum": total}
        )
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
    reseal(connection, number, ENTRY)
