"""What a person has said of a finished run, beside its samples: the averaging window, stretches left out, a note."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import Engine, delete, insert, select, update

from samovar.archive.run_rows import forget_finding
from samovar.archive.schema import ANNOTATION, EXCLUDED
from samovar.archive.sums import ANNOTATIONS, EXCLUSIONS, reseal
from samovar.core.exclusions import Exclusion
from samovar.core.shown_text import one_line


class Annotations:
    """The annotations of an archive's runs. Setting a window or a stretch forgets the run's findings, which stood on
    the figures before; they are computed anew when next asked for."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def window(self, number: int) -> tuple[float, float] | None:
        """The averaging window that was set by hand, from and to, seconds; None where it is found by itself."""
        row = self._row(number)
        return None if row is None or row.start_s is None or row.end_s is None else (row.start_s, row.end_s)

    def set_window(self, number: int, span: tuple[float, float] | None) -> None:
        """Set a run's averaging window, or let it be found again."""
        start_s, end_s = span if span is not None else (None, None)
        self._keep(number, True, start_s=start_s, end_s=end_s)

    def excluded(self, number: int) -> list[Exclusion]:
        """The stretches left out of a run's figures, in order of time."""
        query = (
            select(EXCLUDED).where(EXCLUDED.c.run_id == number).order_by(EXCLUDED.c.start_s, EXCLUDED.c.id)
        )
        with self._engine.connect() as connection:
            return [Exclusion(r.start_s, r.end_s, r.reason) for r in connection.execute(query)]

    def set_excluded(self, number: int, exclusions: Sequence[Exclusion]) -> None:
        """Leave these stretches, and no others, out of a run's figures."""
        rows = [
            {"run_id": number, "start_s": e.start_s, "end_s": e.end_s, "reason": one_line(e.reason)}
            for e in exclusions
        ]
        with self._engine.begin() as connection:
            connection.execute(delete(EXCLUDED).where(EXCLUDED.c.run_id == number))
            if rows:
                connection.execute(insert(EXCLUDED), rows)
            reseal(connection, number, EXCLUSIONS)
            forget_finding(connection, number)

    def by_hand(self, number: int) -> tuple[tuple[float, float] | None, list[Exclusion]]:
        """What a person has set of a run's figures: the window, and the stretches left out."""
        return self.window(number), self.excluded(number)

    def note(self, number: int) -> str:
        """What was noted about the whole run; empty where nothing was."""
        row = self._row(number)
        return "" if row is None else str(row.note)

    def set_note(self, number: int, text: str) -> None:
        """Note something about the whole run; an empty text takes the note away."""
        self._keep(number, False, note=one_line(text).strip())

    def _row(self, number: int) -> Any:
        with self._engine.connect() as connection:
            return connection.execute(select(ANNOTATION).where(ANNOTATION.c.run_id == number)).first()

    def _keep(self, number: int, moves_figures: bool, **values: Any) -> None:
        with self._engine.begin() as connection:
            mine = ANNOTATION.c.run_id == number
            if not connection.execute(update(ANNOTATION).where(mine).values(**values)).rowcount:
                connection.execute(insert(ANNOTATION).values(run_id=number, **values))
            reseal(connection, number, ANNOTATIONS)
            if moves_figures:
                forget_finding(connection, number)
