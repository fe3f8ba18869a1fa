"""The samples of runs in their rows: the journal of one under way, one series a channel of one that is over."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from sqlalchemy import Connection, delete, insert, select, tuple_, update

from samovar.archive.damage import DamagedRun, words_of
from samovar.archive.run_rows import change_of, channel_of, forget_finding, insert_channels
from samovar.archive.samples import pack_series, unpack_blocks, unpack_series
from samovar.archive.schema import CHANNEL, CHUNK, RUN, SERIES
from samovar.archive.sums import (
    CHANGES,
    CHANNELS,
    ENTRY,
    MARKS,
    fits,
    parts_of,
    reseal,
    series_words,
    sum_of_series,
)
from samovar.core.marks import Mark
from samovar.core.quantity import Channel
from samovar.core.recording import Recording


def recording_of(connection: Connection, number: int, positions: Sequence[int] | None) -> Recording:
    """A run's samples and marks; only the channels at `positions` where given. Raises KeyError, DamagedRun."""
    parts = parts_of(connection, [number], ENTRY, CHANNELS, MARKS, CHANGES)
    row = next(iter(parts.of(ENTRY, number)), None)
    if row is None:
        raise KeyError(f"no run r{number:04d}")
    # A damaged entry costs the run its figures; its samples can be looked at all the same.
    if wrong := [part for part in parts.unlike(number) if part != ENTRY]:
        raise DamagedRun(number, words_of(wrong))
    channels = [channel_of(one) for one in sorted(parts.of(CHANNELS, number), key=lambda r: r.position)]
    if row.state == "recording":
        time_s, values = journal_of(connection, number, row.channels)
        values = values if positions is None else values[list(positions)]
    else:
        time_s, values = series_of(connection, number, row.channels, positions)
    marks = sorted(parts.of(MARKS, number), key=lambda m: m.at_s)
    changes = sorted(parts.of(CHANGES, number), key=lambda c: c.at_s)
    return Recording(
        tuple(channels if positions is None else [channels[p] for p in positions]),
        time_s,
        values,
        tuple(Mark(m.at_s, m.text) for m in marks),
        _stopped_early(row.state, row.course),
        tuple(change_of(one) for one in changes),
    )


def _stopped_early(state: str, course: object) -> bool | None:
    """Whether a run ended against its will: of our own we know it, of a log that was brought in only what it shows."""
    if state == "did-not-finish":
        return True
    return None if course is None else False


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
    _write(connection, number, [time_s, *values], -1)


def _write(connection: Connection, number: int, series: Sequence[np.ndarray], first: int) -> None:
    rows = []
    for position, row in enumerate(series, first):
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


def seal_journal(connection: Connection, number: int, state: str, reason: str | None) -> None:
    """Close a run under way: its journal becomes one series a channel."""
    count = connection.execute(select(RUN.c.channels).where(RUN.c.id == number)).scalar_one()
    time_s, values = journal_of(connection, number, count)
    write_series(connection, number, time_s, values)
    connection.execute(delete(CHUNK).where(CHUNK.c.run_id == number))
    close_run(connection, number, state, reason, time_s, count)


def widen(connection: Connection, number: int, channels: Sequence[Channel], values: np.ndarray) -> None:
    """Give a sealed run further channels, behind its own. Raises KeyError: no such run."""
    row = connection.execute(select(RUN.c.channels, RUN.c.samples).where(RUN.c.id == number)).first()
    if row is None:
        raise KeyError(f"no run r{number:04d}")
    _write(connection, number, list(values), row.channels)
    connection.execute(
        update(RUN)
        .where(RUN.c.id == number)
        .values(channels=row.channels + len(channels), samples=row.samples + values.size)
    )
    insert_channels(connection, number, channels, row.channels)
    forget_finding(connection, number)
