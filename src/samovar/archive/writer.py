"""Writing one run as it is recorded: every sample reaches the journal within a second."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import OperationalError

from samovar.archive.database import PATIENT_MS
from samovar.archive.samples import pack_block
from samovar.archive.schema import CHUNK, MARK
from samovar.core.recording import Mark

FLUSH_S = 0.6
IMPATIENT_MS = 40


def words_for(failure: OperationalError) -> str:
    """Why the archive cannot be written just now, and what to do."""
    if "full" in str(failure.orig).lower():
        return "the disk is full: recording goes on in memory; make room"
    return "the archive is held by another program: recording goes on in memory"


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
    """The sink of one run under way.

    A disk that is full or an archive held by another program loses nothing: samples stay in memory,
    `problem` says so, and they are written as soon as that works again.
    """

    def __init__(
        self, engine: Engine, number: int, pass_number: int = 1, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.number = number
        self.pass_number = pass_number
        self.problem: str | None = None
        self._engine = engine
        self._clock = clock
        self._times: list[float] = []
        self._rows: list[Sequence[float]] = []
        self._marks: list[Mark] = []
        self._flushed = clock() - FLUSH_S

    def append(self, at_s: float, values: Sequence[float]) -> None:
        """Take one sample."""
        self._times.append(at_s)
        self._rows.append(values)
        if self._clock() - self._flushed >= FLUSH_S:
            self.flush()

    def mark(self, mark: Mark) -> None:
        """Take a mark."""
        self._marks.append(mark)
        self.flush()

    def flush(self) -> bool:
        """Write what is in memory; False, with `problem` set, where that does not work now."""
        self._flushed = self._clock()
        if not self._times and not self._marks:
            return True
        try:
            with self._engine.connect() as connection, impatient(connection), connection.begin():
                if self._times:
                    connection.execute(
                        CHUNK.insert().values(
                            run_id=self.number,
                            samples=len(self._times),
                            data=pack_block(self._times, self._rows),
                        )
                    )
                for mark in self._marks:
                    connection.execute(
                        MARK.insert().values(run_id=self.number, at_s=mark.at_s, text=mark.text)
                    )
        except OperationalError as failure:
            self.problem = words_for(failure)
            return False
        self._times, self._rows, self._marks = [], [], []
        self.problem = None
        return True
