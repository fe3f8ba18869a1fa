"""Looking through a whole archive: what in it is damaged, and in what."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import Connection, select
from sqlalchemy.exc import DatabaseError, OperationalError

from samovar.archive.archive import Archive
from samovar.archive.backup import Progress, no_progress
from samovar.archive.damage import UNREADABLE, samples_of, words_of
from samovar.archive.records import Run
from samovar.archive.schema import RUN
from samovar.archive.sums import BATCH, PARTS, batches, parts_of

MOST_OF_STRUCTURE = 20
"""So many lines of what is wrong with the file's own order: more say nothing new."""


@dataclass(frozen=True)
class Damaged:
    """One thing that is damaged: a run by its name, or, without one, something of the archive itself."""

    run: str | None
    what: str


@dataclass(frozen=True)
class Checked:
    """What a look through an archive found: how many runs there are, and all that is damaged."""

    archive: str
    runs: int
    damaged: tuple[Damaged, ...]

    @property
    def whole(self) -> bool:
        """Whether nothing is."""
        return not self.damaged

    def by_run(self) -> dict[int, str]:
        """What is damaged of runs, by their numbers."""
        found: dict[int, list[str]] = {}
        for one in self.damaged:
            if one.run is not None:
                found.setdefault(int(one.run[1:]), []).append(one.what)
        return {number: "; ".join(words) for number, words in found.items()}


def check(archive: Archive, progress: Progress = no_progress) -> Checked:
    """Hold everything in an archive against its checksums; nothing is changed by it.

    Args:
        archive: the archive.
        progress: told how many runs of how many were looked through.
    """
    damaged: list[Damaged] = []
    with archive.connect() as connection:
        if connection.dialect.name == "sqlite":
            damaged += _structure(connection)
    named: list[Run] = []
    try:
        archive.unreadable()
        named = archive.runs.runs()
    except OperationalError:
        raise
    except DatabaseError as problem:
        damaged.append(Damaged(None, f"a table cannot be read ({problem.orig}); rescue saves what still can"))
    damaged += [Damaged(None, words) for words in archive.problems.said]
    known = {run.number for run in named}
    with archive.connect() as connection:
        # A run whose entry cannot be read is damaged all the same, and counts.
        try:
            numbers = list(connection.execute(select(RUN.c.id).order_by(RUN.c.id)).scalars())
        except DatabaseError:
            numbers = sorted(known)
        damaged += [
            Damaged(f"r{number:04d}", "its entry cannot be read") for number in numbers if number not in known
        ]
        for done, some in enumerate(batches(named)):
            progress(done * BATCH, len(named))
            damaged += _of_runs(connection, some)
    damaged += _of_pictures(archive)
    progress(len(named), len(named))
    return Checked(archive.where, len(numbers), tuple(damaged))


def _of_pictures(archive: Archive) -> list[Damaged]:
    """Temperature pictures have a checksum each."""
    try:
        numbers = archive.surfaces.damaged()
    except OperationalError:
        raise
    except DatabaseError as problem:
        return [Damaged(None, f"temperature pictures cannot be read ({problem.orig})")]
    return [
        Damaged(f"r{number:04d}", "a temperature picture is no longer what was kept") for number in numbers
    ]


def _structure(connection: Connection) -> list[Damaged]:
    """What is wrong with the file's own order."""
    try:
        lines = connection.exec_driver_sql(f"PRAGMA integrity_check({MOST_OF_STRUCTURE})").scalars().all()
    except DatabaseError as problem:
        lines = [str(problem.orig)]
    said = [" ".join(str(line).split()) for line in lines]
    return [Damaged(None, f"the file's order: {line}") for line in said if line != "ok"]


def _of_runs(connection: Connection, runs: Sequence[Run]) -> list[Damaged]:
    numbers = [run.number for run in runs]
    try:
        parts = parts_of(connection, numbers, *PARTS)
    except DatabaseError:
        # One of them cannot be read: each is asked for alone.
        if len(runs) == 1:
            return [Damaged(runs[0].id, UNREADABLE)]
        return [found for run in runs for found in _of_runs(connection, [run])]
    damaged = []
    for run in runs:
        # A run under way is written to by others while it is looked at.
        if run.state == "recording":
            continue
        if unlike := parts.unlike(run.number):
            damaged.append(Damaged(run.id, words_of(unlike)))
        if (what := samples_of(connection, run)) is not None:
            damaged.append(Damaged(run.id, what))
    return damaged
