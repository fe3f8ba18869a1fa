"""A strip's curves as pixels: the lines with soft edges, and the tint and the band under them to a pixel."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from samovar.core.recording import Array
from samovar.figures.palette import laid_over
from samovar.tui.pixels.picture import CLEAR
from samovar.tui.widgets.raster import FULL, Lines, between_columns, lines_of_all
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
    curves = [low, high]
    if main is not None:
        bands = (main.band_low, main.band_high)
        curves += [row[None] for row in (main.high, *bands) if row is not None]
    fine = between_columns(np.concatenate(curves), width)
    count = len(colours)
    if main is not None:
        wanted = _wanted(fine[2 * count :], ends, under)
        np.copyto(pixels, _NUMBER[wanted], where=wanted != under)
        under = wanted
    table, numbers = _table(tuple(colours), ground.colours)
    lines = lines_of_all(
        fine[:count], fine[count : 2 * count], *ends, height, np.where(strong, STRONG_PX, THIN_PX)
    )
    _soft_edges(pixels, under, lines, numbers)
    whole = numbers[::-1, _PLAIN, FULL].tolist()
    for number, alike in itertools.groupby(range(count), whole.__getitem__):
        # From the last channel to the first: what is drawn last is seen.
        chosen = [count - 1 - k for k in alike]
        np.copyto(pixels, number, where=_inside(lines.first[chosen], lines.last[chosen], height))
    np.copyto(pixels, CLEAR, where=_spread(~ground.free, cell))
    return pixels, table


def _inside(first: NDArray[np.int16], last: NDArray[np.int16], height: int) -> NDArray[np.bool_]:
    """The pixels that lines of one colour fill whole, shape (height, width); `first` and `last` have shape (m, width)."""
    begins = np.minimum(np.maximum(first, 0), height).astype(np.intp)
    ends = np.maximum(np.minimum(last + 1, height), begins)
    width = first.shape[1]
    across = np.arange(width)
    # How many more lines begin than end in each row; added up from the top they tell how many are there.
    size = (height + 1) * width
    begun = np.bincount((begins * width + across).ravel(), minlength=size).astype(np.int16)
    ended = np.bincount((ends * width + across).ravel(), minlength=size).astype(np.int16)
    change = (begun - ended).reshape(height + 1, width)
    return np.asarray(np.cumsum(change[:-1], axis=0, dtype=np.int16) > 0)


def _soft_edges(
    pixels: NDArray[np.uint8], under: NDArray[np.uint8], lines: Lines, numbers: NDArray[np.uint8]
) -> None:
    """The pixels that lines cover in part. They come before the lines, so that none takes away from another line."""
    height = len(pixels)
    # The first channel comes last: what is written last is seen.
    rows = np.stack([lines.first[::-1] - 1, lines.last[::-1] + 1])
    tones = np.stack([lines.above[::-1], lines.below[::-1]])
    _, channel, column = seen = np.nonzero((tones > 0) & (rows >= 0) & (rows < height))
    at, tone = rows[seen], tones[seen]
    below = under[at, column]
    # Over the cursor or a window a soft edge would show the wrong ground.
    hard = below == _OTHER
    pixels[at, column] = numbers[
        len(numbers) - 1 - channel, np.where(hard, _PLAIN, below), np.where(hard, FULL, tone)
    ]


def _spread(cells: NDArray[Any], cell: tuple[int, int]) -> NDArray[Any]:
    return np.repeat(np.repeat(cells, cell[0], axis=1), cell[1], axis=0)


def _wanted(curves: Array, ends: tuple[float, float], under: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """What should lie under every pixel: the tint below the curve, the band about it. `curves`: the line, and the band's lower and
    upper edge where there is one, at every column of pixels."""
    height = len(under)
    bottom, top = ends
    y = np.arange(height, dtype=np.int16)[:, None]
    with np.errstate(invalid="ignore"):
        # From the first row whose middle lies under the curve.
        rows = (top - curves) * (height / max(top - bottom, 1e-12)) - 0.5
        rows = np.where(np.isfinite(rows), np.minimum(np.maximum(rows, -1.0), height), np.nan)
    begins = np.ceil(np.nan_to_num(rows, nan=float(height))).astype(np.int16)
    wanted = (y >= begins[0]).astype(np.uint8)
    if len(curves) > 1:
        ends_at = np.floor(np.nan_to_num(rows[1], nan=-1.0)).astype(np.int16)
        np.copyto(wanted, _BAND, where=(y >= begins[2]) & (y <= ends_at))
    np.copyto(wanted, _OTHER, where=under == _OTHER)
    return wanted


@lru_cache(maxsize=64)
def _table(
    colours: tuple[str, ...], grounds: tuple[str, str, str]
) -> tuple[tuple[str, ...], NDArray[np.uint8]]:
    """The colours by their numbers from 1 on: tint, band, plain ground, then each line's over each ground in every tone; and the number by channel,
    ground and tone, shape (m, 3, FULL + 1)."""
    table = [grounds[_TINT], grounds[_BAND], grounds[_PLAIN]]
    found: dict[tuple[str, str, int], int] = {}
    numbers = np.zeros((len(colours), len(grounds), FULL + 1), np.uint8)
    for channel, colour in enumerate(colours):
        for number, ground in enumerate(grounds):
            for tone in range(1, FULL + 1):
                # The tint is so faint that its edges are as good as those of the plain ground: fewer colours, fewer sixels.
                seen = grounds[_PLAIN] if number == _TINT else ground
                key = (colour, "" if tone == FULL else seen, tone)
                if key not in found and len(table) < MOST_COLOURS:
                    table.append(laid_over(seen, colour, tone / FULL))
                    found[key] = len(table)
                numbers[channel, number, tone] = found.get(key, found.get((colour, "", FULL), len(table)))
    return tuple(table), numbers
