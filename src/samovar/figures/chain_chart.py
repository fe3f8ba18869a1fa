"""A chain of changes: from setup to setup what each did to a few figures, one column a figure, one arrow a step."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from samovar.core.measured import Measured
from samovar.core.results.figure import Figure as Told
from samovar.figures.palette import PAPER
from samovar.figures.style import Margins, name_room_in, named, new_figure, say_title
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.figure import Figure


@dataclass(frozen=True)
class Link:
    """One step in one figure: its value before and after, None where a side is not known, and the difference in words."""

    before: Measured | None
    after: Measured | None
    words: str


@dataclass(frozen=True)
class ChainColumn:
    """One figure along a chain."""

    figure: Told
    links: tuple[Link, ...]


@styled
def chain_chart(steps: Sequence[str], columns: Sequence[ChainColumn], title: str, subtitle: str) -> Figure:
    """Draw the chain.

    Args:
        steps: what each is called, in order: `Closed → Vent kit`.
        columns: the figures, each with a link a step.
        title, subtitle: the finding, and what is drawn.
    """
    margins = Margins(name_room_in(steps), 0.15, 0.72, 0.62, 0.0)
    figure = new_figure(1.5 + 0.62 * max(1, len(steps)), margins)
    rows = figure.subplots(1, len(columns), sharey=True, squeeze=False)[0]
    figure.subplots_adjust(wspace=0.12)
    for axes, column in zip(rows, columns, strict=True):
        colour = PAPER.quantity[column.figure.quantity]
        for row, link in enumerate(column.links):
            if link.before is None or link.after is None:
                axes.annotate(
                    "not known",
                    (0.5, row),
                    xycoords=("axes fraction", "data"),
                    ha="center",
                    va="center",
                    fontsize=8.5,
                    color=PAPER.soft,
                )
                continue
            for value, fill in ((link.before, "white"), (link.after, colour)):
                axes.errorbar(
                    value.value, row, xerr=value.half_width, fmt="o", ms=6.5, mfc=fill, mec=colour, color=colour, capsize=3.0,
                    lw=1.2, zorder=3,
                )  # fmt: skip
            axes.annotate(
                "", (link.after.value, row), (link.before.value, row),
                arrowprops={"arrowstyle": "-|>", "color": colour, "lw": 1.4, "shrinkA": 5, "shrinkB": 5},
            )  # fmt: skip
            middle = 0.5 * (link.before.value + link.after.value)
            axes.annotate(
                link.words, (middle, row), xytext=(0, 9), textcoords="offset points", ha="center", fontsize=9,
                bbox={"facecolor": PAPER.ground, "edgecolor": "none", "pad": 0.5},
            )  # fmt: skip
        axes.set_xlabel(f"{column.figure.label}, {column.figure.unit}", fontsize=9, color=colour)
        axes.margins(x=0.55)
        axes.grid(axis="y", color=PAPER.line, lw=0.6, ls=":")
        axes.tick_params(axis="y", length=0)
    rows[0].set_yticks(range(len(steps)), [named(s) for s in steps])
    rows[0].set_ylim(len(steps) - 0.5, -0.75)
    say_title(figure, title, subtitle)
    return figure
