"""Curves as pixels: the lines with soft edges, and the tint and the band under them to a pixel.

A curve comes as whole numbers, so that the same piece of it drawn at another place of the window is known to be the same.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from samovar.core.recording import Array
from samovar.figures.palette import laid_over
from samovar.tui.pixels.picture import CLEAR
from samovar.tui.widgets.raster import any_of, inside_of
from samovar.tui.widgets.strip_curves import Drawn

STRONG_PX, THIN_PX = 1.9, 1.2
"""Width of the leading line, and of the others."""
FULL = 4
"""Steps of how far a line covers a pixel at its edge: more tones nobody sees apart."""
STRETCH = 2
"""A column of the picture is two pixels wide: half the work, and nobody sees it."""
MOST_COLOURS = 254
"""One of a byte's numbers is left for the cursor's ground."""
PLAIN, TINT, BAND, OTHER = range(4)
"""What lies under a pixel."""
NUMBERS = np.array([3, 1, 2, 0], np.uint8)
"""Of the plain ground, the tint, the band among the colours; nothing is painted over other grounds."""
STEPS = 8
"""Whole numbers to a pixel of height: finer than tones tell."""
GAP = np.int16(-(2**15))
"""Where a curve has no value."""
MARGIN = 1
"""Cells to either side that a piece must know of to join its lines to those beside it."""


@dataclass(frozen=True)
class Ground:
    """What the cells of a strip have under its curves.

    Attributes:
        cells: PLAIN, TINT, BAND or OTHER, shape (rows, columns), uint8; OTHER is the averaging window's, say.
        free: where nothing is written, so that pixels may be drawn, likewise.
        colours: of the first three.
    """

    cells: NDArray[np.uint8]
    free: NDArray[np.bool_]
    colours: tuple[str, str, str]


@dataclass(frozen=True)
class Ink:
    """How the lines are drawn: their colours, and which of them are thick."""

    colours: tuple[str, ...]
    strong: tuple[bool, ...]


def heights(
    low: Array, high: Array, main: Drawn | None, ends: tuple[float, float], height: int
) -> NDArray[np.int16]:
    """Curves as heights in STEPS of a pixel, from the top, with MARGIN cells of nothing at both sides.

    Args:
        low, high: the lines, shape (m, 2 * columns), NaN where there is none.
        main: the leading curve with its band, where there is ground under it.
        ends: the values at the lower and upper edge.
        height: in pixels.

    Returns:
        Shape (2 m + 1 + 2, 2 * (columns + 2 * MARGIN)): the lower ends of the lines, their upper ends, then what the tint lies under
        and the band's lower and upper edge, as far as there is any; GAP where nothing is.
    """
    curves = [low, high]
    if main is not None:
        curves += [row[None] for row in (main.high, main.band_low, main.band_high) if row is not None]
    bottom, top = ends
    values = np.concatenate(curves)
    with np.errstate(invalid="ignore"):
        values = (top - values) * (STEPS * (height - 1) / max(top - bottom, 1e-12)) + 0.5 * STEPS
    np.rint(values, out=values)
    # What is further off than this is not seen anyway.
    np.maximum(values, -2.0 * STEPS, out=values)
    np.minimum(values, (height + 2.0) * STEPS, out=values)
    values[np.isnan(values)] = GAP
    count, width = values.shape
    found = np.full((count, width + 4 * MARGIN), GAP)
    found[:, 2 * MARGIN : 2 * MARGIN + width] = values
    return found


def strip_pixels(
    cell: tuple[int, int], curves: NDArray[np.int16], ink: Ink, ground: Ground
) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
    """The pixels, shape (height, width / STRETCH), CLEAR where the cell is seen, and the colours that the other numbers stand for, from
    1 on.

    Args:
        cell: a cell's width and height in pixels.
        curves: as `heights` gives them, of these cells and MARGIN more at each side.
        ink: of the lines.
        ground: what the cells have.
    """
    rows, columns = ground.cells.shape
    cell = cell[0] // STRETCH, cell[1]
    height, count = rows * cell[1], len(ink.colours)
    under = _spread(ground.cells, cell)
    fine = _between(curves, columns, cell[0])
    pixels = np.zeros(under.shape, np.uint8)
    if len(fine) > 2 * count:
        wanted = _wanted(fine[2 * count :, 1:-1], under)
        np.copyto(pixels, NUMBERS[wanted], where=wanted != under)
        under = wanted
    table, numbers = table_of(ink.colours, ground.colours)
    lines = _lines(fine[:count], fine[count : 2 * count], height, np.where(ink.strong, STRONG_PX, THIN_PX))
    _soft_edges(pixels, under, lines, numbers)
    whole = numbers[::-1, PLAIN, FULL].tolist()
    inside = inside_of(lines.first, np.maximum(lines.last + np.int16(1), lines.first), height)
    for number, alike in itertools.groupby(range(count), whole.__getitem__):
        # From the last channel to the first: what is drawn last is seen.
        chosen = [count - 1 - k for k in alike]
        first_last = slice(chosen[-1], chosen[0] + 1)
        np.copyto(pixels, number, where=any_of(inside[first_last]).view(bool))
    if not ground.free.all():
        np.copyto(pixels, CLEAR, where=_spread(~ground.free, cell))
    return pixels, table


@dataclass(frozen=True)
class _Lines:
    """Several curves in rows of pixels, each of shape (m, width): of every column the first and the last row that a line fills
    whole (none where `last` is less), and how far, 0 to FULL, it covers the rows above and below those."""

    first: NDArray[np.int16]
    last: NDArray[np.int16]
    above: NDArray[np.int8]
    below: NDArray[np.int8]


@lru_cache(maxsize=64)
def _places(columns: int, per: int) -> tuple[NDArray[np.intp], NDArray[np.float32], NDArray[np.intp]]:
    """Of every column of pixels, and one more at each side: the half column before it, how far it is to the next, the nearest."""
    at = (np.arange(-1, columns * per + 1) + 0.5) * (2.0 / per) - 0.5 + 2.0 * MARGIN
    left = np.floor(at)
    return left.astype(np.intp), (at - left).astype(np.float32), np.rint(at).astype(np.intp)


def _between(curves: NDArray[np.int16], columns: int, per: int) -> NDArray[np.float32]:
    """Curves at every column of pixels and one more at each side, in pixels, NaN where there are none: half columns joined by straight
    lines, but not over gaps."""
    left, share, nearest = _places(columns, per)
    values = curves.astype(np.float32)
    values *= np.float32(1.0 / STEPS)
    gaps = curves == GAP
    if not gaps.any():
        joined = values[:, left]
        joined += (values[:, left + 1] - joined) * share
        return joined
    values[gaps] = np.nan
    joined = values[:, left]
    joined += (values[:, left + 1] - joined) * share
    return np.where(np.isfinite(joined), joined, values[:, nearest])


def _lines(
    low: NDArray[np.float32], high: NDArray[np.float32], height: int, thick: NDArray[np.float64]
) -> _Lines:
    """Lines from their upper to their lower ends, shape (m, width + 2) each, of so many pixels' width, antialiased."""
    half = (0.5 * thick[:, None]).astype(np.float32)
    begin, end = high - half, low + half
    # Neighbours meet half way, or a steep flank would fall apart.
    falls = 0.5 * np.fmax(high[:, 1:] - low[:, :-1], 0.0)
    climbs = 0.5 * np.fmax(high[:, :-1] - low[:, 1:], 0.0)
    end[:, :-1] += falls
    begin[:, 1:] -= falls
    end[:, 1:] = np.fmax(end[:, 1:], low[:, 1:] + half + climbs)
    begin[:, :-1] = np.fmin(begin[:, :-1], high[:, :-1] - half - climbs)
    begin, end = begin[:, 1:-1], end[:, 1:-1]
    beyond = np.float32(height + 2.0)
    known = np.isfinite(begin) & np.isfinite(end)
    if not known.all():
        begin, end = np.where(known, begin, beyond), np.where(known, end, beyond)
    begin, end = np.minimum(np.maximum(begin, -2.0), beyond), np.minimum(np.maximum(end, -2.0), beyond)
    first, past = np.ceil(begin), np.floor(end)
    above, below = np.rint(FULL * (first - begin)), np.rint(FULL * (end - past))
    return _Lines(
        first.astype(np.int16), past.astype(np.int16) - np.int16(1), above.astype(np.int8), below.astype(np.int8)
    )  # fmt: skip


def _soft_edges(
    pixels: NDArray[np.uint8], under: NDArray[np.uint8], lines: _Lines, numbers: NDArray[np.uint8]
) -> None:
    """The pixels that lines cover in part. They come before the lines, so that none takes away from another line."""
    height, width = pixels.shape
    # The first channel comes last: what is written last is seen.
    rows = np.concatenate([lines.first[::-1] - 1, lines.last[::-1] + 1], axis=1)
    tones = np.concatenate([lines.above[::-1], lines.below[::-1]], axis=1)
    place = np.flatnonzero((tones > 0) & (rows >= 0) & (rows < height))
    channel, column = np.divmod(place, 2 * width)
    at = rows.reshape(-1)[place] * np.intp(width) + column % width
    below = under.reshape(-1)[at]
    tone = tones.reshape(-1)[place]
    # Over the averaging window a soft edge would show the wrong ground.
    hard = below == OTHER
    if hard.any():
        below, tone = np.where(hard, PLAIN, below), np.where(hard, FULL, tone)
    pixels.reshape(-1)[at] = numbers[::-1][channel, below, tone]


def _spread(cells: NDArray[Any], cell: tuple[int, int]) -> NDArray[Any]:
    return np.repeat(np.repeat(cells, cell[0], axis=1), cell[1], axis=0)


def _wanted(curves: NDArray[np.float32], under: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """What should lie under every pixel: the tint below the curve, the band about it. `curves`: the line, and the band's lower and
    upper edge where there is one, at every column of pixels."""
    height = len(under)
    y = np.arange(height, dtype=np.int16)[:, None]
    # From the first row whose middle lies under the curve.
    rows = curves - np.float32(0.5)
    missing = np.isnan(rows)
    begins = np.ceil(np.where(missing, height, rows)).astype(np.int16)
    wanted = (y >= begins[0]).view(np.uint8)
    if len(curves) > 1:
        ends_at = np.floor(np.where(missing[1], -1.0, rows[1])).astype(np.int16)
        np.copyto(wanted, BAND, where=(y >= begins[2]) & (y <= ends_at))
    other = under == OTHER
    if other.any():
        np.copyto(wanted, OTHER, where=other)
    return wanted


@lru_cache(maxsize=64)
def table_of(
    colours: tuple[str, ...], grounds: tuple[str, str, str]
) -> tuple[tuple[str, ...], NDArray[np.uint8]]:
    """The colours by their numbers from 1 on: tint, band, plain ground, then each line's over each ground in every tone; and the number
    by channel, ground and tone, shape (m, 3, FULL + 1)."""
    table = [grounds[TINT], grounds[BAND], grounds[PLAIN]]
    found: dict[tuple[str, str, int], int] = {}
    numbers = np.zeros((len(colours), len(grounds), FULL + 1), np.uint8)
    for channel, colour in enumerate(colours):
        for number, ground in enumerate(grounds):
            for tone in range(1, FULL + 1):
                # The tint is so faint that its edges are as good as those of the plain ground: fewer colours, fewer sixels.
                seen = grounds[PLAIN] if number == TINT else ground
                key = (colour, "" if tone == FULL else seen, tone)
                if key not in found and len(table) < MOST_COLOURS:
                    table.append(laid_over(seen, colour, tone / FULL))
                    found[key] = len(table)
                numbers[channel, number, tone] = found.get(key, found.get((colour, "", FULL), len(table)))
    return tuple(table), numbers
