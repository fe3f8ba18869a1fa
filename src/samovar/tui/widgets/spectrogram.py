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


def fine_shades(levels_db: Array) -> NDArray[np.uint8]:
    """The shades of the picture in pixels, from 1 for the darkest to FINE_SHADES, 0 where nothing was heard: for levels and an answer of
    shape (bands, columns), the lowest third octave first."""
    known = np.isfinite(levels_db)
    top = float(levels_db[known].max()) if known.any() else 0.0
    share = np.where(known, (levels_db - (top - SPAN_DB)) / SPAN_DB, 0.0)
    shade = np.minimum(np.maximum(np.rint((FINE_SHADES - 1) * share), 0), FINE_SHADES - 1) + 1.0
    return np.where(known, shade, 0.0).astype(np.uint8)


def fine_tones(palette: Palette, colour: str) -> tuple[str, ...]:
    """The colours of those shades, from 1 on; the loudest is in `colour`."""
    return tuple(palette.blend(colour, k / (FINE_SHADES - 1)) for k in range(FINE_SHADES))


def spectrogram_pixels(shades: NDArray[np.uint8], height: int) -> NDArray[np.uint8]:
    """The picture in pixels, so many high, the highest third octave at the top."""
    bands = len(shades)
    return shades[bands - 1 - np.minimum(np.arange(height) * bands // max(height, 1), bands - 1)]
