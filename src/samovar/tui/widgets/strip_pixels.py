"""A strip's curves as pixels: the lines with soft edges, and the tint and the band under them to a pixel."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from samovar.core.recording import Array
from samovar.tui.pixels.picture import CLEAR, mixed
from samovar.tui.widgets.raster import FULL, between_columns, lines_of_all
from samovar.tui.widgets.strip_curves import Drawn

STRONG_PX, THIN_PX = 1.9, 1.2
"""Width of the leading line, and of the others."""
_PLAIN, _TINT, _BAND, _OTHER = range(4)
"""What lies under a pixel."""
_NUMBER = np.array([3, 1, 2, 0], np.uint8)
"""Of the plain ground, the tint, the band among the colours; nothing is painted over other grounds."""
STRETCH = 2
MOST_COLOURS = 255


@dataclass(frozen=True)
class Ground:
    """What the cells of a strip have under its curves.

    Attributes:
        cells: numbers of grounds, shape (rows, columns).
        free: where nothing is written, so that pixels may be drawn, likewise.
        kinds: the numbers of the plain ground, the tint and the band among `cells`; what is none of them is the cursor's, say.
        colours: of these three.
    """

    cells: NDArray[np.intp]
    free: NDArray[np.bool_]
    kinds: tuple[int, int, int]
    colours: tuple[str, str, str]


def strip_pixels(
    cell: tuple[int, int],
    low: Array,
    high: Array,
    main: Drawn | None,
    ends: tuple[float, float],
    strong: NDArray[np.bool_],
    colours: Sequence[str],
    ground: Ground,
) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
    """The pixels, shape (height, width), 0 where the cell is seen, and the colours that the other numbers stand for, from 1 on.

    Args:
        cell: a cell's width and height in pixels.
        low, high: the lines, shape (m, 2 * columns), NaN where there is none.
        main: the leading curve with its band, where there is ground under it.
        ends: the values at the lower and upper edge.
        strong: which lines are thick, shape (m,).
        colours: of the lines.
        ground: what the cells have.
    """
    rows, columns = ground.cells.shape
    # A column of the picture is two pixels wide: half the work, and nobody sees it.
    cell = cell[0] // STRETCH, cell[1]
    height, width = rows * cell[1], columns * cell[0]
    kind = np.full(ground.cells.shape, _OTHER, np.uint8)
    for number, of in zip((_PLAIN, _TINT, _BAND), ground.kinds, strict=True):
        kind[ground.cells == of] = number
    under = _spread(kind, cell)
    pixels = np.zeros((height, width), np.uint8)
    if main is not None:
        wanted = _wanted(main, ends, under)
        painted = wanted != under
        pixels[painted] = _NUMBER[wanted[painted]]
        under = wanted
    table, numbers = _table(colours, ground.colours)
    fine_low, fine_high = between_columns(low, width), between_columns(high, width)
    lines = lines_of_all(fine_low, fine_high, *ends, height, np.where(strong, STRONG_PX, THIN_PX))
    y, x = np.arange(height, dtype=np.int16)[:, None], np.arange(width)
    for channel in reversed(range(len(colours))):
        first, last = lines.first[channel], lines.last[channel]
        np.copyto(pixels, numbers[channel, _PLAIN, FULL], where=(y >= first) & (y <= last))
        for at, tone in ((first - 1, lines.above[channel]), (last + 1, lines.below[channel])):
            seen = (tone > 0) & (at >= 0) & (at < height)
            edge, column, tones = at[seen], x[seen], tone[seen]
            below = under[edge, column]
            # Over the cursor or a window a soft edge would show the wrong ground.
            hard = below == _OTHER
            pixels[edge, column] = numbers[
                channel, np.where(hard, _PLAIN, below), np.where(hard, FULL, tones)
            ]
    pixels[_spread(ground.free.astype(np.uint8), cell) == 0] = CLEAR
    return pixels, table


def _spread(cells: NDArray[np.uint8], cell: tuple[int, int]) -> NDArray[np.uint8]:
    return np.repeat(np.repeat(cells, cell[1], axis=0), cell[0], axis=1)


def _wanted(main: Drawn, ends: tuple[float, float], under: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """What should lie under every pixel: the tint below the curve, the band about it."""
    height, width = under.shape
    bottom, top = ends
    scale = height / max(top - bottom, 1e-12)
    y = np.arange(height)[:, None] + 0.5
    line = between_columns(main.high[None], width)[0]
    with np.errstate(invalid="ignore"):
        wanted: NDArray[np.uint8] = np.where(y >= (top - line) * scale, _TINT, _PLAIN).astype(np.uint8)
        if main.band_low is not None and main.band_high is not None:
            low, high = (between_columns(edge[None], width)[0] for edge in (main.band_low, main.band_high))
            wanted[(y >= (top - high) * scale) & (y <= (top - low) * scale)] = _BAND
    wanted[under == _OTHER] = _OTHER
    return wanted


def _table(
    colours: Sequence[str], grounds: tuple[str, str, str]
) -> tuple[tuple[str, ...], NDArray[np.uint8]]:
    """The colours by their numbers from 1 on: tint, band, plain ground, then each line's over each ground in every tone; and the number by channel,
    ground and tone, shape (m, 3, FULL + 1)."""
    table = [grounds[_TINT], grounds[_BAND], grounds[_PLAIN]]
    found: dict[tuple[str, str, int], int] = {}
    numbers = np.zeros((len(colours), len(grounds), FULL + 1), np.uint8)
    for channel, colour in enumerate(colours):
        for number, ground in enumerate(grounds):
            for tone in range(1, FULL + 1):
                key = (colour, "" if tone == FULL else ground, tone)
                if key not in found and len(table) < MOST_COLOURS:
                    table.append(mixed(ground, colour, tone / FULL))
                    found[key] = len(table)
                numbers[channel, number, tone] = found.get(key, found.get((colour, "", FULL), len(table)))
    return tuple(table), numbers
