"""The cursor in pixels: a column of cells, cut from the pieces it lies over, on its own ground. The pieces stay as they are wherever it
goes."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from samovar.tui.pixels.picture import CLEAR, CellPicture
from samovar.tui.widgets.strip_pixels import FULL, NUMBERS, STRETCH, Ink, table_of

ON_CURSOR = 255
"""The number of the cursor's ground: no colour of a piece has it."""


def column_in(
    tiles: Sequence[CellPicture], column: int, wide: int
) -> tuple[NDArray[np.uint8], tuple[str, ...]] | None:
    """What pieces have in one column of cells, each so many columns of pixels wide: numbers, and their colours from 1 on; None where none
    of them is."""
    for tile in tiles:
        at = (column - tile.column) * wide
        if 0 <= at < tile.pixels.shape[1]:
            return tile.pixels[:, at : at + wide], tile.colours
    return None


def column_under_cursor(
    tiles: Sequence[CellPicture], column: int, free: NDArray[np.bool_], cell: tuple[int, int], ink: Ink,
    grounds: tuple[str, str, str],
) -> tuple[NDArray[np.uint8], tuple[str, ...]] | None:  # fmt: skip
    """What a strip has in one column of cells: the numbers of its colours, ON_CURSOR where nothing but ground is, CLEAR where something
    is written; and the colours, from 1 on. None where there is no piece.

    Args:
        tiles: the strip's pieces.
        column: the cursor's, counted as the pieces' are.
        free: where in it nothing is written, shape (rows,).
        cell: a cell's width and height in pixels.
        ink, grounds: what the pieces were drawn with.
    """
    wide, high = cell[0] // STRETCH, cell[1]
    there = column_in(tiles, column, wide)
    if there is None:
        return None
    pixels = _on_cursor(ink, grounds)[there[0]]
    pixels[np.repeat(~free, high)] = CLEAR
    return pixels, there[1]


def stacked(
    parts: Sequence[tuple[int, tuple[NDArray[np.uint8], tuple[str, ...]]]], cursor: str, cell: tuple[int, int]
) -> CellPicture | None:
    """The cursor's column of several strips, each from a row of cells on, as one picture on the cursor's ground."""
    if not parts:
        return None
    wide, high = cell[0] // STRETCH, cell[1]
    first = min(row for row, _ in parts)
    end = max(row * high + len(pixels) for row, (pixels, _) in parts)
    sheet = np.full((end - first * high, wide), CLEAR, np.uint8)
    numbers = {cursor: 1}
    for row, (pixels, colours) in parts:
        new = np.zeros(256, np.uint8)
        new[ON_CURSOR] = 1
        for number in np.unique(pixels).tolist():
            if number not in (CLEAR, ON_CURSOR):
                # So many colours are in no column that could be told apart.
                new[number] = numbers.setdefault(colours[number - 1], min(len(numbers) + 1, ON_CURSOR - 1))
        begin = (row - first) * high
        sheet[begin : begin + len(pixels)] = new[pixels]
    return CellPicture(0, first, sheet, tuple(numbers)[: ON_CURSOR - 1], STRETCH)


@lru_cache(maxsize=64)
def _on_cursor(ink: Ink, grounds: tuple[str, str, str]) -> NDArray[np.uint8]:
    """What becomes of each number of a piece on the cursor's ground: lines stay, their edges are the lines' where they cover half a pixel
    or more, all else is the ground."""
    table, numbers = table_of(ink.colours, grounds)
    found = np.full(len(table) + 1, ON_CURSOR, np.uint8)
    for tones in numbers.reshape(-1, FULL + 1):
        found[tones[FULL // 2 :]] = tones[FULL]
    found[NUMBERS] = ON_CURSOR
    return found
