"""The ladder on paper: setups ranked on one figure, with their intervals."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from samovar.core.compare.criteria import NO_CONTEST
from samovar.core.compare.rungs import Rung
from samovar.core.elsewhere import against_norm, names_norm
from samovar.core.measured import AT_MOST
from samovar.core.results.figure import Figure as RankedBy
from samovar.core.results.result import ELSEWHERE
from samovar.figures.palette import PAPER
from samovar.figures.style import (
    COLUMN_IN,
    COLUMN_TYPE,
    LETTER_IN,
    WIDTH_IN,
    Margins,
    in_a_column,
    name_room_in,
    named,
    new_figure,
    say_title,
)
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.figure import Figure

MARGIN_DB = 3.0
"""Room on a scale of levels, to both sides."""
WORDS_MOST = 0.72
"""The words behind a bar take no more of the width than this, for a bar has to be seen, too."""
LEAST_SCALE = 1e-6
"""Where all values are nothing there is still a scale."""


@styled
def ladder_chart(
    rungs: Sequence[Rung],
    measure: RankedBy,
    reference: str | None,
    title: str,
    asked: Sequence[tuple[float, str]] = (),
    subtitle: str = "",
) -> Figure:
    """Draw the rungs, best at the top, bars from zero, 95 % intervals on them. Levels in decibels have no zero worth the name:
    they are points on a scale of their own.

    Args:
        rungs: from `core.compare.ladder`.
        measure: gives unit, colour and direction.
        reference: its bar is drawn hollow.
        title, subtitle: the finding, and what is drawn.
        asked: limits that the review asks for, in the measure's unit, with their words.
    """
    from matplotlib.patheffects import withStroke

    margins = Margins(name_room_in([r.name for r in rungs]), 0.1, 0.66, 0.58, 0.0)
    figure = new_figure(1.3 + 0.46 * max(1, len(rungs)), margins)
    axes = figure.subplots()
    colour = PAPER.quantity[measure.quantity]
    points = measure.quantity == "noise"
    norms = [r for r in rungs if r.source == ELSEWHERE and names_norm(r.name)]
    ends: list[tuple[float, int]] = []
    for row, rung in enumerate(rungs):
        is_reference = rung.name == reference
        width = rung.figure.half_width or 0.0
        fill = "white" if is_reference else PAPER.line if rung.source == ELSEWHERE else colour
        if points:
            axes.plot(rung.figure.value, row, "o", ms=8, mfc=fill, mec=colour, mew=1.4, zorder=3)
        else:
            axes.barh(
                row, rung.figure.value, height=0.62, color=fill, edgecolor=colour, lw=1.2,
                hatch="///" if is_reference else None, alpha=0.92,
            )  # fmt: skip
        if rung.figure.bound is not None:
            # Drawn open: an arrow towards where the value may be.
            way = -1.0 if rung.figure.bound == AT_MOST else 1.0
            reach = way * 0.06 * max(r.figure.value for r in rungs)
            axes.annotate(
                "", (rung.figure.value + reach, row), (rung.figure.value, row),
                arrowprops={"arrowstyle": "->", "color": PAPER.text, "lw": 1.6},
            )  # fmt: skip
            width = max(width, reach)
        elif width:
            drawn = axes.errorbar(rung.figure.value, row, xerr=width, color=PAPER.text, capsize=3.5, lw=1.3)
            # On a dark bar and beside it alike.
            for line in (*drawn.lines[1], *drawn.lines[2]):
                line.set_path_effects([withStroke(linewidth=3.4, foreground=PAPER.ground)])
        if rung.source == ELSEWHERE and names_norm(rung.name):
            axes.axvline(rung.figure.value, color=PAPER.text, lw=1.0, ls=(0, (4, 3)), zorder=1.5)
        notes = [measure.text(rung.figure)]
        if rung.source == ELSEWHERE:
            notes.append("from elsewhere")
        elif rung.passes == 1:
            notes.append("one pass")
        if rung.source != ELSEWHERE:
            notes += [against_norm(rung.figure, n.figure, "norm") for n in norms]
        if rung.above is not None and rung.above.equivalent:
            notes.append("level with above")
        ends.append((rung.figure.value + width, len(", ".join(notes))))
        axes.annotate(
            ", ".join(notes),
            (rung.figure.value + width, row),
            xytext=(6, 0),
            textcoords="offset points",
            va="center",
            fontsize=9.5,
            zorder=5,
            # A norm's line goes behind the words, not through them.
            bbox={"facecolor": PAPER.ground, "edgecolor": "none", "pad": 1.0} if norms or points else None,
        )
    axes.set_yticks(
        range(len(rungs)), [named(r.name) + ("\nreference" if r.name == reference else "") for r in rungs]
    )
    axes.invert_yaxis()
    highest = max((r.figure.value + (r.figure.half_width or 0.0) for r in rungs), default=1.0)
    least = 0.0
    if points:
        values = [*(r.figure.value for r in rungs), *(v for v, _ in asked)]
        least = min(values, default=0.0) - MARGIN_DB
        axes.grid(axis="y", color=PAPER.line, lw=0.6, ls=":")
    shown = [highest, least + LEAST_SCALE, *(v for v, _ in asked)]
    from_least = [(end - least, letters) for end, letters in ends]

    def scale(width_in: float, type_share: float) -> None:
        axes.set_xlim(least, max(least + _reach(from_least, margins.left, width_in, type_share), *shown))

    scale(WIDTH_IN, 1.0)
    in_a_column(figure, lambda: scale(COLUMN_IN, COLUMN_TYPE))
    for limit, words in asked:
        axes.axvline(limit, color=PAPER.caution, lw=1.2, ls=":", zorder=1.5)
        axes.annotate(
            words, (limit, 0.0), xycoords=("data", "axes fraction"), xytext=(4, 4), textcoords="offset points", fontsize=8.0,
            color=PAPER.caution,
        )  # fmt: skip
    better = (
        "" if measure.key in NO_CONTEST else f" ({'less' if measure.lower_is_better else 'more'} is better)"
    )
    axes.set_xlabel(f"{measure.label}, {measure.unit}{better}")
    say_title(figure, title, subtitle)
    return figure


def _reach(ends: Sequence[tuple[float, int]], left_in: float, width_in: float, type_share: float) -> float:
    """How far the scale goes so that the words behind every bar have room: for each bar its end from the scale's beginning, and how
    many letters stand behind it."""
    room_in = width_in - type_share * (left_in + 0.2)
    reach = 0.0
    for end, letters in ends:
        words = min(type_share * (LETTER_IN * letters + 0.1) / room_in, WORDS_MOST)
        reach = max(reach, end / (1.0 - words))
    return reach
