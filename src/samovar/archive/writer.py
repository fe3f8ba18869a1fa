"""Writing one run as it is recorded: every sample reaches the journal within a second."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import SQLAlchemyError

from samovar.archive.database import PATIENT_MS
from samovar.archive.hand_readings import insert_reading
from samovar.archive.run_rows import insert_change
from samovar.archive.samples import pack_block
from samovar.archive.schema import CHUNK, MARK
from samovar.archive.sums import MARKS, reseal
from samovar.core.by_hand.reading import HandReading
from samovar.core.recording import Change, Mark

FLUSH_S = 0.6
IMPATIENT_MS = 40


def words_for(failure: SQLAlchemyError) -> str:
    """Why the archive cannot be written just now, and what to do."""
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
    """

    def __init__(
        self, engine: Engine, number: int, pass_number: int = 1, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.number = number
        self.pass_number = pass_number
        self.problem: str | None = None
        self.gone = False
        self._engine = engine
        self._file = _file_of(engine)
        self._is = _identity(self._file)
        self._clock = clock
        self._lock = threading.RLock()
        self._times: list[float] = []
        self._rows: list[Sequence[float]] = []
        self._marks: list[Mark] = []
        self._readings: list[HandReading] = []
        self._changes: list[Change] = []
        self._flushed = clock() - FLUSH_S

    def append(self, at_s: float, values: Sequence[float]) -> None:
        """Take one sample."""
        with self._lock:
            self._times.append(at_s)
            self._rows.append(values)
            if self._clock() - self._flushed >= FLUSH_S:
                self.flush()

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        """Take values that came too late for the sample of this moment: a further row of the same moment."""
        self.append(at_s, values)

    def mark(self, mark: Mark) -> None:
        """Take a mark."""
        with self._lock:
            self._marks.append(mark)
            self.flush()

    def hand_reading(self, reading: HandReading) -> None:
        """Take a value a person took; after the run is sealed, too."""
        with self._lock:
            self._readings.append(reading)
            self.flush()

    def change(self, change: Change) -> None:
        """Take a change of load or fans."""
        with self._lock:
            self._changes.append(change)
            self.flush()

    def flush(self) -> bool:
        """Write what is in memory; False, with `problem` set, where that does not work now."""
        with self._lock:
            self._flushed = self._clock()
            if self._is is not None and _identity(self._file) != self._is:
                self.gone, self.problem = True, "the archive's file is gone"
            if self.gone:
                return False
            if not (self._times or self._marks or self._readings or self._changes):
                return True
            try:
                with self._engine.connect() as connection, impatient(connection), connection.begin():
                    self._write(connection)
            except SQLAlchemyError as failure:
                self.problem = words_for(failure)
                return False
            self._times, self._rows, self._marks, self._readings, self._changes = [], [], [], [], []
            self.problem = None
            return True

    def _write(self, connection: Connection) -> None:
        if self._times:
            connection.execute(
                CHUNK.insert().values(
                    run_id=self.number, samples=len(self._times), data=pack_block(self._times, self._rows)
                )
            )
        for mark in self._marks:
            connection.execute(MARK.insert().values(run_id=self.number, at_s=mark.at_s, text=mark.text))
        if self._marks:
            reseal(connection, self.number, MARKS)
        for reading in self._readings:
            insert_reading(connection, self.number, reading)
        for change in self._changes:
            insert_change(connection, self.number, change)


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
