"""The side elevation as pixels: parts to a pixel, dimensions as thin lines with ends; words stay where cells have them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from samovar.core.elevation import Box, Dimension, Elevation
from samovar.figures.palette import Palette
from samovar.tui.pixels.strokes import Strokes
from samovar.tui.widgets.elevation_scale import FIT_COLOUR, Scale, part_colour

PANEL_PX, DIMENSION_PX, EDGE_PX = 3.0, 1.4, 1.0
END_PX, DASH_PX, HATCH_PX = 5.0, 8.0, 5
Place = Callable[[float, float], tuple[float, float]]


def elevation_pixels(
    drawing: Elevation,
    scale: Scale,
    words: Sequence[tuple[int, int]],
    cell: tuple[int, int],
    palette: Palette,
) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
    """The pixels, shape (height, width), and their colours from 1 on.

    Args:
        drawing: what is drawn.
        scale: where its millimetres are in cells.
        words: cells, row and column, that something is written in.
        cell: its width and height in pixels.
        palette: the colours in force.
    """
    sheet = Strokes(scale.columns * cell[0], scale.rows * cell[1], palette.ground)

    def place(x: float, z: float) -> tuple[float, float]:
        return scale.across(x) * cell[0], scale.down(z) * cell[1]

    for box in drawing.boxes:
        _box(sheet, box, place(box.x0, box.z1), place(box.x1, box.z0), palette)
    if drawing.panel_mm is not None:
        # Its lower side is where the room under it ends.
        y = place(0.0, drawing.panel_mm)[1] - 0.5 * PANEL_PX
        dash = 0.0 if drawing.panel_known else DASH_PX
        sheet.line((0.0, y), (sheet.pixels.shape[1], y), PANEL_PX, palette.brass, dash)
    for d in drawing.dimensions:
        _dimension(sheet, d, place, getattr(palette, FIT_COLOUR[d.state]))
    sheet.clear_cells(words, cell)
    return sheet.pixels, sheet.colours


def _box(
    sheet: Strokes, box: Box, corner: tuple[float, float], opposite: tuple[float, float], palette: Palette
) -> None:
    colour = part_colour(palette, box.part)
    # What is as thin as a board is seen all the same.
    opposite = max(opposite[0], corner[0] + 1.0), max(opposite[1], corner[1] + 1.0)
    sheet.area(corner, opposite, colour, 0 if box.known else HATCH_PX)
    if box.part == "room":
        return
    (x0, y0), (x1, y1) = corner, opposite
    edge = palette.blend(colour, 0.6)
    for start, end in (
        ((x0, y0), (x1, y0)), ((x0, y1), (x1, y1)), ((x0, y0), (x0, y1)), ((x1, y0), (x1, y1)),
    ):  # fmt: skip
        sheet.line(start, end, EDGE_PX, edge, 0.0 if box.known else DASH_PX)


def _dimension(sheet: Strokes, d: Dimension, place: Place, colour: str) -> None:
    upright = d.axis == "z"
    start, end = (place(d.at, v) if upright else place(v, d.at) for v in (d.start, d.end))
    sheet.line(start, end, DIMENSION_PX, colour)
    for x, y in (start, end):
        aside = (END_PX, 0.0) if upright else (0.0, END_PX)
        sheet.line((x - aside[0], y - aside[1]), (x + aside[0], y + aside[1]), DIMENSION_PX, colour)
