"""What the live fields of a review's article read now: a setup's figure, or how far one setup is ahead of another."""

from __future__ import annotations

from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_on
from samovar.core.compare.advantage import advantage, size_text
from samovar.core.live_fields import AHEAD_OF, BEHIND, LiveField, ValueOf
from samovar.core.results.figure import Figure
from samovar.core.results.figure_words import figure_in_words
from samovar.core.units import Unreadable


def values_of(data: ReviewData) -> ValueOf:
    """Reads the fields of a review's article."""
    names = {s.name for s in data.review.setups}

    def value(field: LiveField) -> str | None:
        try:
            figure = figure_in_words(field.figure, field.text)
        except Unreadable:
            return None
        if field.load not in data.review.loads:
            return None
        if field.setup in names:
            return setup_text(data, figure, field.setup, field.load)
        for words in (AHEAD_OF, BEHIND):
            for at in _places(field.setup, words):
                name, other = field.setup[:at], field.setup[at + len(words) :]
                if name in names and other in names:
                    return ahead_text(data, figure, name, other, field.load, words == BEHIND)
        return None

    return value


def setup_text(data: ReviewData, figure: Figure, setup: str, load: str) -> str | None:
    """A setup's figure under a load; None where no run tells it."""
    found = compare_on(data, load, figure, _rig_of(data, setup))
    rung = found.ladder.rung(setup)
    return None if rung is None else found.figure.text(rung.figure)


def ahead_text(
    data: ReviewData, figure: Figure, name: str, other: str, load: str, behind: bool = False
) -> str | None:
    """How far a setup is ahead of another, or behind it; None where no run tells it."""
    found = compare_on(data, load, figure, _rig_of(data, name))
    base = found.ladder.rung(other)
    gap = found.ladder.difference(name, other, 0.0)
    if base is None or gap is None:
        return None
    return size_text(found.figure, advantage(found.figure, gap, behind), base.figure.value)


def _rig_of(data: ReviewData, setup: str) -> str:
    return next(s.rig_name for s in data.review.setups if s.name == setup)


def _places(text: str, words: str) -> list[int]:
    return [k for k in range(len(text)) if text.startswith(words, k)]
