"""Curves as braille: envelopes rasterised into dots by numpy, whole channels at a time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

BRAILLE = 0x2800
_DOTS = ((0x01, 0x02, 0x04, 0x40), (0x08, 0x10, 0x20, 0x80))
"""The dots of a cell's two columns, from the top down."""
_RUNS = np.array(
    [[[sum(column[first:last]) for last in range(5)] for first in range(5)] for column in _DOTS],
    dtype=np.uint8,
)
"""By column, the dots from the first to the one before the last."""


def dots(
    low: NDArray[np.float64], high: NDArray[np.float64], bottom: float, top: float, rows: int, thick: int = 1
) -> NDArray[np.uint8]:
    """One channel's curve as braille bits, shape (rows, columns): see `dots_of_all`."""
    return dots_of_all(low[None], high[None], bottom, top, rows, np.array([thick]))[0]


def dots_of_all(
    low: NDArray[np.float64],
    high: NDArray[np.float64],
    bottom: float,
    top: float,
    rows: int,
    thick: NDArray[np.int64],
) -> NDArray[np.uint8]:
    """Several channels' curves as braille bits.

    Args:
        low, high: shape (m, 2 * columns): the envelopes, NaN where there is none.
        bottom, top: the values at the lower and upper edge.
        rows: height in cells.
        thick: least height of each line in dots, shape (m,).

    Returns:
        Shape (m, rows, columns): the dots of each cell as the low byte of its braille code point.
    """
    height = 4 * rows
    scale = (height - 1) / max(top - bottom, 1e-12)
    known = np.isfinite(low) & np.isfinite(high)
    with np.errstate(invalid="ignore"):
        first = np.where(known, np.rint((top - high) * scale), 10 * height).astype(np.int32)
        last = np.where(known, np.rint((top - low) * scale), -10 * height).astype(np.int32)
    # Neighbouring columns must touch, or a steep flank would fall apart into dots.
    both = known[:, 1:] & known[:, :-1]
    rise = both & (first[:, 1:] > last[:, :-1] + 1)
    fall = both & (last[:, 1:] < first[:, :-1] - 1)
    upper, lower = first.copy(), last.copy()
    upper[:, 1:][rise] = last[:, :-1][rise] + 1
    lower[:, 1:][fall] = first[:, :-1][fall] - 1
    extra = thick[:, None] - 1 - (lower - upper)
    lower = np.where(known & (extra > 0), lower + extra, lower)
    # A curve at the very edge stays visible; one beyond it does not appear there.
    over = (lower >= height) & (first < height)
    upper = np.where(over, upper - (lower - height + 1), upper)
    above = 4 * np.arange(rows, dtype=np.int32)[None, :, None]
    begin = np.clip(upper[:, None, :] - above, 0, 4)
    end = np.clip(lower[:, None, :] + 1 - above, 0, 4)
    bits: NDArray[np.uint8] = (
        _RUNS[0][begin[:, :, ::2], end[:, :, ::2]] | _RUNS[1][begin[:, :, 1::2], end[:, :, 1::2]]
    )
    return bits


def below(high: NDArray[np.float64], bottom: float, top: float, rows: int) -> NDArray[np.bool_]:
    """Which cells lie wholly under a curve, shape (rows, columns): for the tint beneath it."""
    pairs = high.reshape(-1, 2)
    with np.errstate(all="ignore"):
        tallest = np.fmax(pairs[:, 0], pairs[:, 1])
    level = (top - tallest) / max(top - bottom, 1e-12) * rows
    inside: NDArray[np.bool_] = np.arange(rows)[:, None] >= np.where(np.isfinite(level), level, rows + 1)
    return inside


_DIGITS = {
    "0": ("█▀█", "█ █", "▀▀▀"), "1": (" ▄█", "  █", "  ▀"), "2": ("▀▀█", "█▀▀", "▀▀▀"),
    "3": ("▀▀█", " ▀█", "▀▀▀"), "4": ("█ █", "▀▀█", "  ▀"), "5": ("█▀▀", "▀▀█", "▀▀▀"),
    "6": ("█▀▀", "█▀█", "▀▀▀"), "7": ("▀▀█", "  █", "  ▀"), "8": ("█▀█", "█▀█", "▀▀▀"),
    "9": ("█▀█", "▀▀█", "▀▀▀"), "-": ("   ", "▀▀▀", "   "), ".": (" ", " ", "▀"), "–": ("   ", "▀▀▀", "   "),
}  # fmt: skip


def large(text: str) -> tuple[str, str, str]:
    """A number in digits three cells high, for reading from a chair's distance."""
    parts = [_DIGITS.get(character, ("   ", "   ", "   ")) for character in text]
    return (
        " ".join(p[0] for p in parts),
        " ".join(p[1] for p in parts),
        " ".join(p[2] for p in parts),
    )


FULL = 4
"""Steps of how far a line covers a pixel at its edge: more tones nobody sees apart."""


def between_columns(values: NDArray[np.float64], width: int) -> NDArray[np.float64]:
    """Curves of half columns, shape (m, 2 * columns), at every column of pixels, shape (m, width): joined by straight lines, but
    not over gaps."""
    count = values.shape[1]
    at = (np.arange(width) + 0.5) * count / width - 0.5
    left = np.clip(np.floor(at).astype(int), 0, count - 1)
    right = np.minimum(left + 1, count - 1)
    share = np.clip(at - left, 0.0, 1.0)
    joined = values[:, left] * (1.0 - share) + values[:, right] * share
    nearest = values[:, np.clip(np.rint(at).astype(int), 0, count - 1)]
    return np.where(np.isfinite(joined), joined, nearest)


def pixels_of_all(
    low: NDArray[np.float64],
    high: NDArray[np.float64],
    bottom: float,
    top: float,
    height: int,
    thick: NDArray[np.float64],
) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.intp], NDArray[np.intp]]:
    """Several channels' curves as antialiased pixels: the same curves as `dots_of_all` draws.

    Args:
        low, high: shape (m, width): the envelopes at every column of pixels, NaN where there is none.
        bottom, top: the values at the lower and upper edge.
        height: in pixels.
        thick: width of each line in pixels, shape (m,).

    Returns:
        Of every pixel that a line touches: channel, row, column, and how far it is covered, 1 to FULL; the last channel first, so
        that what is written last, the first channel, is seen.
    """
    scale = (height - 1) / max(top - bottom, 1e-12)
    first, last = (top - high) * scale + 0.5, (top - low) * scale + 0.5
    # Neighbours meet half way, or a steep flank would fall apart.
    for step in (1, -1):
        there_first, there_last = np.roll(first, step, axis=1), np.roll(last, step, axis=1)
        edge = 0 if step == 1 else -1
        there_first[:, edge] = there_last[:, edge] = np.nan
        with np.errstate(invalid="ignore"):
            last = np.where(there_first > last, 0.5 * (there_first + last), last)
            first = np.where(there_last < first, 0.5 * (there_last + first), first)
    half = 0.5 * thick[:, None]
    known = np.isfinite(first) & np.isfinite(last)
    begin = np.where(known, np.clip(first - half, -1.0, height), 0.0)
    end = np.where(known, np.clip(last + half, 0.0, height + 1.0), 0.0)
    row = np.floor(np.maximum(begin, 0.0)).astype(np.intp)
    count = np.where(known & (end > begin), np.minimum(np.ceil(end), height).astype(np.intp) - row, 0)
    count = np.maximum(count, 0)[::-1].ravel()
    channel, column = np.divmod(np.arange(low.size), low.shape[1])
    channel = low.shape[0] - 1 - channel
    each = np.repeat(np.arange(low.size), count)
    down = np.arange(len(each)) - np.repeat(np.cumsum(count) - count, count)
    rows = row[::-1].ravel()[each] + down
    covered = np.minimum(end[::-1].ravel()[each], rows + 1.0) - np.maximum(begin[::-1].ravel()[each], rows)
    tone = np.rint(FULL * covered).astype(np.intp)
    seen = tone > 0
    return channel[each][seen], rows[seen], column[each][seen], np.minimum(tone, FULL)[seen]
