"""The look of all figures on paper: one palette, one set of sizes, text kept as text."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from samovar.figures.palette import PAPER

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

WIDTH_IN = 7.1
"""A page's text width; at half of it, in one column, the smallest text still has 5 points."""

HATCH = {"thermal": "xxx", "power": "///", "shared": "|||", "firmware": "---", "unexplained": "..."}
"""One hatch a cause of holding, so that print without colour still tells them apart."""

SETTINGS: Any = {
    "svg.fonttype": "none",
    "svg.hashsalt": "samovar",
    # Names hold dollar signs, and none of them is mathematics.
    "text.parse_math": False,
    "pdf.fonttype": 42,
    "font.family": "DejaVu Sans",
    "font.size": 10.0,
    "axes.edgecolor": PAPER.soft,
    "axes.linewidth": 0.8,
    "axes.labelcolor": PAPER.text,
    "axes.titleweight": "bold",
    "text.color": PAPER.text,
    "xtick.color": PAPER.soft,
    "ytick.color": PAPER.soft,
    "xtick.labelcolor": PAPER.text,
    "ytick.labelcolor": PAPER.text,
    "axes.spines.top": False,
    "axes.spines.right": False,
    "hatch.linewidth": 0.7,
    "figure.facecolor": PAPER.ground,
}


def new_figure(height_in: float) -> Figure:
    """An empty figure of the page's width, without the interactive machinery."""
    from matplotlib.figure import Figure

    return Figure(figsize=(WIDTH_IN, height_in), layout="constrained")


def minutes_axis(axes: Axes, span_s: float) -> None:
    """The time axis in minutes, on round ticks, with its name."""
    from matplotlib.ticker import FuncFormatter, MultipleLocator

    step = next((s for s in (10, 30, 60, 120, 300, 600, 900, 1800, 3600) if span_s / s <= 9), 7200)
    axes.xaxis.set_major_locator(MultipleLocator(step))
    axes.xaxis.set_major_formatter(FuncFormatter(lambda s, _: f"{s / 60:g}"))
    axes.set_xlabel("minutes")
