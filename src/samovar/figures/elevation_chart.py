"""The side elevation on paper: parts to scale, every clearance dimensioned."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from samovar.core.elevation import Box, Dimension, Elevation
from samovar.core.fit import summary
from samovar.figures.palette import PAPER
from samovar.figures.style import WIDTH_IN, Margins, in_a_column, new_figure, say_title
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

TEXT_MM = 46.0
_PART = {
    "board": PAPER.text, "processor": PAPER.soft, "cooler": PAPER.brass, "memory": PAPER.faint, "room": PAPER.soft,
    "radiator": PAPER.brass,
}  # fmt: skip
"""Parts are drawn in tones of their own: no colour of a quantity stands for a thing."""
_STATE = {
    "fits": PAPER.good,
    "touches": PAPER.caution,
    "does not fit": PAPER.bad,
    "not known": PAPER.faint,
    "": PAPER.text,
}


@styled
def elevation_chart(drawing: Elevation, rig: str) -> Figure:
    """The drawing as a figure of a page's width, the same scale both ways; what is not known is dashed.

    Args:
        drawing: what `core.elevation.elevation` gives.
        rig: the rig's name, for the title.
    """
    x0, x1, z0, z1 = drawing.bounds(TEXT_MM)
    height_in = min(8.0, max(2.2, WIDTH_IN * (z1 - z0) / (x1 - x0))) + 0.8
    figure = new_figure(height_in, Margins(0.3, 0.5, 0.5, 0.42, 0.0))
    axes = figure.subplots()
    # A column is all the drawing's: its words are as large as on the page, nearly.
    in_a_column(figure, lambda: figure.subplots_adjust(left=0.08, right=0.83))
    axes.set_aspect("equal")
    axes.set_xlim(x0, x1)
    axes.set_ylim(z0 - 14.0, z1)
    axes.axis("off")
    say_title(figure, f"{drawing.title} on {rig}: {summary(list(drawing.items))}")
    for box in drawing.boxes:
        _box(axes, box)
    if drawing.panel_mm is not None:
        style = "solid" if drawing.panel_known else (0, (4, 3))
        axes.plot([x0, x1], [drawing.panel_mm] * 2, color=PAPER.brass, linewidth=2.0, linestyle=style)
        words = "side panel" if drawing.panel_known else "side panel: height not known"
        axes.text(x1, drawing.panel_mm + 1.5, words, ha="right", va="bottom", fontsize=8, color=PAPER.brass)
    for dimension in drawing.dimensions:
        _dimension(axes, dimension, drawing.boxes)
    axes.text(
        0.0, -0.01, "mm; coolers and panel from the processor's lid,\nmemory from the board; dashed: not known",
        transform=axes.transAxes, fontsize=7, color=PAPER.soft, ha="left", va="top",
    )  # fmt: skip
    return figure


def _box(axes: Axes, box: Box) -> None:
    from matplotlib.patches import Rectangle

    colour = _PART[box.part]
    axes.add_patch(
        Rectangle(
            (box.x0, box.z0), box.x1 - box.x0, box.z1 - box.z0,
            facecolor=PAPER.blend(colour, 0.22) if box.known and box.part != "room" else "none",
            edgecolor=colour, linewidth=1.0, linestyle="solid" if box.known else (0, (3, 2)),
        )
    )  # fmt: skip
    if (
        box.name not in ("base", "board", "processor")
        and box.part != "room"
        and box.x1 - box.x0 > 2.4 * len(box.name)
    ):
        axes.text(
            (box.x0 + box.x1) / 2,
            (box.z0 + box.z1) / 2,
            box.name,
            ha="center",
            va="center",
            fontsize=8.5,
        )


def _dimension(axes: Axes, d: Dimension, boxes: Sequence[Box]) -> None:
    colour = _STATE[d.state]
    along = d.axis == "x"
    start, end = ((d.start, d.at), (d.end, d.at)) if along else ((d.at, d.start), (d.at, d.end))
    short = abs(d.end - d.start) < 9.0
    axes.annotate(
        "", xy=end, xytext=start,
        arrowprops={"arrowstyle": "|-|,widthA=0.25,widthB=0.25" if short else "<|-|>", "color": colour, "linewidth": 0.9, "shrinkA": 0, "shrinkB": 0},
    )  # fmt: skip
    middle = (d.start + d.end) / 2
    weight = "bold" if d.state else "normal"
    if along:
        # The words stand on the side of the line where no part is.
        free = all(b.z1 < d.at for b in boxes if b.x0 < d.end and b.x1 > d.start)
        axes.text(
            middle, d.at + (1.2 if free else -1.2), d.text, ha="center", va="bottom" if free else "top",
            fontsize=8, color=colour, weight=weight,
        )  # fmt: skip
    else:
        left = d.at < 0
        axes.text(
            d.at + (-2.0 if left else 2.0), middle, d.text, ha="right" if left else "left", va="top" if short else "center",
            fontsize=8, color=colour, weight=weight,
        )  # fmt: skip
