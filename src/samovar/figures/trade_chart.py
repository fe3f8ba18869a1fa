"""Trade on paper: one result over another, crosses as wide as their uncertainties."""

from __future__ import annotations

from typing import TYPE_CHECKING

from samovar.core.compare.trade import Trade
from samovar.core.measured import AT_MOST
from samovar.figures.palette import PAPER
from samovar.figures.style import Margins, new_figure, say_title
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.figure import Figure

HEIGHT_IN = 4.4


@styled
def trade_chart(trade: Trade, limit: float | None, title: str, subtitle: str = "") -> Figure:
    """Draw the points, the unbeaten ones joined, curves through fan speeds, and what the review asks.

    Args:
        trade: from `core.compare.trade`.
        limit: the demand on the figure across; None without one.
        title, subtitle: the finding, and what is drawn.
    """
    figure = new_figure(HEIGHT_IN, Margins(0.85, 0.15, 0.66, 0.58, 0.0))
    axes = figure.subplots()
    best = trade.unbeaten
    axes.plot(
        [p.across.value for p in best],
        [p.up.value for p in best],
        color=PAPER.brass,
        lw=1.0,
        ls=(0, (4, 3)),
        zorder=1,
    )
    for k, point in enumerate(trade.points):
        colour = PAPER.series[k % len(PAPER.series)]
        if point.curve:
            axes.plot(*zip(*point.curve, strict=True), color=colour, lw=1.0, marker="o", ms=3.0, zorder=2)
        axes.errorbar(
            point.across.value, point.up.value, xerr=point.across.half_width, yerr=point.up.half_width, color=colour,
            marker="D" if point.unbeaten else "o", ms=5.0, lw=1.2, capsize=2.5, zorder=3,
        )  # fmt: skip
        for value, along in ((point.across, True), (point.up, False)):
            if value.bound is not None:
                way = (-14 if value.bound == AT_MOST else 14, 0)
                axes.annotate(
                    "", (point.across.value, point.up.value), xytext=way if along else way[::-1], textcoords="offset points",
                    arrowprops={"arrowstyle": "<-", "color": PAPER.text, "lw": 1.2},
                )  # fmt: skip
        axes.annotate(
            point.name,
            (point.across.value, point.up.value),
            xytext=(6, 7),
            textcoords="offset points",
            fontsize=9.5,
            color=colour,
        )
    if limit is not None:
        axes.axvline(limit, color=PAPER.caution, lw=1.0, ls=":")
        axes.annotate(
            f"{limit:g} {trade.across.unit} asked for", (limit, 1.0), xycoords=("data", "axes fraction"), xytext=(4, -10),
            textcoords="offset points", fontsize=8.5, color=PAPER.caution,
        )  # fmt: skip
    axes.margins(0.14)
    for figured, label in ((trade.across, axes.set_xlabel), (trade.up, axes.set_ylabel)):
        label(f"{figured.label}, {figured.unit} ({'less' if figured.lower_is_better else 'more'} is better)")
    say_title(figure, title, subtitle)
    return figure
