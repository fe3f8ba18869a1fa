"""What hands read of a run, as results beside those that were measured."""

from __future__ import annotations

from collections.abc import Iterable

from samovar.archive.records import HandReading
from samovar.core.results.result import BY_HAND, Result

STATISTICS = {"noise": ("noise", "level"), "score": ("score", "score"), "time": ("time", "time")}
"""Readings that are a result of the whole run: their quantity and statistic."""


def results_by_hand(readings: Iterable[HandReading]) -> list[Result]:
    """The results in a run's hand readings; a surface temperature is one of the part it was taken on."""
    found = []
    for reading in readings:
        surface = reading.surface
        if surface is not None:
            found.append(
                Result(
                    surface.part,
                    None,
                    "temperature",
                    "at",
                    "°C",
                    reading.value,
                    reading.half_width,
                    source=BY_HAND,
                    window=(reading.at_s, reading.at_s),
                )
            )
        elif reading.quantity in STATISTICS:
            quantity, statistic = STATISTICS[reading.quantity]
            found.append(
                Result(
                    None,
                    None,
                    quantity,
                    statistic,
                    reading.unit,
                    reading.value,
                    reading.half_width,
                    source=BY_HAND,
                )
            )
    return found
