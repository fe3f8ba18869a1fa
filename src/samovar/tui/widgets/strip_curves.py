"""What a curve is made of before it is drawn: its line, and the band about it where it swings faster than a column."""

from __future__ import annotations

from dataclasses import dataclass

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
_EIGHTHS = np.array([ord(c) for c in " ▁▂▃▄▅▆▇█"], dtype=np.uint32)


@dataclass(frozen=True)
class Drawn:
    """A curve's line, from least to greatest of each half column, and its band, NaN where it has none; each of shape
    (2 * columns,)."""

    low: Array
    high: Array
    band_low: Array | None = None
    band_high: Array | None = None


def swings(low: Array, high: Array, span: float, rows: int) -> NDArray[np.bool_]:
    """Which curves swing faster than their columns, for more than a few spikes: shape (m,) for envelopes of shape
    (m, 2 * columns)."""
    wide = _wide(low, high, span, rows)
    return np.asarray(wide.sum(axis=1) > SPIKES * np.isfinite(low).sum(axis=1))


def _wide(low: Array, high: Array, span: float, rows: int) -> NDArray[np.bool_]:
    with np.errstate(invalid="ignore"):
        dots = (high - low) * (4.0 * rows / max(span, 1e-12))
        return np.asarray(dots > min(WIDE_DOTS, WIDE_SHARE * 4.0 * rows))


def line_and_band(low: Array, high: Array, mean: Array, span: float, rows: int) -> Drawn:
    """What is drawn of an envelope.

    Args:
        low, high, mean: of each half column, shape (2 * columns,), NaN where nothing is.
        span: what the strip's height stands for.
        rows: that height in cells.
    """
    if not swings(low[None], high[None], span, rows)[0]:
        return Drawn(low, high)
    known = np.isfinite(low)
    wide = _wide(low, high, span, rows)
    windows = np.lib.stride_tricks.sliding_window_view
    near = windows(np.pad(wide, AROUND), 2 * AROUND + 1).any(axis=1) & known

    def around(row: Array, fold: np.ufunc) -> Array:
        padded = np.pad(row, AROUND, constant_values=np.nan)
        return np.asarray(fold.reduce(windows(padded, 2 * AROUND + 1), axis=1))

    filled = np.pad(np.where(known, mean, 0.0), AROUND)
    count = windows(np.pad(known.astype(float), AROUND), 2 * AROUND + 1).sum(axis=1)
    middle = windows(filled, 2 * AROUND + 1).sum(axis=1) / np.maximum(count, 1.0)
    return Drawn(
        np.where(near, middle, low),
        np.where(near, middle, high),
        np.where(near, around(low, np.fmin), np.nan),
        np.where(near, around(high, np.fmax), np.nan),
    )


@dataclass(frozen=True)
class Filled:
    """An area in cells, shape (rows, columns): where it fills them whole, the characters of its upper edge, in which it is
    the lower part, and those of its lower edge, in which it is the upper one; a blank where there is none."""

    whole: NDArray[np.bool_]
    upper: NDArray[np.uint32]
    lower: NDArray[np.uint32]


def filled(low: Array, high: Array, bottom: float, top: float, rows: int) -> Filled:
    """The area between two curves, shape (2 * columns,) each: edges to an eighth of a cell."""
    with np.errstate(all="ignore"):
        highest = np.fmax.reduce(high.reshape(-1, 2), axis=1)
        lowest = np.fmin.reduce(low.reshape(-1, 2), axis=1)
        scale = rows / max(top - bottom, 1e-12)
        from_top = np.clip((top - highest) * scale, 0.0, rows)
        to_top = np.clip((top - lowest) * scale, 0.0, rows)
        row = np.arange(rows)[:, None]
        above = np.rint(8.0 * (row + 1.0 - from_top))
        below = np.rint(8.0 * (row + 1.0 - to_top))
    known = np.isfinite(above) & np.isfinite(below)
    above, below = np.where(known, above, 0.0), np.where(known, below, 8.0)
    whole = known & (above >= 8.0) & (below <= 0.0)
    upper = np.where(known & (above > 0.0) & (above < 8.0) & (below <= 0.0), above, 0.0).astype(int)
    lower = np.where(known & (below > 0.0) & (below < 8.0) & (above >= 8.0), below, 0.0).astype(int)
    return Filled(whole, _EIGHTHS[upper], _EIGHTHS[lower])


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
    magnitude = 10.0 ** np.floor(np.log10(raw))
    step = next((m * magnitude for m in (1.0, 2.0, 2.5, 5.0, 10.0) if m * magnitude >= 0.999 * raw), raw)
    first = np.floor(bottom / step) + 1
    found = [float(k * step) for k in np.arange(first, np.ceil(top / step))]
    return [v for v in found if bottom + 0.04 * span < v < top - 0.04 * span]
