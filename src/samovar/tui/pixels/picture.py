"""A picture for the terminal: a place in cells, and pixels as numbers of colours."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

CLEAR = 0
"""The number of what is not drawn: whatever stands in the cell is seen."""


@dataclass(frozen=True)
class Piece:
    """A part of a picture as its protocol has it.

    Attributes:
        column, row: its upper left cell, from the picture's own.
        columns, rows: its size in cells.
        code: sixels, or a PNG in base64.
    """

    column: int
    row: int
    columns: int
    rows: int
    code: str


@dataclass(frozen=True)
class CellPicture:
    """A picture over cells.

    Attributes:
        column, row: its upper left cell, from the widget's own.
        pixels: numbers of colours, shape (height, columns); CLEAR where nothing is drawn.
        colours: as `#rrggbb`, the first of them number 1.
        stretch: how many pixels of the terminal each column of `pixels` is wide.
        pieces: what the terminal gets of it, where that is worked out already.
    """

    column: int
    row: int
    pixels: NDArray[np.uint8]
    colours: tuple[str, ...]
    stretch: int = 1
    pieces: tuple[Piece, ...] | None = None


def without_cells(
    picture: CellPicture, cell: tuple[int, int], covered: Sequence[tuple[int, int, int, int]]
) -> CellPicture:
    """The picture without what other things cover, such as a message: rectangles of column, row, width and height in the
    widget's cells."""
    if not covered:
        return picture
    pixels = picture.pixels.copy()
    wide, high = cell
    for column, row, width, height in covered:
        x, y = (column - picture.column) * wide // picture.stretch, (row - picture.row) * high
        across = width * wide // picture.stretch
        pixels[max(0, y) : max(0, y + height * high), max(0, x) : max(0, x + across)] = CLEAR
    return replace(picture, pixels=pixels, pieces=None)


def tiles(picture: CellPicture, cell: tuple[int, int], most_px: int) -> Iterator[CellPicture]:
    """The picture in pieces of whole cells, none larger than so many pixels either way: some terminals take no larger ones."""
    wide, high = (most_px // side * side for side in cell)
    columns = wide // picture.stretch
    height, width = picture.pixels.shape
    for y in range(0, height, high):
        for x in range(0, width, columns):
            yield replace(
                picture,
                column=picture.column + x * picture.stretch // cell[0],
                row=picture.row + y // cell[1],
                pixels=picture.pixels[y : y + high, x : x + columns],
                pieces=None,
            )


def rgb(colours: Sequence[str]) -> list[tuple[int, int, int]]:
    """Colours as numbers from 0 to 255."""
    return [(int(c[1:3], 16), int(c[3:5], 16), int(c[5:7], 16)) for c in colours]
