"""The ribbon under a time chart: what held the clock, and when, with the marks of the run above it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.figures.palette import HELD_COLOUR, PAPER
from samovar.figures.style import HATCH

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.text import Annotation

LETTER_ON_PAGE, LETTER_IN_COLUMN = 0.0125, 0.024
"""How wide a letter of a mark is, as a share of the plot."""
NEAR_EDGE = 0.12
"""A mark this near an end of the plot, as a share of it, has its words on the inner side."""


def ribbon(
    axes: Axes, reading: Reading, recording: Recording, span: tuple[float, float]
) -> Callable[[], None]:
    """What held the clock, with the marks above it; the answer is what the words of the marks need in a column."""
    axes.set_ylim(0.0, 1.0)
    ribbons = reading.ribbons
    share = 1.0 / len(ribbons)
    middles = [1.0 - share * (k + 0.5) for k in range(len(ribbons))]
    axes.set_yticks(middles, [name for name, _ in ribbons], fontsize=9)
    axes.tick_params(axis="y", length=0)
    for side in ("left", "bottom"):
        axes.spines[side].set_visible(side == "bottom")
    for middle, held in (
        (at, one) for at, (_, stretches) in zip(middles, ribbons, strict=True) for one in stretches
    ):
        colour = PAPER.quantity[HELD_COLOUR[held.by]]
        axes.axvspan(
            held.start_s, held.end_s, middle - 0.47 * share, middle + 0.47 * share, facecolor="white", edgecolor=colour,
            hatch=HATCH[held.by], lw=0.8,
        )  # fmt: skip
        # What lies outside of what is shown makes no room for words.
        start, stop = max(held.start_s, span[0]), min(held.end_s, span[1])
        shown = (stop - start) / (span[1] - span[0])
        if shown > 0.08:
            loss = f", −{held.clock_loss_pct:.0f} % clock" if held.clock_loss_pct is not None else ""
            wide = shown > 0.24
            axes.text(
                0.5 * (start + stop),
                middle,
                held.by + (loss if wide else ""),
                ha="center",
                va="center",
                fontsize=9,
                fontweight="bold",
                color=colour,
                bbox={"facecolor": "white", "edgecolor": "none", "pad": 1.5},
            )
    words = []
    for mark in recording.marks:
        if mark.text.startswith(("load on", "load off")) or not span[0] <= mark.at_s <= span[1]:
            continue
        place = (mark.at_s - span[0]) / (span[1] - span[0])
        side = "left" if place < NEAR_EDGE else "right" if place > 1.0 - NEAR_EDGE else "center"
        told = axes.annotate(
            mark.text,
            (mark.at_s, 1.0),
            xytext=(0, 1),
            textcoords="offset points",
            fontsize=8,
            ha=side,
            va="bottom",
        )
        words.append((place, told))
        axes.axvline(mark.at_s, color=PAPER.brass, lw=1.0)
    _apart(words, LETTER_ON_PAGE)
    return lambda: _apart(words, LETTER_IN_COLUMN)


def _apart(words: Sequence[tuple[float, Annotation]], letter: float) -> None:
    """Of words that would lie over each other only the first is shown; `letter` is its width as a share of the plot's."""
    free_from = -1.0
    for place, told in words:
        width = letter * len(told.get_text())
        begin = place - {"left": 0.0, "right": 1.0}.get(str(told.get_horizontalalignment()), 0.5) * width
        told.set_visible(begin >= free_from)
        free_from = begin + width if told.get_visible() else free_from
