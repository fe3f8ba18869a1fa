"""A run's course in miniature, as it stands in a cell of the Grid: as braille over a tint, or as pixels."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from rich.text import Text

from samovar.core.recording import Array
from samovar.tui.widgets.raster import BRAILLE, dots
from samovar.tui.widgets.strip_curves import Drawn, filled
from samovar.tui.widgets.strip_pixels import Ground, Ink, heights, strip_pixels


def course_of(outline: Sequence[float | None], width: int) -> Array | None:
    """The course at every half column, shape (2 * width,); None where it has less than two values."""
    points = np.array([math.nan if v is None else v for v in outline], dtype=float)
    good = np.isfinite(points)
    if good.sum() < 2:
        return None
    at = np.linspace(0, len(points) - 1, 2 * width)
    return np.asarray(np.interp(at, np.flatnonzero(good), points[good]))


def miniature(curve: Array, rows: int, colour: str, tint: str, ends: tuple[float, float]) -> Text:
    """A course in so many rows of cells, on the scale that all cells share; its tint ends where it is."""
    width = len(curve) // 2
    bottom, top = ends
    bits = dots(curve, curve, bottom, top, rows, 2)
    under = filled(curve[None], bottom, top, [rows])
    # A cell that the curve is in has room for its dots alone: the tint fills it where it would fill most of it.
    whole = under.whole | ((bits > 0) & (under.upper >= ord("▅")))
    edge = (bits == 0) & ~whole & (under.upper != ord(" "))
    chars = np.where(bits > 0, BRAILLE + bits.astype(np.uint32), np.where(edge, under.upper, ord(" ")))
    styles = (colour, f"{colour} on {tint}", tint)
    numbers = np.where(edge, 2, whole.astype(int))
    text = Text(no_wrap=True)
    for row in range(rows):
        for number, group in itertools.groupby(range(width), key=lambda k: int(numbers[row, k])):
            text.append("".join(chr(chars[row, k]) for k in group), styles[number])
        text.append("\n")
    return text


def miniature_pixels(
    curve: Array, rows: int, cell: tuple[int, int], colours: tuple[str, str, str], ends: tuple[float, float]
) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
    """The same as pixels, as `strip_pixels` gives them; `colours` of the curve, the tint and the ground."""
    shape = rows, len(curve) // 2
    colour, tint, ground = colours
    plain = Ground(np.zeros(shape, np.uint8), np.ones(shape, bool), (ground, tint, tint))
    line = curve[None]
    curves = heights(line, line, Drawn(curve, curve), ends, rows * cell[1])
    return strip_pixels(cell, curves, Ink((colour,), (True,)), plain)
