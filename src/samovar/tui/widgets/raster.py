"""Curves as braille: envelopes rasterised into dots by numpy, whole channels at a time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

BRAILLE = 0x2800
_BITS = np.array([[0x01, 0x08], [0x02, 0x10], [0x04, 0x20], [0x40, 0x80]], dtype=np.uint32)


def dots(
    low: NDArray[np.float64], high: NDArray[np.float64], bottom: float, top: float, rows: int, thick: int = 1
) -> NDArray[np.uint32]:
    """One channel's curve as braille bits.

    Args:
        low, high: shape (2 * columns,): the envelope, NaN where there is none.
        bottom, top: the values at the lower and upper edge.
        rows: height in cells.
        thick: least height of the line in dots.

    Returns:
        Shape (rows, columns): the dots of each cell as the low byte of its braille code point.
    """
    height = 4 * rows
    scale = (height - 1) / max(top - bottom, 1e-12)
    known = np.isfinite(low) & np.isfinite(high)
    first = np.where(known, np.rint((top - high) * scale), 10 * height).astype(np.int64)
    last = np.where(known, np.rint((top - low) * scale), -10 * height).astype(np.int64)
    # Neighbouring columns must touch, or a steep flank would fall apart into dots.
    both = known[1:] & known[:-1]
    rise = both & (first[1:] > last[:-1] + 1)
    fall = both & (last[1:] < first[:-1] - 1)
    joined_first, joined_last = first.copy(), last.copy()
    joined_first[1:][rise] = last[:-1][rise] + 1
    joined_last[1:][fall] = first[:-1][fall] - 1
    extra = thick - 1 - (joined_last - joined_first)
    joined_last = np.where(known & (extra > 0), joined_last + extra, joined_last)
    # A curve at the very edge stays visible; one beyond it does not appear there.
    over = joined_last >= height
    joined_first = np.where(over & (first < height), joined_first - (joined_last - height + 1), joined_first)
    line = np.arange(height)[:, None]
    mask = (line >= joined_first) & (line <= joined_last)
    cells = mask.reshape(rows, 4, -1, 2)
    bits: NDArray[np.uint32] = np.einsum("rdcs,ds->rc", cells, _BITS).astype(np.uint32)
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
