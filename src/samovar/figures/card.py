"""The card: a review in one picture, 1920 by 1080, for a feed or the last frame of a video."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from samovar.core.compare.rungs import Rung
from samovar.core.results.figure import Figure as RankedBy
from samovar.core.results.result import ELSEWHERE
from samovar.figures.palette import PAPER
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.figure import Figure

WIDTH_PX, HEIGHT_PX, PX_PER_IN = 1920, 1080, 96
QUESTION_LETTERS, ANSWER_LETTERS, ANSWER_LINES = 74, 46, 6
MOST_BARS = 8
"""More setups than this do not fit beside the answer: the best of them are shown."""


@dataclass(frozen=True)
class CardText:
    """What the card says: title, question, answer, up to three figures as (value, what), and the source."""

    title: str
    question: str
    answer: str
    figures: tuple[tuple[str, str], ...]
    source: str


@styled
def card(
    words: CardText, rungs: Sequence[Rung], measure: RankedBy | None, chart_title: str, picked: str | None
) -> Figure:
    """Draw the card: the question above, the answer and three figures at the left, one chart at the right, in which the bar of
    what is `picked` is the dark one."""
    from matplotlib.figure import Figure as Drawn

    figure = Drawn(figsize=(WIDTH_PX / PX_PER_IN, HEIGHT_PX / PX_PER_IN), dpi=PX_PER_IN)

    def write(
        x: float, y: float, text: str, size: float, colour: str = PAPER.text, bold: bool = False
    ) -> None:
        figure.text(
            x,
            y,
            text,
            fontsize=size,
            color=colour,
            fontweight="bold" if bold else "normal",
            va="top",
            linespacing=1.35,
        )

    write(0.045, 0.94, textwrap.shorten(words.title, 60, placeholder="…"), 40, bold=True)
    write(0.045, 0.855, "\n".join(textwrap.wrap(words.question, QUESTION_LETTERS)[:2]), 23, PAPER.soft)
    answer = textwrap.wrap(words.answer, ANSWER_LETTERS)
    shown = (
        [*answer[: ANSWER_LINES - 1], f"{answer[ANSWER_LINES - 1]} …"]
        if len(answer) > ANSWER_LINES
        else answer
    )
    write(0.045, 0.715, "\n".join(shown), 25, bold=True)
    for k, (value, what) in enumerate(words.figures[:3]):
        x = 0.045 + 0.155 * k
        write(x, 0.30, value, 25, PAPER.text, bold=True)
        write(x, 0.235, "\n".join(textwrap.wrap(what, 20)[:2]), 16, PAPER.soft)
    write(0.045, 0.075, words.source, 15, PAPER.soft)
    own = [r for r in rungs if r.source != ELSEWHERE][:MOST_BARS]
    if own and measure is not None:
        axes = figure.add_axes((0.66, 0.17, 0.22, 0.5))
        colour = PAPER.quantity[measure.quantity]
        for row, rung in enumerate(own):
            axes.barh(
                row, rung.figure.value, height=0.6, color=colour, alpha=1.0 if rung.name == picked else 0.5
            )
            half = rung.figure.half_width or 0.0
            axes.annotate(
                measure.brief(rung.figure), (rung.figure.value + half, row), xytext=(8, 0), textcoords="offset points",
                va="center", fontsize=18,
            )  # fmt: skip
        axes.set_yticks(
            range(len(own)), [textwrap.shorten(r.name, 18, placeholder="…") for r in own], fontsize=19
        )
        axes.invert_yaxis()
        axes.set_xticks([])
        axes.set_xlim(0.0, max(r.figure.value + (r.figure.half_width or 0.0) for r in own) or 1.0)
        for side in ("bottom", "left", "top", "right"):
            axes.spines[side].set_visible(False)
        axes.tick_params(length=0)
        write(0.565, 0.735, chart_title, 19, PAPER.text, bold=True)
    return figure
