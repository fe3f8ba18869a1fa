"""After a rescue: what of each run is left is made one readable run again, out of figures where something of it is gone."""

from __future__ import annotations

import numpy as np
from sqlalchemy import Connection, delete, insert, select, update

from samovar.archive.archive import Archive
from samovar.archive.check import Damaged
from samovar.archive.damage import words_of
from samovar.archive.problems import Problems
from samovar.archive.run_rows import runs_of
from samovar.archive.samples import unpack_series
from samovar.archive.schema import CHANNEL, CHUNK, REVIEW, RUN, SERIES, SETUP
from samovar.archive.series import close_run, journal_of, series_of, write_series
from samovar.archive.sums import COMPUTED, PARTS, fits, parts_of, reseal
from samovar.core.recording import Array

LOST_ENTRY = "its entry was lost: when, under which load and in which review it was recorded is not known"


def mend(archive: Archive) -> list[Damaged]:
    """Make every run of a rescued archive readable again; the answer lists what of it could not be read.

    A run that lost something is left out of every comparison, with that as its reason: a person who has looked at it
    may bring it back.
    """
    damaged = [Damaged(None, words) for words in archive.unreadable()]
    with archive.connect() as connection, connection.begin():
        entries = set(connection.execute(select(RUN.c.id)).scalars())
        with_samples = set(connection.execute(select(SERIES.c.run_id).distinct()).scalars())
        for number in sorted(entries | with_samples):
            lost = []
            if number not in entries or not _entry_stands(connection, number):
                lost = [LOST_ENTRY]
                _enter(connection, number)
            lost += _mend(connection, number)
            if lost:
                reason = f"rescued: {'; '.join(lost)}"
                connection.execute(update(RUN).where(RUN.c.id == number).values(left_out=reason))
                damaged.append(Damaged(f"r{number:04d}", "; ".join(lost)))
            reseal(connection, number, *PARTS)
        _no_dangling(connection)
    return damaged


def _entry_stands(connection: Connection, number: int) -> bool:
    """Whether a run's entry can be read; facts that cannot be are taken out of it, the rest stands."""
    row = connection.execute(select(RUN).where(RUN.c.id == number)).mappings().one()
    problems = Problems()
    if not runs_of([row], problems):
        return False
    if problems.said:
        connection.execute(update(RUN).where(RUN.c.id == number).values(facts={}))
    return True


def _enter(connection: Connection, number: int) -> None:
    """An entry in place of one that is lost, or can no longer be read."""
    channels = connection.execute(select(CHANNEL.c.id).where(CHANNEL.c.run_id == number)).all()
    values: dict[str, object] = {
        "review_id": None, "setup_id": None, "load": "none", "pass_number": 1, "state": "interrupted", "reason": None,
        "started": "not known", "duration_s": 0.0, "interval_s": None, "channels": len(channels), "samples": 0, "facts": {},
        "course": None, "owner": None, "bench": "", "token": "",
    }  # fmt: skip
    # Never deleted first: all that hangs on it would go with it.
    if not connection.execute(update(RUN).where(RUN.c.id == number).values(**values)).rowcount:
        connection.execute(insert(RUN).values(id=number, **values))


def _no_dangling(connection: Connection) -> None:
    """Runs whose review or setup is gone go to the inbox; rows of runs that are gone go with them."""
    for column, table in ((RUN.c.setup_id, SETUP), (RUN.c.review_id, REVIEW)):
        there = select(table.c.id)
        gone = connection.execute(select(RUN.c.id).where(column.is_not(None), column.not_in(there))).scalars()
        for number in list(gone):
            connection.execute(update(RUN).where(RUN.c.id == number).values(setup_id=None, review_id=None))
            reseal(connection, number, "entry")
    runs = select(RUN.c.id)
    for table in [*(t for t in PARTS.values() if t is not RUN), CHUNK]:
        connection.execute(delete(table).where(table.c.run_id.not_in(runs)))


def _mend(connection: Connection, number: int) -> list[str]:
    """Put a run's samples in order; the answer says what of the run is lost."""
    parts = parts_of(connection, [number], *PARTS)
    unlike = parts.unlike(number)
    # What is computed is computed again.
    lost = [part for part in unlike if part not in COMPUTED]
    if lost != unlike:
        for part in COMPUTED:
            connection.execute(delete(PARTS[part]).where(PARTS[part].c.run_id == number))
    found = [words_of(lost)] if lost else []
    run = connection.execute(select(RUN).where(RUN.c.id == number)).one()
    channels = _in_order(connection, number)
    if run.state == "recording":
        time_s, values = journal_of(connection, number, channels)
        found.append("it was being recorded")
    elif (read := _series(connection, number, channels)) is None and channels == run.channels:
        return found
    elif read is None:
        time_s, values = series_of(connection, number, channels, None)
        found.append("the names of its channels are lost, and their samples with them")
    else:
        time_s, values, words = read
        found += words
    connection.execute(delete(SERIES).where(SERIES.c.run_id == number))
    connection.execute(delete(CHUNK).where(CHUNK.c.run_id == number))
    write_series(connection, number, time_s, values)
    connection.execute(update(RUN).where(RUN.c.id == number).values(channels=channels))
    state = "interrupted" if run.state == "recording" else run.state
    close_run(connection, number, state, run.reason, time_s, channels)
    return found


def _in_order(connection: Connection, number: int) -> int:
    """How many channels a run has: those up to the first whose name is lost."""
    places = set(connection.execute(select(CHANNEL.c.position).where(CHANNEL.c.run_id == number)).scalars())
    count = next(k for k in range(len(places) + 1) if k not in places)
    connection.execute(delete(CHANNEL).where(CHANNEL.c.run_id == number, CHANNEL.c.position >= count))
    return count


def _series(connection: Connection, number: int, channels: int) -> tuple[Array, Array, list[str]] | None:
    """Times, shape (n,), values, shape (m, n), and what is lost of them; None where nothing is."""
    rows = {
        row.position: row
        for row in connection.execute(select(SERIES).where(SERIES.c.run_id == number))
        if fits(row)
    }
    if set(rows) == set(range(-1, channels)):
        return None
    if -1 not in rows:
        return np.empty(0), np.empty((channels, 0)), ["its samples are lost with their times"]
    time_s = unpack_series(rows[-1].encoding, rows[-1].data)
    values = np.full((channels, len(time_s)), np.nan)
    missing = []
    names = {
        row.position: row.name
        for row in connection.execute(
            select(CHANNEL.c.position, CHANNEL.c.name).where(CHANNEL.c.run_id == number)
        )
    }
    for position in range(channels):
        row = rows.get(position)
        if row is None:
            missing.append(names[position])
        else:
            values[position] = unpack_series(row.encoding, row.data)
    return (
        time_s,
        values,
        [f"the samples of {', '.join(missing)} are lost"] if missing else ["channels are lost"],
    )
