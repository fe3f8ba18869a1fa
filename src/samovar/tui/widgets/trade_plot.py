"""Trade: setups in the plane of two figures, as crosses as wide as their uncertainties."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping

from rich.text import Text

from samovar.core.compare.trade import Trade, TradePoint
from samovar.core.measured import AT_MOST, Measured
from samovar.figures.palette import Palette
from samovar.tui.pixels.layer import Pictured, pixels_for
from samovar.tui.pixels.picture import CellPicture
from samovar.tui.run_cells import short
from samovar.tui.theme import palette_of
from samovar.tui.widgets.strip_curves import round_levels
from samovar.tui.widgets.trade_pixels import trade_pixels

STROKES = frozenset("·∙○─│┼◆┊")
"""What lines and crosses are made of in cells."""
PADDING, HEAD_ROWS = 1, 1
"""The plot begins behind the widget's padding, under the name of the vertical axis."""
GUTTER = 9
"""Cells at the left for the vertical axis' numbers."""
LEAST_WIDTH, LEAST_HEIGHT = 30, 8
NAME_MOST = 28
"""A longer name would lie over the crosses of others; the ladder has more of it."""
MARGIN = 0.08
"""Room around the outermost values, as a share of what they span."""

ROWS_A_TICK, COLUMNS_A_TICK = 7, 22
"""So many cells to a number at an axis, or more."""
Canvas = list[list[tuple[str, str]]]
Scale = Callable[[float], int]


class TradePlot(Pictured):
    """Crosses with names, the demand's line, and the unbeaten ones joined."""

    DEFAULT_CSS = "TradePlot { height: 1fr; padding: 0 1; }"

    def __init__(self) -> None:
        super().__init__(id="trade")
        self._trade: Trade | None = None
        self._colours: Mapping[str, str] = {}
        self._limit: float | None = None
        self._said = "asked for"
        self._empty = ""

    def show(
        self,
        trade: Trade | None,
        colours: Mapping[str, str],
        limit: float | None = None,
        empty: str = "",
        looked_at: bool = False,
    ) -> None:
        """Show these points; `limit`: what the review asks of the figure across, or the level that is `looked_at`; `empty`: what to say without any."""
        self._trade, self._colours, self._limit, self._empty = trade, colours, limit, empty
        self._said = "looked at" if looked_at else "asked for"
        self.refresh()

    def render(self) -> Text:
        """The plot, its axes, and below it what is left out."""
        palette, trade = palette_of(self.app.theme), self._trade
        self.pictures.show(())
        if trade is None or not trade.points:
            return Text(self._empty, palette.soft)
        width, height = self.size.width - GUTTER - 2, self.size.height - 4 - bool(trade.left_out)
        if width < LEAST_WIDTH or height < LEAST_HEIGHT:
            return Text(
                "Too little room to draw here: make the window larger, or press v for another view.",
                palette.soft,
            )
        horizontal = _span(
            [p.across for p in trade.points], [x for p in trade.points for x, _ in p.curve], self._limit
        )
        vertical = _span([p.up for p in trade.points], [y for p in trade.points for _, y in p.curve], None)
        canvas: Canvas = [[(" ", "")] * width for _ in range(height)]

        def column(value: float) -> int:
            return _cell_of(value, horizontal, width)

        def row(value: float) -> int:
            return height - 1 - _cell_of(value, vertical, height)

        if self._limit is not None:
            at = column(self._limit)
            if 0 <= at < width:
                for line in canvas:
                    line[at] = ("┊", palette.caution)
                words = f" {self._limit:g} {trade.across.unit} {self._said}"
                self._write(
                    canvas, 0, at + 1 if at + len(words) < width else at - len(words), words, palette.caution
                )
        best = [(column(p.across.value), row(p.up.value)) for p in trade.unbeaten]
        for (x0, y0), (x1, y1) in itertools.pairwise(best):
            _line(canvas, x0, y0, x1, y1, "·", palette.brass)
        for point in trade.points:
            colour = self._colours.get(point.name, palette.text)
            steps = [(column(x), row(y)) for x, y in point.curve]
            for (x0, y0), (x1, y1) in itertools.pairwise(steps):
                _line(canvas, x0, y0, x1, y1, "∙", colour)
            for x, y in steps:
                _put(canvas, x, y, "○", colour)
            self._cross(canvas, point, column, row, colour)
        for point in trade.points:
            self._label(canvas, point, column(point.across.value), row(point.up.value), palette)
        pixels = pixels_for(self)
        if pixels is not None:
            written = _words_alone(canvas, palette)
            spans = horizontal, vertical
            picture = trade_pixels(
                trade, self._colours, self._limit, spans, (width, height), written, pixels.cell, palette
            )
            self.pictures.show((CellPicture(GUTTER + PADDING, HEAD_ROWS, *picture),))
        return self._assembled(canvas, trade, palette, horizontal, vertical, width)

    def _cross(self, canvas: Canvas, point: TradePoint, column: Scale, row: Scale, colour: str) -> None:
        x, y = column(point.across.value), row(point.up.value)
        for value, along in ((point.across, True), (point.up, False)):
            half = value.half_width or 0.0
            ends = (
                (column if along else row)(value.value - half),
                (column if along else row)(value.value + half),
            )
            for k in range(min(ends), max(ends) + 1):
                _put(canvas, k if along else x, y if along else k, "─" if along else "│", colour)
            if value.bound is not None:
                down = value.bound == AT_MOST
                mark = ("◀" if down else "▶") if along else ("▼" if down else "▲")
                step = -2 if down == along else 2
                _put(canvas, x + (step if along else 0), y + (0 if along else step // 2), mark, colour)
        _put(canvas, x, y, "◆" if point.unbeaten else "┼", colour)

    def _label(self, canvas: Canvas, point: TradePoint, x: int, y: int, palette: Palette) -> None:
        words = f" {short(point.name, NAME_MOST)}"
        width = len(canvas[0])
        # To the right and above where there is room, so that the cross stays to be seen.
        left, middle = x - len(words), max(0, min(x - len(words) // 2, width - len(words)))
        places = [(dy, at) for dy in (-1, 1) for at in (x, left)] + [
            (dy, at) for dy in (-2, 2, -3, 3) for at in (x, left, middle)
        ]
        for dy, at in places:
            line = y + dy
            if 0 <= line < len(canvas) and at >= 0 and at + len(words) <= width:
                taken = [c for c, _ in canvas[line][at : at + len(words)] if c not in " ·∙┊│"]
                if not taken:
                    self._write(
                        canvas, line, at, words, f"bold {self._colours.get(point.name, palette.text)}"
                    )
                    return
        self._write(
            canvas, max(0, min(y, len(canvas) - 1)), min(x + 2, width - len(words)), words, palette.text
        )

    @staticmethod
    def _write(canvas: Canvas, line: int, at: int, words: str, style: str) -> None:
        for k, letter in enumerate(words):
            if letter != " ":
                _put(canvas, at + k, line, letter, style)

    def _assembled(
        self, canvas: Canvas, trade: Trade, palette: Palette, horizontal: tuple[float, float], vertical: tuple[float, float], width: int,
    ) -> Text:  # fmt: skip
        text = Text(no_wrap=True)
        height = len(canvas)
        up, across = trade.up, trade.across
        better = "less" if up.lower_is_better else "more"
        text.append(f"{up.label}, {up.unit} ({better} is better)\n", palette.quantity[up.quantity])
        ticks = {
            height - 1 - _cell_of(value, vertical, height): value
            for value in round_levels(*vertical, max(1, height // ROWS_A_TICK))
        }
        for k, line in enumerate(canvas):
            label = f"{ticks[k]:g}" if k in ticks else ""
            text.append(f"{label:>{GUTTER - 2}} ", palette.soft)
            text.append("┤" if k in ticks else "│", palette.faint)
            for letter, style in line:
                text.append(letter, style or None)
            text.append("\n")
        axis, marks = ["─"] * width, [" "] * (width + 1)
        for value in round_levels(*horizontal, max(1, width // COLUMNS_A_TICK)):
            at, words = _cell_of(value, horizontal, width), f"{value:g}"
            axis[at] = "┬"
            begin = max(0, min(at - len(words) // 2, width - len(words)))
            marks[begin : begin + len(words)] = words
        text.append(" " * (GUTTER - 1) + "╰" + "".join(axis) + "\n", palette.faint)
        text.append(" " * GUTTER + "".join(marks).rstrip() + "\n", palette.soft)
        better = "less" if across.lower_is_better else "more"
        text.append(
            " " * GUTTER + f"{across.label}, {across.unit} ({better} is better)",
            palette.quantity[across.quantity],
        )
        text.append("   ◆ nothing beats it in both", palette.brass)
        if trade.left_out:
            missing = ", ".join(f"{name}: {why}" for name, why in trade.left_out.items())
            text.append(f"\nnot here: {missing}"[: width + GUTTER], palette.faint)
        return text


def _words_alone(canvas: Canvas, palette: Palette) -> list[tuple[int, int]]:
    """Take what pixels draw out of a canvas; the answer is the cells, row and column, that words are left in."""
    left = []
    for k, line in enumerate(canvas):
        for at, (letter, style) in enumerate(line):
            if letter in STROKES and not style.startswith("bold ") and style != palette.text:
                line[at] = (" ", "")
            elif letter != " ":
                left.append((k, at))
    return left


def _span(values: list[Measured], more: list[float], limit: float | None) -> tuple[float, float]:
    """What an axis shows: all values with their intervals, and the demand."""
    ends = [v.value - (v.half_width or 0.0) for v in values] + [
        v.value + (v.half_width or 0.0) for v in values
    ]
    ends += [*more, *([limit] if limit is not None else [])]
    low, high = min(ends), max(ends)
    room = MARGIN * (high - low) or 0.05 * abs(high) or 1.0
    return low - room, high + room


def _cell_of(value: float, span: tuple[float, float], cells: int) -> int:
    """Which of an axis' cells a value is in, from its lower end."""
    return round((value - span[0]) / (span[1] - span[0]) * (cells - 1))


def _put(canvas: Canvas, x: int, y: int, letter: str, style: str) -> None:
    if 0 <= y < len(canvas) and 0 <= x < len(canvas[0]):
        canvas[y][x] = (letter, style)


def _line(canvas: Canvas, x0: int, y0: int, x1: int, y1: int, letter: str, style: str) -> None:
    """Dots from one cell to another."""
    count = max(abs(x1 - x0), abs(y1 - y0), 1)
    for k in range(1, count):
        x, y = round(x0 + (x1 - x0) * k / count), round(y0 + (y1 - y0) * k / count)
        if 0 <= y < len(canvas) and 0 <= x < len(canvas[0]) and canvas[y][x][0] == " ":
            canvas[y][x] = (letter, style)
