"""Surfaces on paper: temperature pictures or plans of setups beside each other on one scale, spots and areas with their degrees."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from samovar.core.recording import Array
from samovar.core.surfaces.plan import PART, SPOT, Item, Plan
from samovar.figures.heat_scale import heat_colour, heat_colours, ink_over
from samovar.figures.palette import PAPER
from samovar.figures.style import WIDTH_IN, Margins, new_figure, say_title
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

ACROSS = 2
"""Faces beside each other: more would be too small to read."""
STEP_C = 5.0
TALLEST_IN = 4.2
HEAD_IN, NAME_IN, SCALE_IN = 0.75, 0.3, 0.62


@dataclass(frozen=True)
class Face:
    """One face of one setup: its name, the plan, the picture over it (°C, shape (rows, columns), None for the plan alone), and the
    degrees at its spots and areas by name, as numbers and in words."""

    name: str
    plan: Plan
    celsius: Array | None
    values: dict[str, tuple[float, str]]


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
    each_in = min(TALLEST_IN, (WIDTH_IN - 0.3) / across / widest)
    height_in = HEAD_IN + down * (each_in + NAME_IN) + SCALE_IN
    figure = new_figure(height_in, Margins(HEAD_IN, SCALE_IN, 0.12, 0.12, 0.0))
    all_axes = np.atleast_1d(figure.subplots(down, across)).ravel()
    figure.subplots_adjust(wspace=0.06, hspace=NAME_IN / each_in)
    for axes, face in zip(all_axes, faces, strict=False):
        _face(axes, face, low, high)
    for axes in all_axes[len(faces) :]:
        axes.axis("off")
    _bar(figure, low, high, height_in)
    say_title(figure, title, subtitle)
    return figure


def _scale(faces: Sequence[Face]) -> tuple[float, float]:
    every = [v for f in faces for v, _ in f.values.values()]
    for face in faces:
        if face.celsius is not None:
            every += [float(np.nanmin(face.celsius)), float(np.nanmax(face.celsius))]
    if not every:
        return 20.0, 80.0
    low, high = STEP_C * np.floor(min(every) / STEP_C), STEP_C * np.ceil(max(every) / STEP_C)
    return float(low), float(max(high, low + STEP_C))


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
    if face.celsius is not None:
        axes.imshow(
            face.celsius, extent=(0.0, plan.width_mm, plan.height_mm, 0.0), cmap=ListedColormap(heat_colours() / 255.0),
            vmin=low, vmax=high, interpolation="nearest", aspect="equal", zorder=1,
        )  # fmt: skip
    for item in plan.items:
        if item.kind == PART:
            axes.add_patch(
                Rectangle(
                    (item.x_mm, item.y_mm), item.width_mm, item.height_mm, zorder=2, lw=0.6,
                    edgecolor=PAPER.faint, facecolor=PAPER.raised if face.celsius is None else "none",
                )
            )  # fmt: skip
            if face.celsius is None:
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

    value = face.values.get(item.name)
    words = item.name + (f"\n{value[1]} °C" if value is not None else "")
    ground = heat_colour(value[0], low, high) if value is not None else PAPER.ground
    ink = ink_over(ground)
    x, y = item.middle
    if item.kind == SPOT:
        axes.plot(
            [x],
            [y],
            marker="D",
            ms=5.5,
            mec=PAPER.text if face.celsius is None else PAPER.ground,
            mew=0.9,
            mfc=ground,
            zorder=6,
        )
    else:
        axes.add_patch(
            Rectangle(
                (item.x_mm, item.y_mm),
                item.width_mm,
                item.height_mm,
                fill=False,
                lw=1.1,
                edgecolor=PAPER.text,
                zorder=5,
            )
        )
    right = x < 0.62 * face.plan.width_mm
    shift = (7.0 if right else -7.0, 0.0) if item.kind == SPOT else (0.0, 0.0)
    axes.annotate(
        words, (x, y), xytext=shift, textcoords="offset points", fontsize=7.5, color=ink, va="center", zorder=7,
        ha=("left" if right else "right") if item.kind == SPOT else "center",
        bbox={"boxstyle": "round,pad=0.25", "facecolor": ground, "edgecolor": PAPER.soft, "lw": 0.5},
    )  # fmt: skip


def _bar(figure: Figure, low: float, high: float, height_in: float) -> None:
    """The scale, below all of them."""
    from matplotlib.colors import ListedColormap

    axes = figure.add_axes((0.3, 0.34 / height_in, 0.4, 0.11 / height_in))
    axes.imshow(
        np.linspace(low, high, 256)[None], extent=(low, high, 0.0, 1.0), aspect="auto",
        cmap=ListedColormap(heat_colours() / 255.0),
    )  # fmt: skip
    axes.set_yticks([])
    axes.set_xticks(np.linspace(low, high, 3))
    axes.tick_params(labelsize=8, length=2)
    axes.set_xlabel("°C", fontsize=8, labelpad=1)
