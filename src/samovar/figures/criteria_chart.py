"""The table of criteria on paper."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from samovar.core.compare.criteria import ASKED, LEVEL, WINS, Criterion
from samovar.figures.palette import PAPER
from samovar.figures.style import new_figure
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.figure import Figure

ASKED_SIGN = {"met": "✔ ", "not met": "✕ ", "not shown": "? "}
"""What a setup makes of a demand, as a sign."""
ROW_IN, HEAD_IN = 0.27, 0.75
LABEL_SHARE, VERDICT_SHARE = 0.30, 0.14
"""Of the width, for the criteria's names and for the verdict."""
SMALLEST_PT, LARGEST_PT = 6.5, 9.5
LETTER_SHARE = 0.0125
"""What one letter of 9.5 points takes of the page's width."""


@styled
def criteria_chart(rows: Sequence[Criterion], names: Sequence[str], title: str) -> Figure:
    """Draw the table: criteria down, setups across, what is best in bold and marked.

    Args:
        rows: from `core.compare.criteria`.
        names: the setups in their order.
        title: stands above it.
    """
    figure = new_figure(HEAD_IN + ROW_IN * (len(rows) + 1))
    axes = figure.subplots()
    axes.set_axis_off()
    axes.set_xlim(0.0, 1.0)
    axes.set_ylim(len(rows) + 0.6, -0.9)
    step = (1.0 - LABEL_SHARE - VERDICT_SHARE) / max(1, len(names))
    longest = max([len(n) for n in names] + [len(c) for r in rows for c in r.cells.values()], default=1)
    size = max(SMALLEST_PT, min(LARGEST_PT, LARGEST_PT * step / (LETTER_SHARE * (longest + 2))))
    for k, name in enumerate(names):
        axes.text(
            LABEL_SHARE + (k + 1) * step - 0.01,
            -0.4,
            name,
            ha="right",
            va="center",
            fontsize=size,
            fontweight="bold",
        )
    axes.axhline(0.05, color=PAPER.line, lw=0.8)
    for line, row in enumerate(rows):
        y = line + 0.5
        axes.text(0.0, y, row.label, va="center", fontsize=min(9.0, size + 1.0))
        for k, name in enumerate(names):
            best = name in row.best
            mark = "▸ " if best and row.verdict == WINS else "= " if best else ""
            if row.verdict == ASKED:
                mark = ASKED_SIGN.get(row.cells.get(name, ""), "")
            axes.text(
                LABEL_SHARE + (k + 1) * step - 0.01, y, mark + row.cells.get(name, "–"), ha="right", va="center", fontsize=size,
                fontweight="bold" if best else "normal", color=PAPER.good if best else PAPER.text,
            )  # fmt: skip
        said = {WINS: "wins", LEVEL: "level"}.get(row.verdict, "")
        axes.text(1.0, y, said, ha="right", va="center", fontsize=size, color=PAPER.soft)
    figure.suptitle(title, fontsize=11, fontweight="bold", x=0.01, ha="left")
    return figure
