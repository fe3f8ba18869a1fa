"""The strips: curves stacked on one time axis, with phases above, the held ribbon and the marks below.

Drawn by Textual's line API from numpy arrays: every column shows the least and the greatest value in
it, and the part under the main curve is tinted so that it can be read from a chair's distance.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from rich.segment import Segment
from rich.style import Style
from textual.events import Click
from textual.message import Message
from textual.strip import Strip
from textual.widget import Widget

from samovar.bench.course import clock_text
from samovar.core.envelope import Envelope
from samovar.core.held import HeldStretch
from samovar.core.phases import Phase
from samovar.core.recording import Mark
from samovar.figures.palette import HELD_COLOUR, HELD_PATTERN, Palette
from samovar.tui.theme import palette_of
from samovar.tui.widgets.raster import BRAILLE, below, dots, large
from samovar.tui.widgets.strip_plan import StripSpec, nice_range

_TICKS_S = (1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200)
_VARIANTS = 4
_PLAIN, _TINT, _WINDOW, _CURSOR = range(_VARIANTS)
_LABEL = 7


@dataclass(frozen=True)
class StripView:
    """What the strips show: all but the samples themselves."""

    specs: tuple[StripSpec, ...] = ()
    start_s: float = 0.0
    end_s: float = 600.0
    phases: tuple[Phase, ...] = ()
    held: tuple[HeldStretch, ...] | None = None
    marks: tuple[Mark, ...] = ()
    window: tuple[float, float] | None = None
    cursor_s: float | None = None
    room_c: float | None = None
    model: tuple[np.ndarray, np.ndarray] | None = None
    empty: str = "nothing recorded yet"
    zero_s: float = 0.0


@dataclass
class _Canvas:
    """A block of cells: code points and style numbers, turned into segments row by row."""

    chars: np.ndarray
    styles: np.ndarray
    table: list[Style] = field(default_factory=list)

    def segments(self, row: int) -> list[Segment]:
        codes, styles = self.chars[row], self.styles[row]
        text = codes.astype("<u4").tobytes().decode("utf-32-le")
        cuts = [0, *(np.flatnonzero(styles[1:] != styles[:-1]) + 1).tolist(), len(styles)]
        return [Segment(text[a:b], self.table[styles[a]]) for a, b in itertools.pairwise(cuts) if b > a]

    def write(self, row: int, column: int, text: str, style: int) -> None:
        """Text over the cells, cut at the edge."""
        if not 0 <= row < self.chars.shape[0] or column >= self.chars.shape[1]:
            return
        if column < 0:
            text, column = text[-column:], 0
        text = text[: self.chars.shape[1] - column]
        self.chars[row, column : column + len(text)] = [ord(c) for c in text]
        self.styles[row, column : column + len(text)] = style


def _last(row: np.ndarray) -> float:
    """The last value there is."""
    known = np.flatnonzero(np.isfinite(row))
    return float(row[known[-1]]) if len(known) else float("nan")


class StripStack(Widget):
    """Strips on one time axis. Feed it with `show`; it redraws when its view or its samples change."""

    class Picked(Message):
        """A moment was clicked, seconds on the run's time."""

        def __init__(self, seconds: float) -> None:
            super().__init__()
            self.seconds = seconds

    def __init__(self, **named: object) -> None:
        super().__init__(**named)  # type: ignore[arg-type]
        self.view = StripView()
        self.envelope: Envelope | None = None
        self._rows: list[Strip] | None = None
        self._styles: dict[tuple[str | None, str | None, bool], Style] = {}

    def show(self, view: StripView, envelope: Envelope | None) -> None:
        """Show this from now on."""
        self.view = view
        self.envelope = envelope
        self._rows = None
        self.refresh()

    def update_view(self, **changes: object) -> None:
        """Change parts of the view."""
        self.show(replace(self.view, **changes), self.envelope)  # type: ignore[arg-type]

    @property
    def names_width(self) -> int:
        """Width of the names and values at the left, cells."""
        return 28 if self.size.width >= 92 else 25

    @property
    def plot_width(self) -> int:
        """Width of the plots, cells."""
        return max(10, self.size.width - self.names_width)

    def on_resize(self) -> None:
        """The layout follows the size."""
        self._rows = None

    def notify_style_update(self) -> None:
        """Another theme: all colours anew."""
        super().notify_style_update()
        self._rows = None
        self._styles.clear()

    def on_click(self, event: Click) -> None:
        """A click in the plots picks a moment."""
        x = event.x - self.names_width
        if 0 <= x < self.plot_width and self.envelope is not None:
            span = self.view.end_s - self.view.start_s
            self.post_message(self.Picked(self.view.start_s + (x + 0.5) / self.plot_width * span))

    def render_line(self, y: int) -> Strip:
        """One line of the widget."""
        if self._rows is None:
            self._rows = self.build()
        if y < len(self._rows):
            return self._rows[y]
        return Strip.blank(self.size.width, self.rich_style)

    @property
    def palette(self) -> Palette:
        """The colours now."""
        return palette_of(self.app.theme)

    @property
    def _many_colours(self) -> bool:
        return self.app.console.color_system in ("truecolor", None)

    def _style(self, colour: str | None, ground: str | None = None, bold: bool = False) -> Style:
        key = (colour, ground or self.palette.ground, bold)
        style = self._styles.get(key)
        if style is None:
            style = self._styles[key] = Style(color=key[0], bgcolor=key[1], bold=bold)
        return style

    def build(self) -> list[Strip]:
        """All lines, for the present size and view."""
        height, width = self.size.height, self.size.width
        if width < 40 or height < 6:
            return []
        view = self.view
        if not view.specs or self.envelope is None or len(self.envelope.time_s) == 0:
            return self._empty(width, height)
        ribbon = 0 if view.held is None else (2 if height >= 34 else 1)
        phases = bool(view.phases)
        fixed = phases + ribbon + (1 if view.held is not None else 0) + 1
        shown, heights = self._heights(height - fixed)
        rows = [self._phase_row()] if phases else []
        for spec, rows_of in zip(shown, heights, strict=True):
            rows.extend(self._strip_rows(spec, rows_of))
        rows.extend(self._ribbon_rows(ribbon))
        if view.held is not None:
            rows.append(self._mark_row())
        rows.append(self._axis_row())
        return rows

    def _empty(self, width: int, height: int) -> list[Strip]:
        blank = Strip.blank(width, self._style(None))
        rows = [blank] * height
        text = self.view.empty[: width - 4]
        middle = Strip([Segment("  " + text, self._style(self.palette.soft))]).adjust_cell_length(
            width, self._style(None)
        )
        rows[min(2, height - 1)] = middle
        return rows

    def _heights(self, available: int) -> tuple[list[StripSpec], list[int]]:
        """The strips that fit, and their heights: three rows at the least, shared out by weight."""
        shown = list(self.view.specs)
        while len(shown) > 1 and available < 3 * len(shown):
            shown.pop()
        total = sum(s.weight for s in shown)
        heights = [max(3, int(available * s.weight / total)) for s in shown]
        while sum(heights) > available and max(heights) > 3:
            heights[heights.index(max(heights))] -= 1
        k = 0
        while sum(heights) < available:
            heights[k % len(heights)] += 1
            k += 1
        return shown, heights

    def _colours(self, spec: StripSpec) -> list[str]:
        if spec.colours:
            return list(spec.colours)
        palette = self.palette
        main = palette.quantity[spec.quantity]
        return [main] + [palette.blend(main, 0.55)] * (len(spec.rows) - 1)

    def _strip_rows(self, spec: StripSpec, height: int) -> list[Strip]:
        view, width = self.view, self.plot_width
        assert self.envelope is not None
        low, high = self.envelope.columns(list(spec.rows), view.start_s, view.end_s, 2 * width)
        bottom, top = self._range(spec, low, high)
        colours = self._colours(spec)
        canvas = self._canvas(spec, height, width, colours)
        owner = np.full((height, width), -1)
        bits = np.zeros((height, width), dtype=np.uint32)
        single = not spec.colours
        for k in range(len(spec.rows) - 1, -1, -1):
            found = dots(low[k], high[k], bottom, top, height, 2 if k == 0 or spec.colours else 1)
            owner[found > 0] = k
            bits |= found
        drawn = bits > 0
        canvas.chars[drawn] = BRAILLE + bits[drawn]
        ground = np.full((height, width), _PLAIN)
        if single:
            ground[below(high[0], bottom, top, height)] = _TINT
        self._shade(ground)
        canvas.styles[:] = _VARIANTS + ground
        canvas.styles[drawn] = (2 + owner[drawn]) * _VARIANTS + ground[drawn]
        self._limits(canvas, spec, bottom, top, height, drawn, ground)
        self._model_curve(canvas, spec, bottom, top, height, drawn, ground)
        gutter = self._gutter(spec, height, colours, bottom, top)
        total = self.size.width
        return [
            Strip([*gutter[row], *canvas.segments(row)]).adjust_cell_length(total, self._style(None))
            for row in range(height)
        ]

    def _canvas(self, spec: StripSpec, height: int, width: int, colours: Sequence[str]) -> _Canvas:
        palette = self.palette
        # Where only 256 colours are to be had, a tint would come out as something glaring.
        tint = palette.blend(colours[0], 0.13) if self._many_colours else palette.ground
        window = palette.blend(palette.brass, 0.16)
        cursor = palette.blend(palette.brass, 0.45)
        table: list[Style] = []
        for colour in (palette.text, palette.faint, *colours):
            table += [self._style(colour, ground) for ground in (palette.ground, tint, window, cursor)]
        return _Canvas(
            np.full((height, width), ord(" "), dtype=np.uint32),
            np.zeros((height, width), dtype=np.intp),
            table,
        )

    def _column(self, seconds: float) -> int | None:
        view = self.view
        share = (seconds - view.start_s) / max(view.end_s - view.start_s, 1e-9)
        return int(share * self.plot_width) if 0.0 <= share < 1.0 else None

    def _shade(self, ground: np.ndarray) -> None:
        """The averaging window and the cursor as backgrounds."""
        view = self.view
        if view.window is not None:
            span = max(view.end_s - view.start_s, 1e-9)
            a, b = ((edge - view.start_s) / span * self.plot_width for edge in view.window)
            ground[:, max(0, int(a)) : max(0, int(b) + 1)] = _WINDOW
        if view.cursor_s is not None and (column := self._column(view.cursor_s)) is not None:
            ground[:, column] = _CURSOR

    def _range(self, spec: StripSpec, low: np.ndarray, high: np.ndarray) -> tuple[float, float]:
        finite_low, finite_high = low[np.isfinite(low)], high[np.isfinite(high)]
        if len(finite_low) == 0:
            return 0.0, 1.0
        least, most = float(finite_low.min()), float(finite_high.max())
        levels = [value for value, word in spec.limits if word != "burst" or most > 0.9 * value]
        zero = spec.quantity != "temperature" or bool(spec.colours)
        return nice_range(min([least, *levels]), max([most, *levels]), spec.decimals, zero)

    def _limits(
        self,
        canvas: _Canvas,
        spec: StripSpec,
        bottom: float,
        top: float,
        height: int,
        drawn: np.ndarray,
        ground: np.ndarray,
    ) -> None:
        for value, word in spec.limits:
            row = int((top - value) / max(top - bottom, 1e-9) * height)
            if not 0 <= row < height:
                continue
            free = ~drawn[row]
            canvas.chars[row, free] = ord("╌")
            canvas.styles[row, free] = _VARIANTS + ground[row, free]
            text = f" {word} {value:g} "
            column = self.plot_width - len(text) - 1
            if column > 4 and not drawn[row, column : column + len(text)].any():
                canvas.write(row, column, text, _VARIANTS)

    def _model_curve(
        self,
        canvas: _Canvas,
        spec: StripSpec,
        bottom: float,
        top: float,
        height: int,
        drawn: np.ndarray,
        ground: np.ndarray,
    ) -> None:
        """The thermal model's curve as a dotted line over the temperatures."""
        if self.view.model is None or not spec.over_room:
            return
        time_s, celsius = self.view.model
        for t, value in zip(time_s.tolist(), celsius.tolist(), strict=True):
            column = self._column(t)
            row = int((top - value) / max(top - bottom, 1e-9) * height)
            if column is not None and 0 <= row < height and not drawn[row, column]:
                canvas.chars[row, column] = ord("·")
                canvas.styles[row, column] = ground[row, column]

    def _gutter(
        self, spec: StripSpec, height: int, colours: Sequence[str], bottom: float, top: float
    ) -> list[list[Segment]]:
        """Name, value, rise and the lesser channels at the left; the axis' ends beside the plot."""
        palette, width = self.palette, self.names_width - _LABEL - 1
        values = self._values(spec)
        main = self._figure(values[0], spec.decimals) if values else "–"
        soft, plain = self._style(palette.soft), self._style(palette.text)
        lines: list[list[Segment]] = []
        title = [
            Segment(
                f" {spec.title}", self._style(colours[0] if not spec.colours else palette.text, bold=True)
            )
        ]
        title.append(Segment(f" {spec.unit}", soft))
        note = ""
        if spec.over_room and self.view.room_c is not None and values and np.isfinite(values[0]):
            note = f"{values[0] - self.view.room_c:+.1f} K" + (" rise" if width >= 20 else "")
        first_other = 1
        if spec.colours:
            lines.append(title)
            first_other = 0
        elif height >= 7:
            lines.append(title)
            strong = self._style(colours[0], bold=True)
            lines += [[Segment(f" {part}", strong)] for part in large(main)]
            lines.append(
                [
                    Segment(f" {spec.labels[0]} ", plain),
                    Segment(note[: width - len(spec.labels[0]) - 2], soft),
                ]
            )
        elif height >= 5:
            lines.append(
                [
                    *title,
                    Segment(
                        f" {spec.labels[0]}"[: max(0, width - len(spec.title) - len(spec.unit) - 3)], plain
                    ),
                ]
            )
            strong = self._style(colours[0], bold=True)
            lines += [[Segment(f" {part}", strong)] for part in large(main)]
            if note:
                lines.append([Segment(f" {note}", soft)])
        else:
            lines.append(title)
            lines.append(
                [
                    Segment(f" {main}", self._style(colours[0], bold=True)),
                    Segment(f" {spec.labels[0]}", plain),
                ]
            )
            if note:
                lines.append([Segment(f" {note}", soft)])
        room_for = height - len(lines)
        others = list(range(first_other, len(spec.rows)))
        if len(others) > 4 and spec.quantity == "clock" and not spec.colours:
            low, high = np.nanmin(values[1:]), np.nanmax(values[1:])
            if room_for > 0:
                lines.append([Segment(f" {low:.0f} to {high:.0f}", soft)])
            others = []
        for k in others[: max(0, height - len(lines))]:
            figure = self._figure(values[k], spec.decimals)
            name = spec.labels[k][: width - len(figure) - 3]
            colour = colours[k] if spec.colours else palette.soft
            lines.append(
                [
                    Segment(
                        f" {name:<{width - len(figure) - 2}}", self._style(colour, bold=bool(spec.colours))
                    ),
                    Segment(f"{figure} ", self._style(colour)),
                ]
            )
        return [
            [
                *self._cut(lines[row] if row < len(lines) else [], width),
                Segment(self._axis_label(row, height, bottom, top, spec), self._style(palette.faint)),
                Segment("▏", self._style(palette.line)),
            ]
            for row in range(height)
        ]

    def _cut(self, segments: list[Segment], width: int) -> list[Segment]:
        return list(Strip(segments).adjust_cell_length(width, self._style(None)))

    def _axis_label(self, row: int, height: int, bottom: float, top: float, spec: StripSpec) -> str:
        decimals = 2 if top - bottom < 1 else 1 if top - bottom < 4 else 0
        if row == 0:
            return f"{top:.{decimals}f}".rjust(_LABEL - 1) + " "
        if row == height - 1:
            return f"{bottom:.{decimals}f}".rjust(_LABEL - 1) + " "
        if height >= 9 and row == height // 2:
            middle = top - (top - bottom) * (row + 0.5) / height
            return f"{middle:.{decimals}f}".rjust(_LABEL - 1) + " "
        return " " * _LABEL

    def _values(self, spec: StripSpec) -> list[float]:
        """The channels' values at the cursor, else the newest."""
        assert self.envelope is not None
        time_s, values = self.envelope.time_s, self.envelope.values
        if self.view.cursor_s is None:
            if spec.colours:
                return [_last(values[row]) for row in spec.rows]
            index = len(time_s) - 1
        else:
            index = int(np.clip(np.searchsorted(time_s, self.view.cursor_s), 0, len(time_s) - 1))
            if index and abs(time_s[index - 1] - self.view.cursor_s) < abs(
                time_s[index] - self.view.cursor_s
            ):
                index -= 1
        return [float(values[row, index]) for row in spec.rows]

    @staticmethod
    def _figure(value: float, decimals: int) -> str:
        return f"{value:.{decimals}f}" if np.isfinite(value) else "–"

    def _line(self, name: str, canvas: _Canvas, row: int = 0, colour: str | None = None) -> Strip:
        head = Segment(f" {name}".ljust(self.names_width), self._style(colour or self.palette.soft))
        return Strip([head, *canvas.segments(row)]).adjust_cell_length(self.size.width, self._style(None))

    def _blank(self, rows: int, *styles: Style) -> _Canvas:
        width = self.plot_width
        return _Canvas(
            np.full((rows, width), ord(" "), dtype=np.uint32),
            np.zeros((rows, width), dtype=np.intp),
            list(styles),
        )

    def _phase_row(self) -> Strip:
        palette = self.palette
        canvas = self._blank(
            1,
            self._style(palette.line),
            self._style(palette.text, bold=True),
            self._style(palette.brass),
            self._style(palette.soft),
        )
        for phase in self.view.phases:
            a, b = self._edge(phase.start_s), self._edge(phase.end_s)
            if b <= a:
                continue
            busy = phase.name == "load"
            canvas.chars[0, a:b] = ord("━" if busy else "─")
            canvas.styles[0, a:b] = 2 if busy else 3
            canvas.chars[0, b - 1] = ord("┫" if busy else "┤")
            if b - a > len(phase.name) + 3:
                canvas.write(0, a + 1, f" {phase.name} ", 1 if busy else 3)
        return self._line("phase", canvas)

    def _edge(self, seconds: float) -> int:
        view = self.view
        share = (seconds - view.start_s) / max(view.end_s - view.start_s, 1e-9)
        return int(np.clip(round(share * self.plot_width), 0, self.plot_width))

    def _ribbon_rows(self, rows: int) -> list[Strip]:
        """The held ribbon: a pattern and a word for each cause."""
        palette, view = self.palette, self.view
        if rows == 0 or view.held is None:
            return []
        kinds = list(HELD_PATTERN)
        colours = [palette.quantity[HELD_COLOUR[k]] for k in kinds]
        canvas = self._blank(
            rows,
            self._style(palette.faint),
            *(self._style(c) for c in colours),
            *(self._style(palette.ground, c, True) for c in colours),
        )
        for phase in view.phases:
            if phase.name == "load":
                a, b = self._edge(phase.start_s), self._edge(phase.end_s)
                canvas.chars[:, a:b] = ord("·")
        for stretch in view.held:
            a, b = (
                self._edge(stretch.start_s),
                max(self._edge(stretch.end_s), self._edge(stretch.start_s) + 1),
            )
            kind = kinds.index(stretch.by)
            canvas.chars[:, a:b] = ord(HELD_PATTERN[stretch.by])
            canvas.styles[:, a:b] = 1 + kind
            loss = f" −{stretch.clock_loss_pct:.0f} %" if stretch.clock_loss_pct is not None else ""
            for text in (f" {stretch.by}{loss} ", f" {stretch.by} ", stretch.by[0]):
                if len(text) <= b - a - (2 if len(text) > 1 else 0):
                    canvas.write(0, a + (1 if len(text) > 1 else 0), text, 1 + len(kinds) + kind)
                    break
        names = ["held by", "", ""]
        return [self._line(names[row], canvas, row, palette.text) for row in range(rows)]

    def _mark_row(self) -> Strip:
        palette = self.palette
        canvas = self._blank(
            1, self._style(palette.line), self._style(palette.brass), self._style(palette.text)
        )
        places = [
            (self._edge(m.at_s), m.text)
            for m in self.view.marks
            if self.view.start_s <= m.at_s <= self.view.end_s
        ]
        for number, (column, text) in enumerate(places):
            after = places[number + 1][0] if number + 1 < len(places) else self.plot_width
            room = after - column - 2
            if room < 1 or column >= self.plot_width:
                continue
            canvas.write(0, column, "▴", 1)
            shown = text if len(text) <= room else text[: max(0, room - 1)] + "…"
            canvas.write(0, column + 1, shown if room > 3 else "", 2)
        return self._line("marks", canvas)

    def _axis_row(self) -> Strip:
        view, palette = self.view, self.palette
        canvas = self._blank(1, self._style(palette.soft), self._style(palette.brass, bold=True))
        span = view.end_s - view.start_s
        step = next((s for s in _TICKS_S if span / s * 9 <= self.plot_width), _TICKS_S[-1])
        moment = np.ceil((view.start_s - view.zero_s) / step) * step + view.zero_s
        while moment < view.end_s:
            column = self._column(float(moment))
            shown = moment - view.zero_s
            text = clock_text(abs(shown)) if shown >= 0 else f"−{clock_text(-shown)}"
            if column is not None and column + len(text) + 1 < self.plot_width:
                canvas.write(0, column, f"╵{text}", 0)
            moment += step
        if view.cursor_s is not None and (column := self._column(view.cursor_s)) is not None:
            text = clock_text(abs(view.cursor_s - view.zero_s))
            at = min(max(0, column - len(text) // 2), self.plot_width - len(text) - 2)
            canvas.write(0, at, f" {text} ", 1)
        return self._line("min:s", canvas)
