"""How far one setup is ahead of another in a figure: a difference turned so that more of it is better."""

from __future__ import annotations

from samovar.core.compare.rungs import Difference
from samovar.core.measured import AT_LEAST, AT_MOST, Measured
from samovar.core.results.figure import Figure

_TURNED = {AT_MOST: AT_LEAST, AT_LEAST: AT_MOST}
TENTHS = 1
"""Decimals of a share in percent."""


def is_ahead(figure: Figure, gap: Difference) -> bool:
    """Whether a difference is to the good of the first of its two setups."""
    return (gap.value < 0.0) == figure.lower_is_better


def advantage(figure: Figure, gap: Difference, behind: bool = False) -> Measured:
    """The difference from the side that is better: positive where the first of the two is ahead, or, for `behind`, where it is
    not; in the figure's unit."""
    if figure.lower_is_better == behind:
        return gap.measured
    return Measured(-gap.value, gap.half_width, _TURNED.get(gap.bound or ""))


def size_text(figure: Figure, size: Measured, level: float) -> str:
    """An advantage as people read it: of a figure whose margin is a share, in percent of the other's level.

    Args:
        figure: what it is of.
        size: the advantage, in the figure's unit.
        level: the other setup's figure.
    """
    if not figure.relative or not level:
        return figure.difference_text(size)
    scale = 100.0 / abs(level)
    half = None if size.half_width is None else size.half_width * scale
    return Measured(size.value * scale, half, size.bound).text("%", finest=TENTHS)
