"""What a person has said of a finished run, beside its samples: the averaging window, stretches left out, a note."""

from __future__ import annotations

import json
from collections.abc import Sequence

from sqlalchemy import Engine, delete, insert, select

from samovar.archive.schema import FINDING, META
from samovar.core.exclusions import Exclusion
from samovar.core.shown_text import one_line


class Annotations:
    """The annotations of an archive's runs. Setting a window or a stretch forgets the run's findings, which stood on
    the figures before; they are computed anew when next asked for."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def window(self, number: int) -> tuple[float, float] | None:
        """The averaging window that was set by hand, from and to, seconds; None where it is found by itself."""
        text = self._text(f"window of run {number}")
        if text is None:
            return None
        begin, end = (float(part) for part in text.split())
        return begin, end

    def set_window(self, number: int, span: tuple[float, float] | None) -> None:
        """Set a run's averaging window, or let it be found again."""
        self._keep(f"window of run {number}", None if span is None else f"{span[0]} {span[1]}", number)

    def excluded(self, number: int) -> list[Exclusion]:
        """The stretches left out of a run's figures, in order of time."""
        text = self._text(f"left out of run {number}")
        return [] if text is None else [Exclusion(*one) for one in json.loads(text)]

    def set_excluded(self, number: int, exclusions: Sequence[Exclusion]) -> None:
        """Leave these stretches, and no others, out of a run's figures."""
        plain = [(e.start_s, e.end_s, one_line(e.reason)) for e in exclusions]
        self._keep(f"left out of run {number}", json.dumps(plain) if plain else None, number)

    def by_hand(self, number: int) -> tuple[tuple[float, float] | None, list[Exclusion]]:
        """What a person has set of a run's figures: the window, and the stretches left out."""
        return self.window(number), self.excluded(number)

    def note(self, number: int) -> str:
        """What was noted about the whole run; empty where nothing was."""
        return self._text(f"note on run {number}") or ""

    def set_note(self, number: int, text: str) -> None:
        """Note something about the whole run; an empty text takes the note away."""
        self._keep(f"note on run {number}", one_line(text).strip() or None, None)

    def _text(self, key: str) -> str | None:
        with self._engine.connect() as connection:
            found = connection.execute(select(META.c.value).where(META.c.key == key)).scalar()
        return None if found is None else str(found)

    def _keep(self, key: str, value: str | None, findings_of: int | None) -> None:
        with self._engine.begin() as connection:
            connection.execute(delete(META).where(META.c.key == key))
            if value is not None:
                connection.execute(insert(META).values(key=key, value=value))
            if findings_of is not None:
                connection.execute(delete(FINDING).where(FINDING.c.run_id == findings_of))
