"""Writing one run as it is recorded: every sample reaches the journal within a second."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import SQLAlchemyError

from samovar.archive.database import PATIENT_MS, in_words
from samovar.archive.journal import Journal, Pending
from samovar.archive.place import ArchiveError
from samovar.core.by_hand.reading import HandReading
from samovar.core.marks import Change, Mark

FLUSH_S = 0.6
IMPATIENT_MS = 40
AGAIN_S = 1.0
"""A server that cannot be reached is tried again so often."""


def words_for(failure: SQLAlchemyError) -> str:
    """Why the archive cannot be written just now, and what becomes of the run meanwhile."""
    text = str(getattr(failure, "orig", failure)).lower()
    if "full" in text:
        return "the disk is full: recording goes on in memory; make room"
    if "locked" in text or "busy" in text:
        return "the archive is held by another program: recording goes on in memory"
    return f"the archive cannot be written ({text.splitlines()[0][:120]}): recording goes on in memory"


@contextmanager
def impatient(connection: Connection) -> Iterator[None]:
    """A connection that gives up on a held archive almost at once: the next sample will not wait."""
    if connection.dialect.name != "sqlite":
        yield
        return
    connection.exec_driver_sql(f"PRAGMA busy_timeout={IMPATIENT_MS}")
    connection.commit()
    try:
        yield
    finally:
        connection.exec_driver_sql(f"PRAGMA busy_timeout={PATIENT_MS}")
        connection.commit()


class RunWriter:
    """The sink of one run under way; safe to be used from several threads.

    A disk that is full or an archive held by another program loses nothing: what came stays in memory, `problem`
    says so, and it is written as soon as that works again. Where the archive's file is no longer the one that was
    opened (deleted, moved away, replaced), nothing is written any more and `gone` is set.

    Into a server, a thread of its own writes, so that no sample waits for the network; what the server does not take
    stays in memory and in the `journal`, a file of this machine.
    """

    def __init__(
        self,
        engine: Engine,
        number: int,
        pass_number: int = 1,
        clock: Callable[[], float] = time.monotonic,
        journal: Journal | None = None,
    ) -> None:
        self.number = number
        self.pass_number = pass_number
        self.problem: str | None = None
        self.gone = False
        self.journal = journal
        self._engine = engine
        self._file = _file_of(engine)
        self._is = _identity(self._file)
        self._clock = clock
        self._lock = threading.RLock()
        self._writing = threading.RLock()
        self._pending = Pending()
        self._journaled = Pending()
        self._flushed = clock() - FLUSH_S
        self._wake = threading.Event()
        self._apart: threading.Thread | None = None
        if journal is not None:
            self._apart = threading.Thread(target=self._write_apart, name="archive writer", daemon=True)
            self._apart.start()

    def append(self, at_s: float, values: Sequence[float]) -> None:
        """Take one sample."""
        with self._lock:
            self._pending.times.append(at_s)
            self._pending.rows.append(values)
        if self._clock() - self._flushed >= FLUSH_S:
            self._write_soon()

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        """Take values that came too late for the sample of this moment: a further row of the same moment."""
        self.append(at_s, values)

    def mark(self, mark: Mark) -> None:
        """Take a mark."""
        with self._lock:
            self._pending.marks.append(mark)
        self._write_soon()

    def hand_reading(self, reading: HandReading) -> None:
        """Take a value a person took; after the run is sealed, too."""
        with self._lock:
            self._pending.readings.append(reading)
        self._write_soon()

    def change(self, change: Change) -> None:
        """Take a change of load or fans."""
        with self._lock:
            self._pending.changes.append(change)
        self._write_soon()

    def _write_soon(self) -> None:
        if self._apart is not None:
            self._wake.set()
        else:
            self.flush()

    def _write_apart(self) -> None:
        while self._apart is not None:
            self._wake.wait()
            self._wake.clear()
            while self._apart is not None and not self.flush():
                time.sleep(AGAIN_S)

    def unable(self, failure: SQLAlchemyError) -> None:
        """The archive did not take what was to be written now."""
        self.problem = words_for(failure)

    def flush(self) -> bool:
        """Write what is in memory; False, with `problem` set, where that does not work now."""
        with self._writing:
            self._flushed = self._clock()
            if self._is is not None and _identity(self._file) != self._is:
                self.gone, self.problem = True, "the archive's file is gone"
            if self.gone:
                return False
            with self._lock:
                new, self._pending = self._pending, Pending()
            both = self._journaled + new
            if not both:
                return True
            try:
                with self._engine.connect() as connection, impatient(connection), connection.begin():
                    both.write(connection, self.number)
            except SQLAlchemyError as failure:
                self.unable(failure)
                self._put_back(new, failure)
                return False
            self._journaled = Pending()
            self.problem = None
            if self.journal is not None:
                self.journal.drop()
            return True

    def _put_back(self, new: Pending, failure: SQLAlchemyError) -> None:
        """What could not be written stays in memory, and what goes to a server in its journal too."""
        if self.journal is not None and new:
            try:
                self.journal.keep(new)
            except (SQLAlchemyError, ArchiveError) as problem:
                self.problem = (
                    f"{in_words(failure)}; nor can this machine keep it ({problem}): it stays in memory"
                )
            else:
                self._journaled = self._journaled + new
                self.problem = f"{in_words(failure)}; recording goes on in memory and in {self.journal.path}"
                return
        with self._lock:
            self._pending = new + self._pending

    def leave_to_journal(self, state: str, reason: str | None) -> Path | None:
        """The server does not come back in time: the run ends in its journal, to be handed on later. The answer is the
        file; None where there is none."""
        if self.journal is None:
            return None
        with self._writing:
            with self._lock:
                new, self._pending = self._pending, Pending()
            if new:
                self.journal.keep(new)
                self._journaled = self._journaled + new
            self.journal.end(state, reason)
        self.close()
        return self.journal.path

    def close(self) -> None:
        """No further samples come: what is still said of the run is written by those who say it."""
        self._apart = None
        self._wake.set()


def _file_of(engine: Engine) -> str | None:
    """The archive's file; None where it is no file."""
    return engine.url.database if engine.dialect.name == "sqlite" else None


def _identity(file: str | None) -> tuple[int, int] | None:
    """Which file it is, whatever it is called; None where there is none."""
    if file is None:
        return None
    try:
        found = Path(file).stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino
