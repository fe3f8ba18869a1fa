"""Curves as braille: envelopes rasterised into dots by numpy, whole channels at a time."""

from __future__ import annotations

from dataclasses import dataclass

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
    return CELL_DOTS[columns_of_all(low[None], high[None], bottom, top, rows, np.array([thick]))[0]]


def columns_of_all(
    low: NDArray[np.float64],
    high: NDArray[np.float64],
    bottom: float,
    top: float,
    rows: int,
    thick: NDArray[np.int64],
) -> NDArray[np.uint8]:
    """Several channels' curves in dots, four to a cell's height and two to its width.

    Args:
        low, high: shape (m, 2 * columns): the envelopes, NaN where there is none.
        bottom, top: the values at the lower and upper edge.
        rows: height in cells.
        thick: least height of each line in dots, shape (m,).

    Returns:
        Shape (m, rows, columns): the dots of each cell, column by column; CELL_DOTS has what is written for them.
    """
    height = 4 * rows
    scale = (height - 1) / max(top - bottom, 1e-12)
    known = np.isfinite(low) & np.isfinite(high)
    gaps = not known.all()
    # Small numbers are quick to work with; what is further off than this is not seen anyway.
    away = 2 * height
    with np.errstate(invalid="ignore"):
        first = np.minimum(np.maximum(np.rint((top - high) * scale), -away), away)
        last = np.minimum(np.maximum(np.rint((top - low) * scale), -away), away)
    if gaps:
        first, last = np.where(known, first, away), np.where(known, last, -away)
    upper, lower = first.astype(np.int16), last.astype(np.int16)
    # Neighbouring columns must touch, or a steep flank would fall apart into dots; over a gap none does.
    before_first, before_last = upper[:, :-1], lower[:, :-1]
    if gaps:
        before_first, before_last = (
            np.where(known[:, :-1], edge, beyond)
            for edge, beyond in ((before_first, -away), (before_last, away))
        )
    begins = np.minimum(upper[:, 1:], before_last + 1)
    lower[:, 1:] = np.maximum(lower[:, 1:], before_first - 1)
    inside = upper < height
    upper[:, 1:] = begins
    lower = np.maximum(lower, upper + (thick[:, None] - 1).astype(np.int16))
    # A curve at the very edge stays visible; one beyond it does not appear there.
    over = (lower >= height) & inside
    upper = np.where(over, upper - (lower - height + 1), upper)
    above = 4 * np.arange(rows, dtype=np.int16)[None, :, None]
    begin = np.minimum(np.maximum(upper[:, None, :] - above, 0), 4).astype(np.uint8)
    past = np.minimum(np.maximum(lower[:, None, :] + np.int16(1) - above, 0), 4).astype(np.uint8)
    filled: NDArray[np.uint8] = (_COLUMN << begin) & (_COLUMN >> (_FOUR - past))
    if gaps:
        filled *= known[:, None, :]
    cells: NDArray[np.uint8] = filled[:, :, ::2] | (filled[:, :, 1::2] << _FOUR)
    return cells


_COLUMN, _FOUR = np.uint8(15), np.uint8(4)
"""A cell's column with all its dots, and how many these are."""


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


@dataclass(frozen=True)
class Lines:
    """Several curves in rows of pixels, each of shape (m, width): of every column the first and the last row that a line fills
    whole (none where `last` is less), and how far, 0 to FULL, it covers the rows above and below those."""

    first: NDArray[np.int16]
    last: NDArray[np.int16]
    above: NDArray[np.int8]
    below: NDArray[np.int8]


def lines_of_all(
    low: NDArray[np.float64],
    high: NDArray[np.float64],
    bottom: float,
    top: float,
    height: int,
    thick: NDArray[np.float64],
) -> Lines:
    """Several channels' curves as antialiased lines: the same curves as `columns_of_all` draws.

    Args:
        low, high: shape (m, width): the envelopes at every column of pixels, NaN where there is none.
        bottom, top: the values at the lower and upper edge.
        height: in pixels.
        thick: width of each line in pixels, shape (m,).
    """
    scale = (height - 1) / max(top - bottom, 1e-12)
    begin, end = (top - high) * scale + 0.5, (top - low) * scale + 0.5
    # Neighbours meet half way, or a steep flank would fall apart.
    with np.errstate(invalid="ignore"):
        for here, there in ((np.s_[:, 1:], np.s_[:, :-1]), (np.s_[:, :-1], np.s_[:, 1:])):
            gap = begin[there] - end[here]
            end[here] += np.where(gap > 0.0, 0.5 * gap, 0.0)
            gap = begin[here] - end[there]
            begin[here] -= np.where(gap > 0.0, 0.5 * gap, 0.0)
    half = 0.5 * thick[:, None]
    known = np.isfinite(begin) & np.isfinite(end)
    begin = np.where(known, np.clip(begin - half, -2.0, height + 2.0), height + 2.0)
    end = np.where(known, np.clip(end + half, -2.0, height + 2.0), height + 2.0)
    first, past = np.ceil(begin), np.floor(end)
    above = np.rint(FULL * (first - begin))
    below = np.rint(FULL * (end - past))
    return Lines(
        first.astype(np.int16), (past - 1.0).astype(np.int16), above.astype(np.int8), below.astype(np.int8)
    )
