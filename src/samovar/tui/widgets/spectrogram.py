"""Third octaves over time as shades: two rows of frequencies in a cell, the highest at the top, the louder the lighter."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from rich.segment import Segment
from rich.style import Style

from samovar.core.recording import Array
from samovar.figures.palette import Palette

SHADES = 9
SPAN_DB = 40.0
"""What lies so far under the loudest is as dark as what is not there."""


def loudest(levels_db: Sequence[float], labels: Sequence[str], most: int) -> list[str]:
    """The loudest third octaves at a moment, a line each."""
    known = [(db, hz) for db, hz in zip(levels_db, labels, strict=True) if np.isfinite(db)]
    return [f" {hz:>6} Hz {db:6.1f}" for db, hz in sorted(known, reverse=True)[: max(0, most)]]


def spectrogram_lines(
    levels_db: Array, rows: int, palette: Palette, colour: str, cursor: int | None
) -> list[list[Segment]]:
    """The picture, row by row.

    Args:
        levels_db: a row for each third octave, the lowest first, a column for each cell; NaN where nothing was heard.
        rows: its height in cells.
        palette, colour: the loudest is in this colour.
        cursor: the column that is marked; None for none.
    """
    known = levels_db[np.isfinite(levels_db)]
    if len(known) == 0:
        return [[Segment(" " * levels_db.shape[1], Style(bgcolor=palette.ground))] for _ in range(rows)]
    top = float(known.max())
    share = np.nan_to_num((levels_db - (top - SPAN_DB)) / SPAN_DB, nan=0.0)
    shade = np.clip(np.rint((SHADES - 1) * share), 0, SHADES - 1).astype(int)
    halves = [part.max(axis=0) for part in np.array_split(shade[::-1], 2 * rows) if len(part)]
    while len(halves) < 2 * rows:
        halves.append(np.zeros(levels_db.shape[1], int))
    tones = [palette.blend(colour, k / (SHADES - 1)) for k in range(SHADES)]
    lines = []
    for row in range(rows):
        upper, lower = halves[2 * row], halves[2 * row + 1]
        both = upper * SHADES + lower
        if cursor is not None:
            both = both.copy()
            both[cursor] = -1
        cuts = [0, *(np.flatnonzero(both[1:] != both[:-1]) + 1).tolist(), len(both)]
        line = []
        for a, b in itertools.pairwise(cuts):
            if both[a] < 0:
                line.append(Segment("│" * (b - a), Style(color=palette.brass, bgcolor=palette.ground)))
            else:
                line.append(Segment("▀" * (b - a), Style(color=tones[upper[a]], bgcolor=tones[lower[a]])))
        lines.append(line)
    return lines


FINE_SHADES = 33


def spectrogram_pixels(
    levels_db: Array, height: int, palette: Palette, colour: str
) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
    """The same picture in pixels, shape (height, columns), 0 where nothing was heard, and the colours of the numbers from 1 on.

    Args:
        levels_db: a row for each third octave, the lowest first, a column for each pixel.
        height: in pixels.
        palette, colour: the loudest is in this colour.
    """
    known = np.isfinite(levels_db)
    top = float(levels_db[known].max()) if known.any() else 0.0
    share = np.nan_to_num((levels_db - (top - SPAN_DB)) / SPAN_DB, nan=0.0)
    shade = np.clip(np.rint((FINE_SHADES - 1) * share), 0, FINE_SHADES - 1) + 1.0
    shade[~known] = 0.0
    bands = len(levels_db)
    band = bands - 1 - np.minimum(np.arange(height) * bands // max(height, 1), bands - 1)
    tones = tuple(palette.blend(colour, k / (FINE_SHADES - 1)) for k in range(FINE_SHADES))
    return shade.astype(np.uint8)[band], tones
