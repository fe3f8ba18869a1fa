"""Curves of several setups on one axis, aligned at the start of their loads."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from samovar.core.overlay import Overlay
from samovar.core.recording import Array
from samovar.figures.palette import PAPER
from samovar.figures.style import Margins, minutes_axis, new_figure, say_title
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.figure import Figure

DASHES = ("-", (0, (6, 2)), (0, (2, 1.2)), (0, (7, 2, 1.5, 2)), (0, (1, 1)), (0, (4, 1, 1, 1, 1, 1)))
_LEAST_GAP = 0.055


def _calmer(row: Array) -> Array:
    """Means of seven samples, so that sensor noise does not fray the dashes; the ends as they are."""
    if len(row) < 20:
        return row
    out = row.copy()
    with np.errstate(invalid="ignore"):
        out[3:-3] = np.convolve(row, np.ones(7) / 7.0, mode="valid")
    return np.where(np.isfinite(out), out, row)


@styled
def overlay_chart(found: Overlay, title: str, subtitle: str = "") -> Figure:
    """Draw the curves; each curve has its own dash and its name at its end.

    Args:
        found: curves, time 0 at load start.
        title, subtitle: the finding, and what is drawn.
    """
    figure = new_figure(3.8, Margins(0.75, 0.1, 0.66, 0.5, 0.0))
    axes = figure.subplots()
    ends: list[tuple[float, float, str, str]] = []
    for k, name in enumerate(found.names):
        row = found.values[k]
        good = np.flatnonzero(np.isfinite(row))
        if len(good) == 0:
            continue
        colour = PAPER.series[k % len(PAPER.series)]
        axes.plot(found.time_s, _calmer(row), color=colour, lw=1.7, ls=DASHES[k % len(DASHES)])
        ends.append((float(found.time_s[good[-1]]), float(np.median(row[good[-30:]])), name, colour))
    axes.axvline(0.0, color=PAPER.soft, lw=0.8)
    axes.set_ylabel(f"{found.label}, {found.unit}")
    axes.set_xlim(float(found.time_s[0]), float(found.time_s[-1]) * 1.22)
    minutes_axis(axes, float(found.time_s[-1] - found.time_s[0]))
    axes.set_xlabel("minutes since the load began")
    axes.margins(y=0.08)
    axes.grid(axis="y", color=PAPER.line, lw=0.5)
    low, high = axes.get_ylim()
    placed: list[float] = []
    for at_s, level, name, colour in sorted(ends, key=lambda e: e[1]):
        # Names that would lie over each other are moved apart.
        y = max([level, *(p + _LEAST_GAP * (high - low) for p in placed[-1:])])
        placed.append(y)
        axes.annotate(
            name,
            (at_s, level),
            xytext=(float(found.time_s[-1]) * 1.02, y),
            textcoords="data",
            fontsize=9.5,
            fontweight="bold",
            color=colour,
            va="center",
            bbox={"facecolor": "white", "edgecolor": "none", "pad": 1.0},
            arrowprops={"arrowstyle": "-", "color": colour, "lw": 0.5, "alpha": 0.6},
        )
    say_title(figure, title, subtitle)
    return figure
