"""What a load that ended by itself gives: the time it took, and the score in what it printed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from samovar.bench.loads.catalogue import OwnLoad
from samovar.bench.loads.protocol import LoadEnd
from samovar.bench.loads.score import find_score
from samovar.core.by_hand.reading import HandReading
from samovar.core.marks import Mark

TIME_HALF_WIDTH_S = 0.1
"""A command's start and exit are each seen within this."""


def times_of(ends: Sequence[tuple[str, LoadEnd]], at_s: float) -> list[HandReading]:
    """How long each command took, from start to exit."""
    return [
        HandReading(
            at_s, "time", round(end.seconds, 2), TIME_HALF_WIDTH_S, "s", f"{name}, from start to exit"
        )
        for name, end in ends
        if end.seconds > 0
    ]


def scores_of(
    ends: Sequence[tuple[str, LoadEnd]], own: Mapping[str, OwnLoad], at_s: float
) -> tuple[list[HandReading], list[Mark]]:
    """The scores in what commands printed, and a word where one could not be looked for. May take seconds."""
    readings, marks = [], []
    for name, end in ends:
        load = own.get(name)
        if load is None or not end.output:
            continue
        score, why_not = find_score(end.output, load.score_pattern)
        if why_not is not None:
            marks.append(Mark(at_s, f"{name}: {why_not}"))
        if score is not None:
            readings.append(
                HandReading(
                    at_s, "score", score, None, load.score_unit or "points", f"{name}, from its output"
                )
            )
    return readings, marks
