"""Curves as braille: envelopes rasterised into dots by numpy, whole channels at a time."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

BRAILLE = 0x2800
_DOTS = ((0x01, 0x02, 0x04, 0x40), (0x08, 0x10, 0x20, 0x80))
"""The dots of a cell's two columns, from the top down."""
CELL_DOTS = np.array(
    [sum(dot for k, dot in enumerate((*_DOTS[0], *_DOTS[1])) if column >> k & 1) for column in range(256)],
    dtype=np.uint8,
)
"""The low byte of a braille code point by a cell's two columns, four bits each, the left one and the top first."""


def dots(
    low: NDArray[np.float64], high: NDArray[np.float64], bottom: float, top: float, rows: int, thick: int = 1
) -> NDArray[np.uint8]:
    """One channel's curve as the low bytes of braille code points, shape (rows, columns)."""
    first, past = spans_of_all(low[None], high[None], bottom, top, 4 * rows, np.array([thick]))
    return dots_of(inside_of(first, past, 4 * rows))[0]


def spans_of_all(
    low: NDArray[np.float64],
    high: NDArray[np.float64],
    bottom: NDArray[np.float64] | float,
    top: NDArray[np.float64] | float,
    height: NDArray[np.float64] | float,
    thick: NDArray[np.int64],
) -> tuple[NDArray[np.int16], NDArray[np.int16]]:
    """The first row of dots of several channels' curves in every half column, and the one past the last.

    Args:
        low, high: shape (m, 2 * columns): the envelopes, NaN where there is none.
        bottom, top: the values at the lower and upper edge, shape (m, 1) where they are not the same for all.
        height: in dots, likewise.
        thick: least height of each line in dots, shape (m,).

    Returns:
        Shape (m, 2 * columns) each, counted from the top, the second one the greater; both beyond the lower edge where there is no
        curve.
    """
    scale = (height - 1.0) / np.maximum(np.subtract(top, bottom), 1e-12)
    edge = np.asarray(height).astype(np.int16)
    # Small numbers are quick to work with; what is further off than this is not seen anyway.
    away = edge * np.int16(2)
    with np.errstate(invalid="ignore"):
        first = np.minimum(np.maximum(np.rint((top - high) * scale), -away), away)
        last = np.minimum(np.maximum(np.rint((top - low) * scale), -away), away)
    known = np.isfinite(first) & np.isfinite(last)
    gaps = not known.all()
    if gaps:
        first, last = np.where(known, first, away), np.where(known, last, -away)
    upper, lower = first.astype(np.int16), last.astype(np.int16)
    # Neighbouring columns must touch, or a steep flank would fall apart into dots; over a gap none does.
    before_first, before_last = upper[:, :-1], lower[:, :-1]
    if gaps:
        before_first, before_last = (
            np.where(known[:, :-1], side, beyond)
            for side, beyond in ((before_first, -away), (before_last, away))
        )
    begins = np.minimum(upper[:, 1:], before_last + np.int16(1))
    lower[:, 1:] = np.maximum(lower[:, 1:], before_first - np.int16(1))
    inside = upper < edge
    upper[:, 1:] = begins
    if gaps:
        upper = np.where(known, upper, away)
    lower = np.maximum(lower, upper + (thick[:, None] - 1).astype(np.int16))
    # A curve at the very edge stays visible; one beyond it does not appear there.
    over = (lower >= edge) & inside
    if over.any():
        upper = np.where(over, upper - (lower - edge + np.int16(1)), upper)
    return upper, lower + np.int16(1)


def dots_of(inside: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Dots, 1 where one is, shape (..., 4 * rows, 2 * columns), as the low bytes of braille code points, shape (..., rows, columns)."""
    *others, height, width = inside.shape
    columns = (inside.reshape(*others, height // 4, 4, width) * _WEIGHTS).sum(axis=-2, dtype=np.uint8)
    return CELL_DOTS[columns[..., ::2] + columns[..., 1::2] * _RIGHT]


def inside_of(first: NDArray[np.int16], past: NDArray[np.int16], height: int) -> NDArray[np.uint8]:
    """1 where each line is, shape (m, height, width), for the first rows of lines and those past their ends, shape (m, width); nowhere
    may `past` be less than `first`."""
    rows = np.arange(height, dtype=np.int16)[:, None]
    # What lies above a line comes out as a number beyond all others.
    from_first = (rows - first[:, None, :]).view(np.uint16)
    return (from_first < (past - first)[:, None, :].view(np.uint16)).view(np.uint8)


def any_of(inside: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """1 where any of several lines is."""
    return np.asarray(np.bitwise_or.reduce(inside, axis=0))


_WEIGHTS = np.array([1, 2, 4, 8], np.uint8)[:, None]
_RIGHT = np.uint8(16)


_DIGITS = {
    "0": ("█▀█", "█ █", "▀▀▀"), "1": (" ▄█", "  █", "  ▀"), "2": ("▀▀█", "█▀▀", "▀▀▀"),
    "3": ("▀▀█", " ▀█", "▀▀▀"), "4": ("█ █", "▀▀█", "  ▀"), "5": ("█▀▀", "▀▀█", "▀▀▀"),
    "6": ("█▀▀", "█▀█", "▀▀▀"), "7": ("▀▀█", "  █", "  ▀"), "8": ("█▀█", "█▀█", "▀▀▀"),
    "9": ("█▀█", "▀▀█", "▀▀▀"), "-": ("   ", "▀▀▀", "   "), ".": (" ", " ", "▀"), "–": ("   ", "▀▀▀", "   "),
}  # fmt: skip


@lru_cache(maxsize=512)
def large(text: str) -> tuple[str, str, str]:
    """A number in digits three cells high, for reading from a chair's distance."""
    parts = [_DIGITS.get(character, ("   ", "   ", "   ")) for character in text]
    return (
        " ".join(p[0] for p in parts),
        " ".join(p[1] for p in parts),
        " ".join(p[2] for p in parts),
    )
