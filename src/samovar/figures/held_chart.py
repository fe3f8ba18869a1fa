"""What held each setup, as shares of the load: one bar a setup, one stretch a cause, the rest free."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from samovar.figures.palette import HELD_COLOUR, PAPER
from samovar.figures.style import HATCH, Margins, name_room_in, named, new_figure, say_title
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.figure import Figure

WHOLE = 100.0
ROOM_FOR_WORDS = 9.0
"""Narrower stretches than this, in percent, hold no words."""


@styled
def held_chart(shares: Sequence[tuple[str, Mapping[str, float]]], title: str, subtitle: str) -> Figure:
    """Draw the shares.

    Args:
        shares: of each setup, by cause, in percent of the load.
        title, subtitle: the finding, and what is drawn.
    """
    margins = Margins(name_room_in([name for name, _ in shares]), 0.25, 0.72, 0.55, 0.0)
    figure = new_figure(1.35 + 0.46 * max(1, len(shares)), margins)
    axes = figure.subplots()
    for row, (_, of) in enumerate(shares):
        begin = 0.0
        for cause, hatch in HATCH.items():
            share = of.get(cause, 0.0)
            if share <= 0.0:
                continue
            colour = PAPER.quantity[HELD_COLOUR[cause]]
            axes.barh(
                row, share, left=begin, height=0.62, facecolor="white", edgecolor=colour, hatch=hatch, lw=1.0
            )
            if share > ROOM_FOR_WORDS:
                axes.text(
                    begin + share / 2.0, row, f"{cause} {share:.0f} %", ha="center", va="center", fontsize=9, color=colour,
                    fontweight="bold", bbox={"facecolor": "white", "edgecolor": "none", "pad": 1.5},
                )  # fmt: skip
            begin += share
        if WHOLE - begin > ROOM_FOR_WORDS:
            axes.text(
                begin + 1.5,
                row,
                "free" if begin == 0.0 else f"free {WHOLE - begin:.0f} %",
                va="center",
                fontsize=9,
            )
        axes.barh(row, WHOLE, height=0.62, facecolor="none", edgecolor=PAPER.line, lw=0.8)
    axes.set_yticks(range(len(shares)), [named(name) for name, _ in shares])
    axes.invert_yaxis()
    axes.set_xlim(0.0, WHOLE)
    axes.set_xlabel("share of the load, %")
    say_title(figure, title, subtitle)
    return figure
