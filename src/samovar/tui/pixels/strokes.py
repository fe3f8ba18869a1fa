"""Lines and marks between any two places as antialiased pixels: what curves over time never need."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from samovar.figures.palette import laid_over
from samovar.tui.pixels.picture import CLEAR

TONES = 4
"""Steps of how far a stroke covers a pixel at its edge."""
MOST_COLOURS = 63
"""Of strokes: each takes TONES numbers of a byte."""


class Strokes:
    """A sheet of pixels that lines are drawn on, the later ones over the earlier.

    Args:
        width, height: in pixels.
        ground: what soft edges are mixed with.
    """

    def __init__(self, width: int, height: int, ground: str) -> None:
        self.pixels = np.full((height, width), CLEAR, np.uint8)
        self._ground = ground
        self._colours: list[str] = []

    def line(
        self,
        start: tuple[float, float],
        end: tuple[float, float],
        thick: float,
        colour: str,
        dash: float = 0.0,
    ) -> None:
        """A line from one place to another, x to the right and y downwards; with `dash` broken into pieces of that length."""
        (x0, y0), (x1, y1) = start, end
        y, x, where = self._box(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1), 0.5 * thick + 1.0)
        length = max(float(np.hypot(x1 - x0, y1 - y0)), 1e-9)
        along = ((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / length
        nearest = np.clip(along, 0.0, length)
        away = np.hypot(x - x0 - nearest * (x1 - x0) / length, y - y0 - nearest * (y1 - y0) / length)
        cover = 0.5 * thick + 0.5 - away
        if dash:
            cover = np.where(along % (2.0 * dash) < dash, cover, 0.0)
        self._lay(where, cover, colour)

    def area(
        self, corner: tuple[float, float], opposite: tuple[float, float], colour: str, hatch: int = 0
    ) -> None:
        """A rectangle; with `hatch` in slanting stripes of that width."""
        number = self._number(colour)
        if number is None:
            return
        height, width = self.pixels.shape
        columns = slice(max(0, round(corner[0])), max(0, min(width, round(opposite[0]))))
        rows = slice(max(0, round(corner[1])), max(0, min(height, round(opposite[1]))))
        part = self.pixels[rows, columns]
        seen = np.ones(part.shape, bool)
        if hatch:
            y, x = np.indices(part.shape)
            seen = (x + y) // hatch % 2 == 0
        part[seen] = number + TONES

    def disc(self, at: tuple[float, float], radius: float, colour: str) -> None:
        """A filled circle."""
        y, x, where = self._box(*at, *at, radius + 1.0)
        self._lay(where, radius + 0.5 - np.hypot(x - at[0], y - at[1]), colour)

    def diamond(self, at: tuple[float, float], radius: float, colour: str) -> None:
        """A filled diamond."""
        y, x, where = self._box(*at, *at, radius + 1.0)
        self._lay(where, radius + 0.5 - (np.abs(x - at[0]) + np.abs(y - at[1])), colour)

    def clear_cells(self, cells: Sequence[tuple[int, int]], cell: tuple[int, int]) -> None:
        """Leave cells, by row and column, to what is written in them."""
        for row, column in cells:
            self.pixels[row * cell[1] : (row + 1) * cell[1], column * cell[0] : (column + 1) * cell[0]] = (
                CLEAR
            )

    @property
    def colours(self) -> tuple[str, ...]:
        """The colours of the numbers from 1 on."""
        tones = [tone / TONES for tone in range(1, TONES + 1)]
        return tuple(laid_over(self._ground, colour, tone) for colour in self._colours for tone in tones)

    def _box(
        self, x0: float, y0: float, x1: float, y1: float, room: float
    ) -> tuple[NDArray[np.float64], NDArray[np.float64], tuple[slice, slice]]:
        """The places of the pixels near a stroke, and where they are."""
        height, width = self.pixels.shape
        rows = slice(max(0, int(y0 - room)), max(0, min(height, int(y1 + room) + 2)))
        columns = slice(max(0, int(x0 - room)), max(0, min(width, int(x1 + room) + 2)))
        y = np.arange(rows.start, max(rows.start, rows.stop), dtype=float)[:, None] + 0.5
        x = np.arange(columns.start, max(columns.start, columns.stop), dtype=float)[None] + 0.5
        return y, x, (rows, columns)

    def _lay(self, where: tuple[slice, slice], cover: NDArray[np.float64], colour: str) -> None:
        first = self._number(colour)
        if first is None:
            return
        tone = np.rint(TONES * np.clip(cover, 0.0, 1.0)).astype(np.intp)
        part = self.pixels[where]
        # A soft edge never takes away from what is drawn already.
        seen = (tone == TONES) | ((tone > 0) & (part == CLEAR))
        part[seen] = (first + tone)[seen]

    def _number(self, colour: str) -> int | None:
        """What comes before a colour's own numbers; None where there are too many colours."""
        if colour not in self._colours:
            if len(self._colours) == MOST_COLOURS:
                return None
            self._colours.append(colour)
        return self._colours.index(colour) * TONES
