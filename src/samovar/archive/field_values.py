"""What the live fields of a review's article read now."""

from __future__ import annotations

from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_on
from samovar.core.live_fields import LiveField, ValueOf
from samovar.core.results.figure_words import figure_in_words
from samovar.core.units import Unreadable


def values_of(data: ReviewData) -> ValueOf:
    """Reads the fields of a review's article."""
    rigs = {s.name: s.rig_name for s in data.review.setups}

    def value(field: LiveField) -> str | None:
        try:
            figure = figure_in_words(field.figure, field.text)
        except Unreadable:
            return None
        if field.setup not in rigs or field.load not in data.review.loads:
            return None
        found = compare_on(data, field.load, figure, rigs[field.setup])
        rung = found.ladder.rung(field.setup)
        return None if rung is None else found.figure.text(rung.figure)

    return value
