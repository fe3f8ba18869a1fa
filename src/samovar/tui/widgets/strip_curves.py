"""What a curve is made of before it is drawn: its line, and the band about it where it swings faster than a column."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from samovar.core.recording import Array

WIDE_DOTS, WIDE_SHARE = 5.0, 0.3
"""Least and greatest so far apart within a column, in dots or as a share of a low strip's height, would fill it: that is drawn as a
band."""
SPIKES = 0.06
"""Where no more columns than this share are so wide, they are spikes in a calm curve, and drawn as such."""
AROUND = 3
"""Columns to either side that a band is made of: what swings about as fast as a column would come out as a comb."""
BETWEEN = 12
"""Half of the columns that may lie between two that are so wide: a band that comes and goes with every pulse reads as neither."""
_CHARS = np.array([ord(c) for c in " ▁▂▃▄▅▆▇█"], dtype=np.uint32)


@dataclass(frozen=True)
class Drawn:
    """A curve's line, from least to greatest of each half column, and its band, NaN where it has none; each of shape
    (2 * columns,)."""

    low: Array
    high: Array
    band_low: Array | None = None
    band_high: Array | None = None


def swinging(low: Array, high: Array, span: Array | float, rows: Array | float) -> NDArray[np.bool_]:
    """Where curves swing faster than their columns, of those that do so for more than a few spikes: shape (m, 2 * columns).

    Args:
        low, high: envelopes, shape (m, 2 * columns), NaN where nothing is.
        span: what a strip's height stands for, shape (m, 1) where they are in several.
        rows: that height in cells, likewise.
    """
    with np.errstate(invalid="ignore"):
        dots = (high - low) * (4.0 * rows / np.maximum(span, 1e-12))
        wide = dots > np.minimum(WIDE_DOTS, WIDE_SHARE * 4.0 * rows)
    many = wide.sum(axis=1) > SPIKES * np.isfinite(low).sum(axis=1)
    return np.asarray(wide & many[:, None])


def banded(low: Array, high: Array, mean: Array, wide: NDArray[np.bool_]) -> Drawn:
    """The line and the band of an envelope that is `wide` in some half columns, shape (2 * columns,) each."""
    near, middle = smoothed(low, mean, wide)
    windows = np.lib.stride_tricks.sliding_window_view

    def around(row: Array, fold: np.ufunc) -> Array:
        padded = np.pad(row, AROUND, constant_values=np.nan)
        return np.asarray(fold.reduce(windows(padded, 2 * AROUND + 1), axis=1))

    return Drawn(
        np.where(near, middle, low),
        np.where(near, middle, high),
        np.where(near, around(low, np.fmin), np.nan),
        np.where(near, around(high, np.fmax), np.nan),
    )


def smoothed(low: Array, mean: Array, wide: NDArray[np.bool_]) -> tuple[NDArray[np.bool_], Array]:
    """Where an envelope is `wide`, near what is or between two such places, and the mean over what is around, shape (2 * columns,)
    each."""
    known = np.isfinite(low)
    filled = np.where(known, mean, 0.0)
    between = _sum_around(wide, BETWEEN) > 0.0
    # What is closed by reaching out from both sides is left as it was at the outer ones.
    near = _sum_around(~between, BETWEEN - AROUND) == 0.0
    count = _sum_around(known, AROUND)
    return near & known, _sum_around(filled, AROUND) / np.maximum(count, 1.0)


def _sum_around(row: NDArray[Any], reach: int) -> Array:
    """The sums over all that is no further away than `reach`, shape as it was."""
    padded = np.zeros(len(row) + 2 * reach + 1)
    padded[reach + 1 : len(padded) - reach] = row
    # What lies within a window is what is summed up to its end less what was before it.
    total = np.cumsum(padded)
    return np.asarray(total[2 * reach + 1 :] - total[: len(row)])


@dataclass(frozen=True)
class Filled:
    """An area in cells, shape (rows, columns): where it fills them whole, the characters of its upper edge, in which it is
    the lower part, and those of its lower edge, in which it is the upper one; a blank where there is none."""

    whole: NDArray[np.bool_]
    upper: NDArray[np.uint32]
    lower: NDArray[np.uint32]


def filled(curves: Array, bottom: Array | float, top: Array | float, rows: Sequence[int]) -> Filled:
    """The areas under curves, down to the lower edge, to an eighth of a cell.

    Args:
        curves: shape (m, 2 * columns), one for each strip, NaN where there is none.
        bottom, top: the values at the strips' lower and upper edges, shape (m, 1) where they are not the same for all.
        rows: how high each strip is, cells.

    Returns:
        The strips' rows one below the other.
    """
    above = _eighths(np.fmax(curves[:, ::2], curves[:, 1::2]), bottom, top, rows)
    whole = above >= EIGHTHS
    return Filled(whole, _CHARS[np.where(whole, 0, np.maximum(above, 0))], np.full(above.shape, _BLANK))


def filled_between(
    low: Array, high: Array, bottom: Array | float, top: Array | float, rows: Sequence[int]
) -> Filled:
    """The areas between two curves each, nothing where either is NaN; else as `filled`."""
    lowest, highest = np.fmin(low[:, ::2], low[:, 1::2]), np.fmax(high[:, ::2], high[:, 1::2])
    above = _eighths(highest + (lowest - lowest), bottom, top, rows)
    below = _eighths(lowest, bottom, top, rows)
    full, open_below = above >= EIGHTHS, below <= 0
    upper = np.maximum(above, 0) * (open_below & ~full)
    lower = np.maximum(below, 0) * (full & (below < EIGHTHS))
    return Filled(full & open_below, _CHARS[upper], _CHARS[lower])


EIGHTHS = 8
"""Of a cell: as many heights have characters of their own."""
_BLANK = np.uint32(ord(" "))


def _eighths(
    curves: Array, bottom: Array | float, top: Array | float, rows: Sequence[int]
) -> NDArray[np.int16]:
    """How high curves of shape (m, columns) stand over the lower edge of every cell of theirs, one strip's rows below the other's, in
    eighths of a cell; not at all where they are NaN."""
    most = EIGHTHS * np.array(rows, float)[:, None]
    with np.errstate(invalid="ignore"):
        level = np.rint((curves - bottom) * (most / np.maximum(np.subtract(top, bottom), 1e-12)))
    # Of a number and none the number is taken.
    level = np.fmin(np.fmax(level, 0.0), most).astype(np.int16)
    of_row, edges = _edges_of(tuple(rows))
    return np.asarray(level[of_row] - edges)


@lru_cache(maxsize=64)
def _edges_of(rows: tuple[int, ...]) -> tuple[NDArray[np.intp], NDArray[np.int16]]:
    """Of every row of cells: the strip it is in, and how far its lower edge is from the strip's, in eighths, shape (n, 1)."""
    edges = [np.arange(EIGHTHS * (high - 1), -1, -EIGHTHS, dtype=np.int16) for high in rows]
    return np.repeat(np.arange(len(rows)), rows), np.concatenate(edges)[:, None]


def dashed(low: Array, high: Array, number: int) -> tuple[Array, Array]:
    """A curve with gaps of its own, so that two that coincide stay apart: the first is whole."""
    on, off = _DASHES[number % len(_DASHES)]
    if not off:
        return low, high
    gap = np.arange(len(low)) % (on + off) >= on
    return np.where(gap, np.nan, low), np.where(gap, np.nan, high)


_DASHES = ((1, 0), (6, 2), (2, 2), (9, 3), (4, 4))
"""Half columns on and off."""


def round_levels(bottom: float, top: float, most: int) -> list[float]:
    """Up to so many round values between two ends, the ends left out."""
    span = top - bottom
    if most < 1 or span <= 0.0:
        return []
    raw = span / (most + 1)
    magnitude = 10.0 ** math.floor(math.log10(raw))
    step = next((m * magnitude for m in (1.0, 2.0, 2.5, 5.0, 10.0) if m * magnitude >= 0.999 * raw), raw)
    found = [k * step for k in range(math.floor(bottom / step) + 1, math.ceil(top / step))]
    return [v for v in found if bottom + 0.04 * span < v < top - 0.04 * span]
