"""The archive as one thing: a database with its runs and reviews."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import TracebackType
from typing import Any

from sqlalchemy import Connection, Engine, func, select

from samovar.archive.clips import Clips
from samovar.archive.database import open_database
from samovar.archive.drafted import DraftStore
from samovar.archive.editions import EditionStore
from samovar.archive.photographs import PhotographStore
from samovar.archive.place import Place
from samovar.archive.plans import PlanStore
from samovar.archive.problems import Problems
from samovar.archive.reviews import ReviewStore
from samovar.archive.runs import RunStore
from samovar.archive.schema import (
    CLAIM,
    COURSE,
    DRAFTED,
    EDITION,
    LOAD,
    PHOTOGRAPH,
    PICTURE,
    PRODUCT,
    REVIEW,
    RIG,
    RUN,
    SEAL,
    SETUP,
)
from samovar.archive.shelf import ShelfStore
from samovar.archive.surfaces import Surfaces


class Framed:
    """What is framed in an archive: the shelf, the plans, the reviews. `problems` names what could not be read."""

    def __init__(self, engine: Engine) -> None:
        self.problems = Problems()
        self.reviews = ReviewStore(engine, self.problems)
        self.shelf = ShelfStore(engine, self.problems)
        self.plans = PlanStore(engine, self.problems)

    def unreadable(self) -> tuple[str, ...]:
        """What of all that is framed cannot be read, a line each."""
        self.reviews.reviews()
        self.shelf.products()
        self.shelf.rigs()
        self.plans.courses()
        self.plans.own_loads()
        return self.problems.said


class Archive(Framed):
    """An open archive. `where` is its place as it is shown, `read_only` whether this user may write nothing in it,
    `recovered` names the runs that were found interrupted when it was opened, `handed_on` those of which something
    waited on this machine for its server.

    Args:
        where: a file, or a server's address.
        look_only: runs that were interrupted are not made whole: for those who only look at the archive or copy it.

    Raises:
        ArchiveError: see `database.open_database`.
    """

    def __init__(self, where: str | Path | Place, look_only: bool = False) -> None:
        database = open_database(where)
        self._engine, self.place, self.read_only = database.engine, database.place, database.read_only
        self.where = self.place.words
        super().__init__(self._engine)
        self.runs = RunStore(self._engine, self.problems, self.place, self.read_only)
        self.editions = EditionStore(self._engine)
        self.drafts = DraftStore(self._engine)
        self.photographs = PhotographStore(self._engine)
        self.clips = Clips(self._engine)
        self.surfaces = Surfaces(self._engine)
        quiet = self.read_only or look_only
        self.handed_on = [] if quiet else self.runs.hand_on_waiting()
        self.recovered = [] if quiet else self.runs.recover()

    @staticmethod
    def usual_place() -> Path:
        """The archive in the user's data folder."""
        from platformdirs import user_data_path

        return user_data_path("samovar", appauthor=False) / "archive.sqlite"

    @contextmanager
    def all_or_nothing(self) -> Iterator[Framed]:
        """The framed part of the archive in one transaction: what is entered through it while this holds is kept
        together, or, where anything is raised, not at all."""
        with self._engine.connect() as connection:
            if connection.dialect.name == "sqlite":
                # Begun by hand: the driver would only begin with the first change.
                connection.exec_driver_sql("BEGIN IMMEDIATE")
            try:
                yield Framed(_OneConnection(connection))  # type: ignore[arg-type]
            except BaseException:
                connection.rollback()
                raise
            connection.commit()

    def state(self) -> tuple[object, ...]:
        """Something that is another once anything of what is shown has changed, by whomever: one cheap statement."""
        newest = [
            select(func.max(t.c.id)).scalar_subquery()
            for t in (RUN, SEAL, CLAIM, EDITION, PHOTOGRAPH, DRAFTED, PICTURE)
        ]
        kept = [
            select(func.sum(t.c.revision)).scalar_subquery()
            for t in (PRODUCT, RIG, COURSE, LOAD, REVIEW, SETUP)
        ]
        under_way = select(func.count()).where(RUN.c.state == "recording").scalar_subquery()
        with self._engine.connect() as connection:
            return tuple(connection.execute(select(*newest, *kept, under_way)).one())

    def connect(self) -> Connection:
        """A connection, for those who look at the archive as a whole."""
        return self._engine.connect()

    def close(self) -> None:
        """Let go of the database."""
        self._engine.dispose()

    def __enter__(self) -> Archive:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, value: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()


class _OneConnection:
    """Stands in for an engine: whoever connects or begins gets the one connection, in the transaction under way."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection

    def __getattr__(self, name: str) -> Any:
        return getattr(self._connection.engine, name)

    @contextmanager
    def begin(self) -> Iterator[Connection]:
        yield self._connection

    connect = begin
