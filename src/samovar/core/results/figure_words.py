"""Figures and their values as people name them: `regulators`, `vrm back`, `3.4 GHz`, `120 EUR`."""

from __future__ import annotations

import re

from samovar.core.results.figure import PARTS_IN_WORDS, Figure, figure_of
from samovar.core.results.statistic import STATISTICS
from samovar.core.units import DIMENSIONS, Unreadable, parse

BY_HAND_WORDS = " by hand"
"""Behind a part: what hands measured there, not its sensor."""
_DIMENSION = {
    "temperature": "temperature",
    "noise": "level",
    "power": "power",
    "time": "time",
    "fan": "speed",
}
"""Which of `core.units` reads a limit on a quantity; what has none is a plain number with its unit."""


def figure_in_words(words: str, typed: str) -> Figure:
    """The figure that words name: a key, a part, a spot; `typed` is the line they stand in.

    Raises:
        Unreadable: nothing that runs tell.
    """
    try:
        return figure_of(words.lower())
    except KeyError:
        pass
    plain = words.lower().removeprefix("the ")
    if plain.endswith(BY_HAND_WORDS):
        spot = plain.removesuffix(BY_HAND_WORDS)
        role = next((key for key, word in PARTS_IN_WORDS.items() if spot in (key, word)), None)
        if role is not None:
            return Figure("at", "temperature", (role,))
    statistic = next(
        (k for k in ("peak", "steady", "rise", "least", "mean") if plain.startswith(k + " ")), None
    )
    rest = plain.removeprefix(f"{statistic} ") if statistic else plain
    role = next((key for key, word in PARTS_IN_WORDS.items() if rest in (key, word)), None)
    if role is not None:
        how = statistic or "steady"
        return figure_of(f"{how}:temperature:{role}") if role != "core" else figure_of("clock")
    first, _, spot = rest.partition(" ")
    role = next((key for key, word in PARTS_IN_WORDS.items() if first in (key, word)), None)
    if role is not None and spot:
        # A spot that hands measure: `vrm back`.
        return Figure("at", "temperature", (f"{role} {spot}",))
    raise Unreadable(
        f"{typed!r}: {words!r} is nothing that runs tell; write noise, rise, work, clock, power, score, time, price, a part such as "
        f"regulators or memory, or a key such as {next(iter(STATISTICS))}:temperature:memory"
    )


def value_in_words(figure: Figure, text: str, typed: str) -> tuple[float, str]:
    """A value of a figure as typed, in the figure's unit, and of a price its currency.

    Raises:
        Unreadable: no such value, with an example.
    """
    if figure.quantity == "price":
        found = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*([A-Za-z]{3})", text)
        if found is None:
            raise Unreadable(f"{typed!r}: a price has its currency; write price at most 120 EUR")
        return float(found[1].replace(",", ".")), found[2].upper()
    dimension = _DIMENSION.get(figure.quantity)
    if figure.quantity == "clock":
        found = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*(GHz|MHz)?", text, re.I)
        if found is None:
            raise Unreadable(f"{typed!r}: {text!r} is no clock; write clock at least 3.4 GHz")
        value = float(found[1].replace(",", "."))
        return (value * 1000.0 if (found[2] or "").lower() == "ghz" else value), ""
    if dimension in DIMENSIONS and figure.statistic not in ("rise", "resistance", "settle"):
        return parse(dimension, text), ""
    found = re.fullmatch(r"([-−]?\d+(?:[.,]\d+)?)\s*(\S.*)?", text)
    if found is None or (found[2] and found[2].strip() not in (figure.unit, "points", "K")):
        raise Unreadable(
            f"{typed!r}: {text!r} is not in {figure.unit or 'a plain number'}; write it as 28 dBA, 85 °C, 812"
        )
    return float(found[1].replace(",", ".").replace("−", "-")), ""
