"""Where the millimetres of a side elevation are on so many cells, and in which colours its parts stand."""

from __future__ import annotations

from dataclasses import dataclass

from samovar.core.elevation import Elevation
from samovar.figures.palette import Palette

FIT_COLOUR = {"fits": "good", "touches": "caution", "does not fit": "bad", "not known": "faint", "": "text"}


@dataclass(frozen=True)
class Scale:
    """The same scale both ways: a cell counts as twice as high as wide.

    Attributes:
        columns, rows: cells.
        mm: what a cell is wide.
        x0, z0: the place along the board of the left edge, the height of the lower one, mm.
    """

    columns: int
    rows: int
    mm: float
    x0: float
    z0: float

    def across(self, x: float) -> float:
        """A place along the board, in cells from the left."""
        return (x - self.x0) / self.mm

    def down(self, z: float) -> float:
        """A height, in cells from the top."""
        return self.rows - 0.5 * (z - self.z0) / self.mm


def scale_of(drawing: Elevation, columns: int, rows: int) -> Scale:
    """The largest scale at which a drawing fits, with room for the words of its dimensions."""
    x0, x1, z0, z1 = drawing.bounds(0.0)
    words = max((len(d.text) for d in drawing.dimensions if d.axis == "z"), default=0) + 2
    mm = max((x1 - x0) / max(8, columns - 2 * words), (z1 - z0) / max(1, 2 * rows - 2))
    left, under = 0.5 * ((columns - 1) * mm - (x1 - x0)), 0.5 * ((2 * rows - 2) * mm - (z1 - z0))
    return Scale(columns, rows, mm, x0 - left, z0 - under)


def part_colour(palette: Palette, part: str) -> str:
    """The colour of a part: parts are told apart by place and name first."""
    base = {
        "board": palette.quantity["fan"], "processor": palette.faint, "cooler": palette.quantity["clock"],
        "memory": palette.quantity["noise"], "room": palette.line, "radiator": palette.quantity["clock"],
    }[part]  # fmt: skip
    return palette.blend(base, 0.55 if part != "room" else 1.0)
