"""A picture as what its terminal is sent, by whichever protocol it takes."""

from __future__ import annotations

from samovar.tui.pixels.graphics_protocol import packed, placed
from samovar.tui.pixels.picture import CellPicture, Piece, tiles
from samovar.tui.pixels.sixel import sixels
from samovar.tui.pixels.terminal import GRAPHICS, Pixels

LARGEST_SIXEL_PX = 800
"""Some terminals drop what is larger than 1000 pixels either way, whatever the window."""


def coded(picture: CellPicture, pixels: Pixels) -> tuple[Piece, ...]:
    """The picture's pieces, as this terminal takes them; of what shows nothing there are none."""
    parts = (picture,) if pixels.protocol == GRAPHICS else tiles(picture, pixels.cell, LARGEST_SIXEL_PX)
    pieces = []
    for part in parts:
        code = packed(part) if pixels.protocol == GRAPHICS else sixels(part)
        height, width = part.pixels.shape
        columns, rows = width * part.stretch // pixels.cell_width, height // pixels.cell_height
        if code:
            pieces.append(Piece(part.column - picture.column, part.row - picture.row, columns, rows, code))
    return tuple(pieces)


def shown(piece: Piece, pixels: Pixels, number: int) -> str:
    """What shows a piece at the cursor; by the graphics protocol as the picture of this number."""
    if pixels.protocol == GRAPHICS:
        return placed(piece.code, piece.columns, piece.rows, number)
    return piece.code
