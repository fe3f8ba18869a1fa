"""The frame strips are drawn in: what they show, how wide it is, cells and styles to draw with."""

from __future__ import annotations

import itertools
import math
import sys
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache, partial

import numpy as np
from rich.segment import Segment
from rich.style import Style
from textual.strip import Strip

from samovar.core.envelope import Envelope
from samovar.core.held.stretches import HeldStretch
from samovar.core.marks import Mark
from samovar.core.phases import Phase
from samovar.figures.palette import Palette
from samovar.tui.widgets.strip_plan import StripSpec

EDGE = 1e-6
"""Share of a column that is no more than rounding."""


@dataclass(frozen=True)
class StripView:
    """What the strips show: all but the samples themselves."""

    specs: tuple[StripSpec, ...] = ()
    start_s: float = 0.0
    end_s: float = 600.0
    phases: tuple[Phase, ...] = ()
    held: tuple[tuple[str, tuple[HeldStretch, ...]], ...] | None = None
    marks: tuple[Mark, ...] = ()
    window: tuple[float, float] | None = None
    cursor_s: float | None = None
    anchor_s: float | None = None
    room_c: float | None = None
    model: tuple[np.ndarray, np.ndarray] | None = None
    left_out: tuple[tuple[float, float], ...] = ()
    empty: str = "nothing recorded yet"

    def on_columns(self, columns: int) -> StripView:
        """The same with its beginning where one of so many columns begins, counted from the axis' own: a window that moves shows what it
        shares with the last one just as that did. What is cut is less than a column, at the left."""
        column_s = (self.end_s - self.start_s) / columns
        if column_s <= 0.0:
            return self
        begin_s = math.ceil(self.start_s / column_s - EDGE) * column_s
        return replace(self, start_s=begin_s, end_s=begin_s + columns * column_s)

    def shows_the_same(self, other: StripView) -> bool:
        """Whether another view is this one; of the model's curve it must be the very same."""
        return self.model is other.model and replace(self, model=None) == replace(other, model=None)


@dataclass
class Canvas:
    """A block of cells: code points and style numbers, turned into segments row by row. Where the numbers go through `grounds`
    grounds for each ink, blanks take whatever ink stands before them: fewer segments, and nobody sees it."""

    chars: np.ndarray
    styles: np.ndarray
    table: Sequence[Style] = ()
    grounds: int = 0

    def segments(self) -> list[list[Segment]]:
        """All rows: what stands side by side in one style is one segment."""
        height, width = self.chars.shape
        text = self.chars.tobytes().decode(_CODES)
        inked = self._inked() if self.grounds else self.styles
        begins = np.ones(inked.shape, bool)
        np.not_equal(inked[:, 1:], inked[:, :-1], out=begins[:, 1:])
        starts = np.flatnonzero(begins)
        styles = [self.table[k] for k in inked.reshape(-1)[starts].tolist()]
        cuts = [*starts.tolist(), height * width]
        words = [text[a:b] for a, b in itertools.pairwise(cuts)]
        # A picture has a thousand of them: made as the tuples they are, in a third of the time.
        parts = list(map(_SEGMENT, zip(words, styles, itertools.repeat(None), strict=False)))
        of_row = np.searchsorted(starts, np.arange(0, height * width + 1, width)).tolist()
        return [parts[a:b] for a, b in itertools.pairwise(of_row)]

    def _inked(self) -> np.ndarray:
        """The styles, blanks with the ink before them, as far as the ground is the same."""
        ground = self.styles % self.grounds
        keeps = np.ones(self.styles.shape, bool)
        keeps[:, 1:] = (self.chars[:, 1:] != _BLANK) | (ground[:, 1:] != ground[:, :-1])
        at = np.where(keeps.reshape(-1), np.arange(keeps.size), 0)
        whole: np.ndarray = self.styles.reshape(-1)[np.maximum.accumulate(at)].reshape(keeps.shape)
        return whole

    def write(self, row: int, column: int, text: str, style: int) -> None:
        """Text over the cells, cut at the edge."""
        if not 0 <= row < self.chars.shape[0] or column >= self.chars.shape[1]:
            return
        if column < 0:
            text, column = text[-column:], 0
        text = text[: self.chars.shape[1] - column]
        self.chars[row, column : column + len(text)] = [ord(c) for c in text]
        self.styles[row, column : column + len(text)] = style


_BLANK = ord(" ")
_CODES = "utf-32-le" if sys.byteorder == "little" else "utf-32-be"
_SEGMENT = partial(tuple.__new__, Segment)


@lru_cache(maxsize=2048)
def style_of(colour: str | None, ground: str, bold: bool) -> Style:
    """A style, made once: a picture has hundreds, and the next one the same."""
    return Style(color=colour, bgcolor=ground, bold=bold)


@lru_cache(maxsize=256)
def styles_of(inks: tuple[str, ...], grounds: tuple[str, ...]) -> tuple[Style, ...]:
    """The styles of every ink on every ground, ink by ink."""
    return tuple(style_of(ink, ground, False) for ink in inks for ground in grounds)


class Frame:
    """Size, colours and time axis of a stack of strips; the base of what is drawn in it."""

    def __init__(
        self,
        view: StripView,
        envelope: Envelope | None,
        palette: Palette,
        size: tuple[int, int],
        many_colours: bool,
    ) -> None:
        self.envelope = envelope
        self.palette = palette
        self.width, self.height = size
        self.view = view.on_columns(self.plot_width)
        self._many_colours = many_colours

    @property
    def names_width(self) -> int:
        """Width of the names and values at the left, cells."""
        return 28 if self.width >= 92 else 25

    @property
    def plot_width(self) -> int:
        """Width of the plots, cells."""
        return max(10, self.width - self.names_width)

    def style(self, colour: str | None, ground: str | None = None, bold: bool = False) -> Style:
        """A style on the ground, or on another one."""
        return style_of(colour, ground or self.palette.ground, bold)

    @property
    def column_s(self) -> float:
        """How long a column of the plots lasts."""
        return (self.view.end_s - self.view.start_s) / self.plot_width

    def _column(self, seconds: float) -> int | None:
        view = self.view
        share = (seconds - view.start_s) / max(view.end_s - view.start_s, 1e-9)
        return int(share * self.plot_width) if 0.0 <= share < 1.0 else None

    def _edge(self, seconds: float) -> int:
        view = self.view
        share = (seconds - view.start_s) / max(view.end_s - view.start_s, 1e-9)
        return min(max(round(share * self.plot_width), 0), self.plot_width)

    def _line(self, name: str, canvas: Canvas, row: int = 0, colour: str | None = None) -> Strip:
        head = Segment(f" {name}".ljust(self.names_width), self.style(colour or self.palette.soft))
        return Strip([head, *canvas.segments()[row]]).adjust_cell_length(self.width, self.style(None))

    def _blank(self, rows: int, *styles: Style) -> Canvas:
        width = self.plot_width
        return Canvas(
            np.full((rows, width), ord(" "), dtype=np.uint32),
            np.zeros((rows, width), dtype=np.intp),
            list(styles),
        )
