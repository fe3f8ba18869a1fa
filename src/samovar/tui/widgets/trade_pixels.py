"""The trade's crosses, curves and lines as pixels, in the places that cells have for them."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from samovar.core.compare.trade import Trade
from samovar.core.measured import Measured
from samovar.figures.palette import Palette
from samovar.tui.pixels.strokes import Strokes

CROSS_PX, CURVE_PX, LINE_PX = 2.0, 1.4, 1.2
END_PX, STEP_PX, MARK_PX = 4.0, 3.0, 6.0
DASH_PX = 6.0
Span = tuple[float, float]


def trade_pixels(
    trade: Trade,
    colours: Mapping[str, str],
    limit: float | None,
    spans: tuple[Span, Span],
    size: tuple[int, int],
    words: Sequence[tuple[int, int]],
    cell: tuple[int, int],
    palette: Palette,
) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
    """The pixels, shape (height, width), and their colours from 1 on.

    Args:
        trade: the points.
        colours: of the setups.
        limit: where the demand's line stands.
        spans: what the axes show, across and up, to the middle of the outermost cells.
        size: columns and rows of cells.
        words: cells, row and column, that something is written in.
        cell: its width and height in pixels.
        palette: the colours in force.
    """
    (low, high), (bottom, top) = spans
    columns, rows = size
    sheet = Strokes(columns * cell[0], rows * cell[1], palette.ground)

    def place(across: float, up: float) -> tuple[float, float]:
        x = (across - low) / (high - low) * (columns - 1) + 0.5
        y = (top - up) / (top - bottom) * (rows - 1) + 0.5
        return x * cell[0], y * cell[1]

    if limit is not None:
        sheet.line(place(limit, top), place(limit, bottom), LINE_PX, palette.caution, DASH_PX)
    best = [place(p.across.value, p.up.value) for p in trade.unbeaten]
    for start, end in itertools.pairwise(best):
        sheet.line(start, end, LINE_PX, palette.brass, DASH_PX)
    for point in trade.points:
        colour = colours.get(point.name, palette.text)
        steps = [place(x, y) for x, y in point.curve]
        for start, end in itertools.pairwise(steps):
            sheet.line(start, end, CURVE_PX, colour)
        for step in steps:
            sheet.disc(step, STEP_PX, colour)
        (left, right), (under, over) = _ends(point.across), _ends(point.up)
        across, up = point.across.value, point.up.value
        for start, end in ((place(left, up), place(right, up)), (place(across, under), place(across, over))):
            sheet.line(start, end, CROSS_PX, colour)
            for x, y in (start, end):
                turned = start[1] == end[1]
                sheet.line(
                    (x - END_PX * (not turned), y - END_PX * turned),
                    (x + END_PX * (not turned), y + END_PX * turned),
                    CROSS_PX, colour,
                )  # fmt: skip
        if point.unbeaten:
            sheet.diamond(place(across, up), MARK_PX, colour)
    sheet.clear_cells(words, cell)
    return sheet.pixels, sheet.colours


def _ends(value: Measured) -> Span:
    half = value.half_width or 0.0
    return value.value - half, value.value + half
