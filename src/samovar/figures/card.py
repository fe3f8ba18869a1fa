"""The card: a review in one picture, wide or square, light or dark, or as an overlay for video on no ground at all."""

from __future__ import annotations

import textwrap
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from samovar.core.compare.rungs import Rung
from samovar.core.results.figure import Figure as RankedBy
from samovar.core.results.result import ELSEWHERE
from samovar.figures.palette import DARK, PAPER, Palette
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

PX_PER_IN = 96
WIDE, SQUARE = (1920, 1080), (1080, 1080)
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


@dataclass(frozen=True)
class CardChart:
    """Its one chart: the rungs, what they are ranked by, what stands above it, and whose bar is the dark one."""

    rungs: Sequence[Rung]
    measure: RankedBy | None
    title: str
    picked: str | None


Put = Callable[..., None]


def _wide(words: CardText, chart: CardChart, figure: Figure, put: Put, palette: Palette) -> None:
    """The question above, the answer and three figures at the left, the chart at the right."""
    put(0.045, 0.94, _cut(words.title, 60), 40, bold=True)
    put(0.045, 0.855, _lines(words.question, 74, 2), 23, palette.soft)
    put(0.045, 0.715, _lines(words.answer, 46, 6), 25, bold=True)
    for k, (value, what) in enumerate(words.figures[:3]):
        x = 0.045 + 0.155 * k
        put(x, 0.30, value, 25, bold=True)
        put(x, 0.235, _lines(what, 20, 2), 16, palette.soft)
    put(0.045, 0.075, words.source, 15, palette.soft)
    if chart.rungs:
        put(0.565, 0.735, chart.title, 19, bold=True)
        _bars(figure.add_axes((0.66, 0.17, 0.22, 0.5)), chart, palette, 19, 18)


def _square(words: CardText, chart: CardChart, figure: Figure, put: Put, palette: Palette) -> None:
    """All of it in one column, the chart below."""
    put(0.06, 0.955, _cut(words.title, 36), 33, bold=True)
    put(0.06, 0.885, _lines(words.question, 54, 2), 20, palette.soft)
    put(0.06, 0.785, _lines(words.answer, 46, 5), 22, bold=True)
    for k, (value, what) in enumerate(words.figures[:3]):
        x = 0.06 + 0.31 * k
        put(x, 0.575, value, 21, bold=True)
        put(x, 0.53, _lines(what, 24, 2), 14, palette.soft)
    if chart.rungs:
        put(0.06, 0.44, chart.title, 17, bold=True)
        _bars(figure.add_axes((0.25, 0.115, 0.5, 0.28)), chart, palette, 17, 16)
    put(0.06, 0.055, _cut(words.source, 104), 12.5, palette.soft)


def _overlay(words: CardText, chart: CardChart, figure: Figure, put: Put, palette: Palette) -> None:
    """A band along the foot, for the last frame or any other: the title, the answer and the figures."""
    from matplotlib.patches import Rectangle

    figure.add_artist(Rectangle((0.0, 0.0), 1.0, 0.27, facecolor=palette.ground, alpha=0.86, lw=0))
    figure.add_artist(Rectangle((0.0, 0.266), 1.0, 0.004, facecolor=palette.brass, lw=0))
    put(0.03, 0.245, _cut(words.title, 52), 25, palette.brass, True)
    put(0.03, 0.19, _lines(words.answer, 64, 3), 20, bold=True)
    for k, (value, what) in enumerate(words.figures[:3]):
        x = 0.56 + 0.145 * k
        put(x, 0.235, value, 24, bold=True)
        put(x, 0.175, _lines(what, 21, 2), 15, palette.soft)
    put(0.03, 0.035, words.source, 12, palette.soft)


@dataclass(frozen=True)
class CardLook:
    """One way a card is made: its file's name, its size in pixels, its colours, whether it has a ground, its layout, and
    what it is called."""

    name: str
    size_px: tuple[int, int]
    palette: Palette
    grounded: bool
    lay: Callable[[CardText, CardChart, Figure, Put, Palette], None]
    words: str


ENDINGS = (".svg", ".png")
LOOKS = (
    CardLook("card", WIDE, PAPER, True, _wide, "wide"),
    CardLook("card-dark", WIDE, DARK, True, _wide, "wide, dark"),
    CardLook("card-square", SQUARE, PAPER, True, _square, "square"),
    CardLook("card-square-dark", SQUARE, DARK, True, _square, "square, dark"),
    CardLook("card-overlay", WIDE, DARK, False, _overlay, "overlay"),
)
"""Every card of a publication."""


@styled
def card(words: CardText, chart: CardChart, look: CardLook) -> Figure:
    """Draw the card.

    Args:
        words: what it says.
        chart: its chart; none where it has no rungs.
        look: how it is made.
    """
    from matplotlib.figure import Figure as Drawn

    width, height = look.size_px
    figure = Drawn(
        figsize=(width / PX_PER_IN, height / PX_PER_IN),
        dpi=PX_PER_IN,
        facecolor=look.palette.ground if look.grounded else "none",
    )

    def put(
        x: float, y: float, text: str, size: float, colour: str = look.palette.text, bold: bool = False
    ) -> None:
        weight = "bold" if bold else "normal"
        figure.text(x, y, text, fontsize=size, color=colour, fontweight=weight, va="top", linespacing=1.35)

    look.lay(words, chart, figure, put, look.palette)
    return figure


def _cut(text: str, letters: int) -> str:
    return textwrap.shorten(text, letters, placeholder=" …")


def _lines(text: str, letters: int, most: int) -> str:
    """Words in lines of so many letters; where there are more lines than there is room for, the last shows it."""
    lines = textwrap.wrap(text, letters)
    return "\n".join(lines if len(lines) <= most else [*lines[: most - 1], f"{lines[most - 1]} …"])


def _bars(axes: Axes, chart: CardChart, palette: Palette, name_size: float, value_size: float) -> None:
    own = [r for r in chart.rungs if r.source != ELSEWHERE][:MOST_BARS]
    if not own or chart.measure is None:
        return
    colour = palette.quantity[chart.measure.quantity]
    axes.set_facecolor("none")
    for row, rung in enumerate(own):
        alpha = 1.0 if rung.name == chart.picked else 0.5
        axes.barh(row, rung.figure.value, height=0.6, color=colour, alpha=alpha)
        half = rung.figure.half_width or 0.0
        axes.annotate(
            chart.measure.brief(rung.figure), (rung.figure.value + half, row), xytext=(8, 0), textcoords="offset points",
            va="center", fontsize=value_size, color=palette.text,
        )  # fmt: skip
    names = [_cut(r.name, 18) for r in own]
    axes.set_yticks(range(len(own)), names, fontsize=name_size, color=palette.text)
    axes.invert_yaxis()
    axes.set_xticks([])
    axes.set_xlim(0.0, max(r.figure.value + (r.figure.half_width or 0.0) for r in own) or 1.0)
    for side in ("bottom", "left", "top", "right"):
        axes.spines[side].set_visible(False)
    axes.tick_params(length=0)
