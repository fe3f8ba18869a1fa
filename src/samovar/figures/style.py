"""The look of all figures on paper: one palette, one set of sizes, text kept as text."""

from __future__ import annotations

import textwrap
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any
from weakref import WeakKeyDictionary

from samovar.figures.palette import PAPER

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure
    from matplotlib.text import Text

WIDTH_IN = 7.1
"""A page's text width; at half of it, in one column, the smallest text still has 5 points."""

HATCH = {"thermal": "xxx", "power": "///", "shared": "|||", "firmware": "---", "unexplained": "..."}
"""One hatch a cause of holding, so that print without colour still tells them apart."""

SETTINGS: Any = {
    "svg.fonttype": "none",
    "svg.hashsalt": "samovar",
    # Names hold dollar signs, and none of them is mathematics.
    "text.parse_math": False,
    "pdf.fonttype": 42,
    "font.family": "DejaVu Sans",
    "font.size": 10.0,
    "axes.edgecolor": PAPER.soft,
    "axes.linewidth": 0.8,
    "axes.labelcolor": PAPER.text,
    "axes.titleweight": "bold",
    "text.color": PAPER.text,
    "xtick.color": PAPER.soft,
    "ytick.color": PAPER.soft,
    "xtick.labelcolor": PAPER.text,
    "ytick.labelcolor": PAPER.text,
    "axes.spines.top": False,
    "axes.spines.right": False,
    "hatch.linewidth": 0.7,
    "figure.facecolor": PAPER.ground,
}


COLUMN_IN = 84.0 / 25.4
"""A column of a printed page."""
COLUMN_TYPE, SMALLEST_PT = 0.74, 6.0
"""Type shrinks by the first in a column, and never below the second."""
COLUMN_HEIGHT = 0.78
"""A figure's height in a column, as a share of that on the page: its type is smaller."""
LETTERS_IN_COLUMN = 44
"""So many letters of a title fit across a column."""


_IN_A_COLUMN: WeakKeyDictionary[Figure, Callable[[], None]] = WeakKeyDictionary()


def in_a_column(figure: Figure, change: Callable[[], None]) -> None:
    """What a figure changes of itself where it is brought into a column."""
    _IN_A_COLUMN[figure] = change


def to_column(figure: Figure) -> None:
    """Bring a figure that was drawn for the page into a column, in place: the same drawing, narrower, in smaller type."""
    width, height = (float(x) for x in figure.get_size_inches())
    if figure.get_layout_engine() is None:
        # Margins that were set for the page's type are those of the smaller type here.
        pars = figure.subplotpars
        inches = (
            pars.left * width,
            (1.0 - pars.right) * width,
            (1.0 - pars.top) * height,
            pars.bottom * height,
        )
        left, right, top, bottom = (COLUMN_TYPE * x for x in inches)
        tall = COLUMN_HEIGHT * height
        figure.subplots_adjust(left / COLUMN_IN, bottom / tall, 1.0 - right / COLUMN_IN, 1.0 - top / tall)
    else:
        figure.set_layout_engine("constrained")
    figure.set_size_inches(COLUMN_IN, COLUMN_HEIGHT * height)
    if (change := _IN_A_COLUMN.pop(figure, None)) is not None:
        change()
    for words in _words_of(figure):
        words.set_fontsize(max(SMALLEST_PT, COLUMN_TYPE * float(words.get_fontsize())))
    for axes in figure.axes:
        axes.tick_params(labelsize=max(SMALLEST_PT, COLUMN_TYPE * SETTINGS["font.size"]))
    title = figure._suptitle  # type: ignore[attr-defined]
    lines = 1
    if title is not None:
        wrapped = textwrap.wrap(title.get_text(), LETTERS_IN_COLUMN)
        lines = len(wrapped)
        title.set_text("\n".join(wrapped))
    for words in figure.texts:
        if words.get_gid() == SUBTITLE:
            # Under as many lines as the title has now.
            words.set_y(1.0 - (0.06 + 0.15 * lines) / (COLUMN_HEIGHT * height))
            words.set_text("\n".join(textwrap.wrap(words.get_text(), LETTERS_IN_COLUMN + 12)[:1]))


NAMES_IN, LETTER_IN, NAME_MOST = 0.28, 0.088, 30
"""Room for names at the left: so much, and so much for each letter of the longest, inches; longer ones are cut."""
TITLE_LETTERS = 76
"""So many letters of a title fit across a page's figure."""


def named(name: str) -> str:
    """A name as it stands at a figure's side: a long one is cut, and shows that it is."""
    return name if len(name) <= NAME_MOST else f"{name[: NAME_MOST - 1]}…"


def name_room_in(names: Sequence[str]) -> float:
    """The room that names need at a figure's side, inches."""
    return NAMES_IN + LETTER_IN * min(max((len(n) for n in names), default=0), NAME_MOST)


def say_title(figure: Figure, title: str, subtitle: str = "") -> None:
    """What a figure says stands above it, and in small type what is drawn; what it says is no more than fits on a line."""
    height = float(figure.get_size_inches()[1])
    if len(title) > TITLE_LETTERS:
        # A sentence that does not fit is told in the caption; above stands what is drawn.
        title, subtitle = subtitle or title, ""
    if len(title) > TITLE_LETTERS:
        title, subtitle = "\n".join(textwrap.wrap(title, TITLE_LETTERS)[:2]), ""
    figure.suptitle(title, fontsize=11, fontweight="bold", x=0.01, y=1.0 - 0.06 / height, ha="left", va="top")
    if subtitle and subtitle != title:
        figure.text(
            0.01,
            1.0 - 0.3 / height,
            subtitle,
            fontsize=9,
            color=PAPER.soft,
            ha="left",
            va="top",
            gid=SUBTITLE,
        )


SUBTITLE = "subtitle"


def _words_of(figure: Figure) -> list[Text]:
    """All words of a figure but those at its ticks: having them looked for takes a tenth of the time of drawing it."""
    found = list(figure.texts)
    if (title := figure._suptitle) is not None:  # type: ignore[attr-defined]
        found.append(title)
    for axes in figure.axes:
        found += [*axes.texts, axes.title, axes.xaxis.label, axes.yaxis.label]
        if (legend := axes.get_legend()) is not None:
            found += legend.get_texts()
    return found


@dataclass(frozen=True)
class Margins:
    """Room around a figure's axes, in inches, and between its rows as a share of their mean height."""

    left: float
    right: float
    top: float
    bottom: float
    between: float


def new_figure(height_in: float, margins: Margins | None = None) -> Figure:
    """An empty figure of the page's width, without the interactive machinery. With margins its layout is set, which takes a third
    of the time of having it worked out."""
    from matplotlib.figure import Figure

    if margins is None:
        return Figure(figsize=(WIDTH_IN, height_in), layout="constrained")
    figure = Figure(figsize=(WIDTH_IN, height_in))
    figure.subplots_adjust(
        margins.left / WIDTH_IN, margins.bottom / height_in, 1.0 - margins.right / WIDTH_IN,
        1.0 - margins.top / height_in, hspace=margins.between,
    )  # fmt: skip
    return figure


def minutes_axis(axes: Axes, span_s: float) -> None:
    """The time axis in minutes, on round ticks, with its name."""
    from matplotlib.ticker import FuncFormatter, MultipleLocator

    step = next((s for s in (10, 30, 60, 120, 300, 600, 900, 1800, 3600) if span_s / s <= 9), 7200)
    axes.xaxis.set_major_locator(MultipleLocator(step))
    axes.xaxis.set_major_formatter(FuncFormatter(lambda s, _: f"{s / 60:g}"))
    axes.set_xlabel("minutes")
