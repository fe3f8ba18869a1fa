"""The table of criteria on paper."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from samovar.core.compare.criteria import ASKED, LEVEL, WINS, Criterion
from samovar.figures.palette import PAPER
from samovar.figures.style import WIDTH_IN, new_figure
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

ASKED_SIGN = {"met": "✔ ", "not met": "✕ ", "not shown": "? "}
"""What a setup makes of a demand, as a sign."""
ROW_IN, HEAD_IN = 0.24, 0.55
FONT_PT, LETTER_EM = 7.5, 0.56
"""One size for all of it, so that tables of two and of twelve setups read alike; a letter's mean width in it."""
LABEL_MOST, NAME_MOST = 34, 18
"""Letters of a criterion's and of a setup's name: longer ones are cut."""
BOLD = 1.18
"""A bold letter is so much wider."""
VERDICT, GAP = 6, 2
"""Letters for the verdict, and between two setups."""


@styled
def criteria_chart(rows: Sequence[Criterion], names: Sequence[str], title: str) -> Figure:
    """Draw the table: criteria down, setups across, what is best in bold and marked. Setups that do not fit across the page
    are turned over to a second table below.

    Args:
        rows: from `core.compare.criteria`.
        names: the setups in their order.
        title: stands above it.
    """
    letters = WIDTH_IN * 72.0 / (FONT_PT * LETTER_EM)
    label = min(LABEL_MOST, max((len(r.label) for r in rows), default=0)) + 1
    widths = {
        n: max([math.ceil(BOLD * min(NAME_MOST, len(n))), *(len(_cell(r, n)) for r in rows)]) + GAP
        for n in names
    }
    blocks = _blocks(names, widths, letters - label - VERDICT)
    lines = len(blocks) * (len(rows) + 1.6)
    figure = new_figure(HEAD_IN + ROW_IN * lines)
    axes = figure.subplots()
    axes.set_axis_off()
    axes.set_xlim(0.0, letters)
    axes.set_ylim(lines, -0.4)
    for number, block in enumerate(blocks):
        _draw(axes, rows, block, label, widths, number * (len(rows) + 1.6))
    figure.suptitle(title, fontsize=11, fontweight="bold", x=0.01, ha="left")
    return figure


def _blocks(names: Sequence[str], widths: Mapping[str, int], room: float) -> list[list[str]]:
    blocks: list[list[str]] = [[]]
    for name in names:
        if blocks[-1] and sum(widths[n] for n in (*blocks[-1], name)) > room:
            blocks.append([])
        blocks[-1].append(name)
    return blocks


def _cell(row: Criterion, name: str) -> str:
    """What stands in a cell, with the sign of what is best or asked."""
    words = row.cells.get(name, "–")
    if row.verdict == ASKED:
        return ASKED_SIGN.get(words, "") + words
    best = name in row.best
    return ("▸ " if row.verdict == WINS else "= ") * best + words


def _cut(words: str, most: int) -> str:
    return words if len(words) <= most else f"{words[: most - 1]}…"


def _draw(
    axes: Axes,
    rows: Sequence[Criterion],
    names: Sequence[str],
    label: int,
    widths: Mapping[str, int],
    top: float,
) -> None:
    ends, at = {}, float(label)
    for name in names:
        at += widths[name]
        ends[name] = at
        axes.text(
            at, top, _cut(name, NAME_MOST), ha="right", va="center", fontsize=FONT_PT, fontweight="bold"
        )
    axes.plot([0.0, at + VERDICT], [top + 0.5] * 2, color=PAPER.line, lw=0.8)
    for line, row in enumerate(rows):
        y = top + line + 1.0
        axes.text(0.0, y, _cut(row.label, LABEL_MOST), va="center", fontsize=FONT_PT)
        for name in names:
            best = name in row.best
            axes.text(
                ends[name], y, _cell(row, name), ha="right", va="center", fontsize=FONT_PT,
                fontweight="bold" if best else "normal", color=PAPER.good if best else PAPER.text,
            )  # fmt: skip
        said = {WINS: "wins" if set(row.best) & set(names) else "", LEVEL: "level"}.get(row.verdict, "")
        axes.text(at + VERDICT, y, said, ha="right", va="center", fontsize=FONT_PT, color=PAPER.soft)
