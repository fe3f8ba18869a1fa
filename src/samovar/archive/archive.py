"""The archive as one thing: a database with its runs and reviews."""

from __future__ import annotations

from pathlib import Path
from types import TracebackType

from samovar.archive.database import open_database
from samovar.archive.plans import PlanStore
from samovar.archive.reviews import ReviewStore
from samovar.archive.runs import RunStore
from samovar.archive.shelf import ShelfStore


class Archive:
    """An open archive. `recovered` names the runs that were found interrupted when it was opened.

    Raises:
        ArchiveError: see `database.open_database`.
    """

    def __init__(self, where: str | Path) -> None:
        self.where = str(where)
        self._engine = open_database(where)
        self.runs = RunStore(self._engine)
        self.reviews = ReviewStore(self._engine)
        self.shelf = ShelfStore(self._engine)
        self.plans = PlanStore(self._engine)
        self.recovered = self.runs.recover()

    @staticmethod
    def usual_place() -> Path:
        """The archive in the user's data folder."""
        from platformdirs import user_data_path

        return user_data_path("samovar", appauthor=False) / "archive.sqlite"

    def close(self) -> None:
        """Let go of the database."""
        self._engine.dispose()

    def __enter__(self) -> Archive:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, value: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()
