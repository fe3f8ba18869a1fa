"""Runs that damage has reached: each costs itself, is named with what of it cannot be read, and counts in no figure."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from sqlalchemy import Connection
from sqlalchemy.exc import DatabaseError

from samovar.archive.place import ArchiveError
from samovar.archive.records import Run
from samovar.archive.sums import COMPUTED, Parts, checked_series

LOOKED_THROUGH = 4_000_000
"""Samples: those of a run of so many are looked through within a tenth of a second, whenever its review is opened. Of
longer ones `samovar archive check` and whatever reads them find what is wrong."""


DAMAGED = "damaged"
"""Why such a run is left out begins so."""
UNREADABLE = "its samples cannot be read"


class DamagedRun(ArchiveError):
    """A run, or a part of it, cannot be read."""

    def __init__(self, number: int, what: str) -> None:
        self.number, self.what = number, what
        super().__init__(
            f"r{number:04d}: damaged: {what}; samovar archive check lists all damage, and a copy may have it whole"
        )


def samples_of(connection: Connection, run: Run) -> str | None:
    """What is wrong with the samples of a run that is sealed; None where all of them are whole."""
    try:
        return checked_series(connection, run.number, run.channels)
    except DatabaseError:
        return UNREADABLE


def words_of(parts: Sequence[str]) -> str:
    """What is wrong with parts that do not fit their checksums."""
    return f"no longer what was kept: its {' and '.join(parts)}"


class Damage:
    """What was found damaged in an archive since it was opened, by the run's number."""

    def __init__(self) -> None:
        self.known: dict[int, str] = {}
        self._seen: set[int] = set()

    def note(self, number: int, what: str) -> None:
        """A run that was found damaged."""
        self.known[number] = what

    def settle(self, found: dict[int, str]) -> None:
        """What a look through the whole archive has found: that, and no more, is damaged."""
        self.known = dict(found)

    def look(self, connection: Connection, runs: Iterable[Run], parts: Parts) -> None:
        """Look at runs that are about to be compared: their parts, and once since the archive was opened their samples."""
        for run in runs:
            wrong = [part for part in parts.unlike(run.number) if part not in COMPUTED]
            if wrong:
                self.note(run.number, words_of(wrong))
            elif (
                run.number not in self._seen
                and run.samples <= LOOKED_THROUGH
                and connection.dialect.name == "sqlite"
            ):
                # A server looks after its own pages, and all samples are too much to send for this.
                self._seen.add(run.number)
                series = None if run.state == "recording" else samples_of(connection, run)
                if series is not None:
                    self.note(run.number, series)

    def marked(self, run: Run) -> Run:
        """The run as it counts: one that is damaged is left out, with that reason."""
        what = self.known.get(run.number)
        return run if what is None else replace(run, left_out=f"{DAMAGED}: {what}")
