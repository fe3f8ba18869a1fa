"""Surfaces on paper: temperature pictures or plans of setups beside each other on one scale, spots and areas with their degrees."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from samovar.core.measured import Measured
from samovar.core.recording import Array
from samovar.core.surfaces.plan import PART, SPOT, Item, Plan
from samovar.figures.heat_scale import DARK_INK, STEP, heat_colour, heat_colours, ink_over, round_scale
from samovar.figures.palette import PAPER
from samovar.figures.style import WIDTH_IN, Margins, in_a_column, new_figure, say_title
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

ACROSS = 2
"""Faces beside each other: more would be too small to read."""
TALLEST_IN = 4.2
HEAD_IN, NAME_IN, SCALE_IN, EDGE_IN = 0.5, 0.3, 0.62, 0.12
COLUMN_TITLE_IN = 0.3
"""In a column a title takes a line more."""
RIGHT_OF = 0.62
"""A spot further right than this share has its words at its left."""
FEW_TICKS = 6


@dataclass(frozen=True)
class Face:
    """One face of one setup: its name, the plan, the picture over it (shape (rows, columns), None for the plan alone), what is known
    of its spots and areas by name, and the unit of all these degrees."""

    name: str
    plan: Plan
    degrees: Array | None
    values: dict[str, Measured]
    unit: str = "°C"


@styled
def surface_chart(faces: Sequence[Face], title: str, subtitle: str = "") -> Figure:
    """Draw them: all on one scale of temperature, each face to scale.

    Args:
        faces: at least one.
        title, subtitle: the finding, and what is drawn.
    """
    low, high = _scale(faces)
    across = min(ACROSS, len(faces))
    down = -(-len(faces) // across)
    widest = max(f.plan.width_mm / f.plan.height_mm for f in faces)
    each_in = min(TALLEST_IN, (WIDTH_IN - 2.0 * EDGE_IN) / across / widest)
    height_in = HEAD_IN + down * (each_in + NAME_IN) + SCALE_IN
    figure = new_figure(height_in, Margins(EDGE_IN, EDGE_IN, HEAD_IN, SCALE_IN, 0.0))
    drawn = [figure.add_axes((0.0, 0.0, 1.0, 1.0)) for _ in faces]
    for axes, face in zip(drawn, faces, strict=True):
        _face(axes, face, low, high)
    bar = _bar(figure, low, high, faces[0].unit)
    _arrange(figure, drawn, bar, across)

    # A column is too narrow for two side by side: they stand below each other, and it is as tall as that takes.
    def below_each_other() -> None:
        width_in = float(figure.get_size_inches()[0])
        each = (width_in - 2.0 * EDGE_IN) / widest + NAME_IN
        figure.set_size_inches(width_in, HEAD_IN + len(faces) * each + SCALE_IN + COLUMN_TITLE_IN)
        _arrange(figure, drawn, bar, 1, COLUMN_TITLE_IN)

    in_a_column(figure, below_each_other)
    say_title(figure, title, subtitle)
    return figure


def _arrange(figure: Figure, drawn: Sequence[Axes], bar: Axes, across: int, more_in: float = 0.0) -> None:
    """Set the faces out, so many beside each other, with the scale below them and so much more room for the title."""
    width_in, height_in = (float(side) for side in figure.get_size_inches())
    down = -(-len(drawn) // across)
    wide = (width_in - EDGE_IN * (across + 1)) / across
    head_in = HEAD_IN + more_in
    high = (height_in - head_in - SCALE_IN) / down - NAME_IN
    for k, axes in enumerate(drawn):
        left = EDGE_IN + (k % across) * (wide + EDGE_IN)
        top = head_in + (k // across) * (high + NAME_IN) + NAME_IN
        axes.set_position(
            (left / width_in, 1.0 - (top + high) / height_in, wide / width_in, high / height_in)
        )
    bar.set_position((0.3, (SCALE_IN - 0.22) / height_in, 0.4, 0.11 / height_in))


def _scale(faces: Sequence[Face]) -> tuple[float, float]:
    every = [v.value for f in faces for v in f.values.values()]
    for face in faces:
        if face.degrees is not None:
            every += [float(np.nanmin(face.degrees)), float(np.nanmax(face.degrees))]
    return round_scale(every)


def _face(axes: Axes, face: Face, low: float, high: float) -> None:
    from matplotlib.colors import ListedColormap
    from matplotlib.patches import Rectangle

    plan = face.plan
    axes.set_xlim(0.0, plan.width_mm)
    axes.set_ylim(plan.height_mm, 0.0)
    axes.set_aspect("equal")
    axes.set_xticks([])
    axes.set_yticks([])
    for spine in axes.spines.values():
        spine.set_visible(True)
        spine.set_color(PAPER.soft)
    axes.set_title(face.name, fontsize=9.5, fontweight="bold", loc="left", color=PAPER.text, pad=4)
    axes.set_anchor("NW")
    if face.degrees is not None:
        axes.imshow(
            face.degrees, extent=(0.0, plan.width_mm, plan.height_mm, 0.0), cmap=ListedColormap(heat_colours() / 255.0),
            vmin=low, vmax=high, interpolation="nearest", aspect="equal", zorder=1,
        )  # fmt: skip
    for item in plan.items:
        if item.kind == PART:
            axes.add_patch(
                Rectangle(
                    (item.x_mm, item.y_mm), item.width_mm, item.height_mm, zorder=2, lw=0.6,
                    edgecolor=PAPER.faint, facecolor=PAPER.raised if face.degrees is None else "none",
                )
            )  # fmt: skip
            if face.degrees is None:
                axes.text(
                    *item.middle,
                    item.name,
                    fontsize=6.5,
                    color=PAPER.soft,
                    ha="center",
                    va="center",
                    zorder=3,
                )
    for item in plan.measured:
        _measured(axes, face, item, low, high)


def _measured(axes: Axes, face: Face, item: Item, low: float, high: float) -> None:
    from matplotlib.patches import Rectangle
    from matplotlib.patheffects import AbstractPathEffect, withStroke

    value = face.values.get(item.name)
    on_picture = face.degrees is not None
    ground = heat_colour(value.value, low, high) if value is not None else PAPER.ground
    line = PAPER.ground if on_picture else PAPER.text
    # Light with a dark rim: seen on what is cold and on what is hot.
    rim: list[AbstractPathEffect] = [withStroke(linewidth=2.6, foreground=DARK_INK)] if on_picture else []
    x, y = item.middle
    is_spot = item.kind == SPOT
    if is_spot:
        axes.plot([x], [y], marker="D", ms=5.5, mec=line, mew=1.1, mfc=ground, zorder=6)
        words = item.name + (f"\n{value.text(face.unit, finest=0)}" if value is not None else "")
        right = x < RIGHT_OF * face.plan.width_mm
        place, shift, side, up = (x, y), (7.0 if right else -7.0, 0.0), "left" if right else "right", "center"
    else:
        box = Rectangle(
            (item.x_mm, item.y_mm),
            item.width_mm,
            item.height_mm,
            fill=False,
            lw=1.2,
            edgecolor=line,
            zorder=5,
        )
        box.set_path_effects(rim)
        axes.add_patch(box)
        words = item.name + (f" {value.text(face.unit, finest=0)}" if value is not None else "")
        middle = min(max(x, 0.2 * face.plan.width_mm), 0.8 * face.plan.width_mm)
        above = item.y_mm > 0.1 * face.plan.height_mm
        place = (middle, item.y_mm if above else item.y_mm + item.height_mm)
        shift, side, up = (0.0, 5.0 if above else -5.0), "center", "bottom" if above else "top"
    axes.annotate(
        words, place, xytext=shift, textcoords="offset points", fontsize=7.5, color=ink_over(ground), va=up, ha=side,
        zorder=7, bbox={"boxstyle": "round,pad=0.25", "facecolor": ground, "edgecolor": PAPER.soft, "lw": 0.5},
    )  # fmt: skip


def _bar(figure: Figure, low: float, high: float, unit: str) -> Axes:
    """The scale, below all of them."""
    from matplotlib.colors import ListedColormap

    axes = figure.add_axes((0.3, 0.1, 0.4, 0.1))
    axes.imshow(
        np.linspace(low, high, 256)[None], extent=(low, high, 0.0, 1.0), aspect="auto",
        cmap=ListedColormap(heat_colours() / 255.0),
    )  # fmt: skip
    axes.set_yticks([])
    step = STEP if high - low <= FEW_TICKS * STEP else 2.0 * STEP
    axes.set_xticks(np.arange(step * np.ceil(low / step), high + 0.5, step))
    axes.tick_params(labelsize=8, length=2)
    axes.set_xlabel(unit, fontsize=8, labelpad=1)
    return axes
