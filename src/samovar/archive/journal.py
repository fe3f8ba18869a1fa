"""What a server could not take of a run: kept in a file of this machine, and handed on when the server is back, even
after the program was started anew."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, delete, insert, select, update
from sqlalchemy.exc import SQLAlchemyError

from samovar.archive.database import Database, open_database
from samovar.archive.hand_readings import insert_reading, readings_among
from samovar.archive.owner import owner_lives
from samovar.archive.place import ArchiveError, Place, files_of
from samovar.archive.run_rows import change_of, insert_change
from samovar.archive.samples import joined_samples, pack_block
from samovar.archive.schema import CHANGE, CHANNEL, CHUNK, HAND_READING, MARK, META, RUN, SERIES
from samovar.archive.series import close_run, journal_of, series_of, write_series
from samovar.archive.sums import CHANNELS, ENTRY, MARKS, reseal
from samovar.core.by_hand.reading import HandReading
from samovar.core.marks import Change, Mark

_FOR = "waits for"
"""Under this key a journal names the server that it is for."""


@dataclass
class Pending:
    """What came of a run and is not written yet: samples, a time and a row of values each, and what was said."""

    times: list[float] = field(default_factory=list)
    rows: list[Sequence[float]] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)
    readings: list[HandReading] = field(default_factory=list)
    changes: list[Change] = field(default_factory=list)

    def __bool__(self) -> bool:
        return bool(self.times or self.marks or self.readings or self.changes)

    def __add__(self, later: Pending) -> Pending:
        return Pending(
            self.times + later.times,
            self.rows + later.rows,
            self.marks + later.marks,
            self.readings + later.readings,
            self.changes + later.changes,
        )

    def write(self, connection: Connection, number: int) -> None:
        """Enter it in a run's journal."""
        if self.times:
            block = pack_block(self.times, self.rows)
            connection.execute(insert(CHUNK).values(run_id=number, samples=len(self.times), data=block))
        for mark in self.marks:
            connection.execute(insert(MARK).values(run_id=number, at_s=mark.at_s, text=mark.text))
        if self.marks:
            reseal(connection, number, MARKS)
        for reading in self.readings:
            insert_reading(connection, number, reading)
        for change in self.changes:
            insert_change(connection, number, change)


def folder() -> Path:
    """Where journals wait on this machine."""
    from platformdirs import user_state_path

    return user_state_path("samovar", appauthor=False) / "waiting"


class Journal:
    """The file for one run that is recorded into a server; made when the server first fails to answer.

    Args:
        engine: the server's.
        server: its place.
        number: the run's number there.
    """

    def __init__(self, engine: Engine, server: Place, number: int) -> None:
        with engine.connect() as connection:
            run = connection.execute(select(RUN).where(RUN.c.id == number)).mappings().one()
            rows = connection.execute(select(CHANNEL).where(CHANNEL.c.run_id == number)).mappings()
            # All that the file needs of the server is asked for while it answers.
            self._channels = [{k: v for k, v in row.items() if k != "id"} for row in rows]
        self._run = {**run, "review_id": None, "setup_id": None}
        self._server, self.number = server, number
        self.path = folder() / f"r{number:04d}-{run['token'][:12]}.sqlite"
        self._base: Database | None = None

    @property
    def used(self) -> bool:
        """Whether anything waits in it."""
        return self._base is not None

    def keep(self, pending: Pending) -> None:
        """Keep what the server did not take. Raises ArchiveError, SQLAlchemyError: nor can this machine."""
        base = self._open()
        with base.engine.begin() as connection:
            pending.write(connection, self.number)

    def end(self, state: str, reason: str | None) -> None:
        """Keep how the run ended: from now on, whoever opens the server's archive here may hand it on."""
        with self._open().engine.begin() as connection:
            values = {"state": state, "reason": reason, "owner": None}
            connection.execute(update(RUN).where(RUN.c.id == self.number).values(**values))
            reseal(connection, self.number, ENTRY)

    def drop(self) -> None:
        """The server has it all: the file is not wanted any more."""
        if self._base is not None:
            self._base.engine.dispose()
            self._base = None
            _remove(self.path)

    def _open(self) -> Database:
        if self._base is None:
            self.path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            base = open_database(self.path)
            with base.engine.begin() as connection:
                connection.execute(insert(META).values(key=_FOR, value=self._server.words))
                connection.execute(insert(RUN).values(**self._run))
                connection.execute(insert(CHANNEL), self._channels)
                reseal(connection, self.number, ENTRY, CHANNELS)
            self._base = base
        return self._base


def waiting_for(server: Place) -> list[Path]:
    """The journals that wait for a server, and whose program is gone or done with them."""
    found = []
    for path in sorted(folder().glob("r*.sqlite")):
        with contextlib.suppress(sqlite3.Error, OSError), contextlib.closing(_looked(path)) as base:
            named = base.execute("SELECT value FROM meta WHERE key = ?", (_FOR,)).fetchone()
            run = base.execute("SELECT state, owner FROM run").fetchone()
            if (
                named == (server.words,)
                and run is not None
                and not (run[0] == "recording" and _lives(run[1]))
            ):
                found.append(path)
    return found


def _looked(path: Path) -> sqlite3.Connection:
    return sqlite3.connect(Place(path).read_only_uri(), uri=True, timeout=1.0)


def _lives(owner: str | None) -> bool:
    import json

    return owner_lives(json.loads(owner)) if owner else False


def hand_on(engine: Engine, path: Path) -> str | None:
    """Hand a journal on to its run on the server; the answer names the run, None where another program does it now.

    Raises:
        ArchiveError: the journal cannot be read; it stays where it is.
        SQLAlchemyError: the server cannot take it now; the journal stays.
    """
    base = open_database(path)
    try:
        with _held(base.engine) as journal:
            if journal is None:
                return None
            number = _take(engine, journal)
    finally:
        base.engine.dispose()
    _remove(path)
    return f"r{number:04d}"


@contextlib.contextmanager
def _held(engine: Engine) -> Iterator[Connection | None]:
    """The journal for this program alone; None where another has it."""
    with engine.connect() as connection:
        try:
            connection.exec_driver_sql("BEGIN EXCLUSIVE")
        except SQLAlchemyError:
            yield None
            return
        yield connection
        connection.rollback()


def _take(engine: Engine, journal: Connection) -> int:
    mine = journal.execute(select(RUN)).mappings().first()
    if mine is None:
        raise ArchiveError(
            f"{engine.url.render_as_string()}: a journal without a run; nothing of it can be handed on"
        )
    here = int(mine["id"])
    time_s, values = (
        journal_of(journal, here, mine["channels"])
        if mine["state"] == "recording" or not _has_series(journal, here)
        else series_of(journal, here, mine["channels"], None)
    )
    with engine.begin() as server:
        query = select(RUN.c.id, RUN.c.state).where(RUN.c.token == mine["token"])
        there = server.execute(query.with_for_update()).first()
        number = there.id if there is not None else _enter_again(server, journal, mine)
        _take_words(server, journal, here, number)
        state, reason = mine["state"], mine["reason"]
        if state == "recording":
            state, reason = "interrupted", "the program ended while recording"
        old = (
            series_of(server, number, mine["channels"], None)
            if there is not None and there.state != "recording"
            else journal_of(server, number, mine["channels"])
        )
        time_s, values = joined_samples([old, (time_s, values)])
        server.execute(delete(SERIES).where(SERIES.c.run_id == number))
        server.execute(delete(CHUNK).where(CHUNK.c.run_id == number))
        write_series(server, number, time_s, values)
        close_run(server, number, state, reason, time_s, mine["channels"])
    return int(number)


def _has_series(connection: Connection, number: int) -> bool:
    return connection.execute(select(SERIES.c.id).where(SERIES.c.run_id == number)).first() is not None


def _enter_again(server: Connection, journal: Connection, mine: Any) -> int:
    """A run that the server no longer knows, from an older copy say, is entered in its inbox."""
    values = {k: v for k, v in mine.items() if k != "id"}
    number = server.execute(insert(RUN).values(**values)).inserted_primary_key
    assert number is not None
    rows = journal.execute(select(CHANNEL).where(CHANNEL.c.run_id == mine["id"])).mappings()
    server.execute(
        insert(CHANNEL), [{**{k: v for k, v in r.items() if k != "id"}, "run_id": number[0]} for r in rows]
    )
    reseal(server, number[0], ENTRY, CHANNELS)
    return int(number[0])


def _take_words(server: Connection, journal: Connection, here: int, number: int) -> None:
    """Marks, readings and changes that the server has not: a journal may be handed on twice where a program is cut off
    in between."""
    marks = {(m.at_s, m.text) for m in server.execute(select(MARK).where(MARK.c.run_id == number))}
    readings = readings_among(server.execute(select(HAND_READING).where(HAND_READING.c.run_id == number)))
    changes = [change_of(c) for c in server.execute(select(CHANGE).where(CHANGE.c.run_id == number))]
    new = Pending()
    for mark in journal.execute(select(MARK).where(MARK.c.run_id == here).order_by(MARK.c.id)):
        if (mark.at_s, mark.text) not in marks:
            new.marks.append(Mark(mark.at_s, mark.text))
    rows = journal.execute(select(HAND_READING).where(HAND_READING.c.run_id == here))
    new.readings = [reading for reading in readings_among(rows) if reading not in readings]
    rows = journal.execute(select(CHANGE).where(CHANGE.c.run_id == here).order_by(CHANGE.c.id))
    new.changes = [change for row in rows if (change := change_of(row)) not in changes]
    new.write(server, number)


def _remove(path: Path) -> None:
    for one in files_of(path):
        with contextlib.suppress(OSError):
            one.unlink()
