"""The strips themselves: curves as braille over a tint, names and values at their left."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from rich.segment import Segment
from rich.style import Style
from textual.strip import Strip

from samovar.tui.widgets.raster import BRAILLE, below, dots, large
from samovar.tui.widgets.strip_bands import Bands
from samovar.tui.widgets.strip_frame import Canvas
from samovar.tui.widgets.strip_plan import LOOKS, StripSpec, nice_range

_VARIANTS = 5
_PLAIN, _TINT, _WINDOW, _CURSOR, _OUT = range(_VARIANTS)
_LABEL = 7


def _last(row: np.ndarray) -> float:
    """The last value there is."""
    known = np.flatnonzero(np.isfinite(row))
    return float(row[known[-1]]) if len(known) else float("nan")


class StripPainter(Bands):
    """Draws the whole stack, row by row."""

    def build(self) -> list[Strip]:
        """All lines, for the present size and view."""
        height, width = self.height, self.width
        if width < 40 or height < 6:
            return []
        view = self.view
        if not view.specs or self.envelope is None or len(self.envelope.time_s) == 0:
            return self._empty(width, height)
        ribbon = 0 if view.held is None else max(len(view.held), 2 if height >= 34 else 1)
        phases = bool(view.phases)
        fixed = phases + ribbon + (1 if view.held is not None else 0) + 1
        shown, heights = self._heights(height - fixed)
        rows = [self.phase_row()] if phases else []
        for spec, rows_of in zip(shown, heights, strict=True):
            rows.extend(self._strip_rows(spec, rows_of))
        rows.extend(self.ribbon_rows(ribbon))
        if view.held is not None:
            rows.append(self.mark_row())
        rows.append(self.axis_row())
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
        colours = [main] + [palette.blend(main, 0.55)] * (len(spec.rows) - 1)
        if spec.other is not None:
            colours[spec.other] = palette.brass if spec.quantity == "work" else palette.text
        return colours

    def _strip_rows(self, spec: StripSpec, height: int) -> list[Strip]:
        view, width = self.view, self.plot_width
        assert self.envelope is not None
        low, high = self.envelope.columns(list(spec.rows), view.start_s, view.end_s, 2 * width)
        bottom, top = self._range(spec, low, high)
        colours = self._colours(spec)
        canvas = self._canvas(spec, height, width, colours)
        owner = np.full((height, width), -1)
        bits = np.zeros((height, width), dtype=np.uint32)
        # What swings about nothing has no ground to stand on.
        single = not spec.colours and spec.least_span is None
        for k in range(len(spec.rows) - 1, -1, -1):
            found = dots(
                low[k], high[k], bottom, top, height, 2 if k in (0, spec.other) or spec.colours else 1
            )
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
        total = self.width
        return [
            Strip([*gutter[row], *canvas.segments(row)]).adjust_cell_length(total, self._style(None))
            for row in range(height)
        ]

    def _canvas(self, spec: StripSpec, height: int, width: int, colours: Sequence[str]) -> Canvas:
        palette = self.palette
        # Where only 256 colours are to be had, a tint would come out as something glaring.
        tint = palette.blend(colours[0], 0.13) if self._many_colours else palette.ground
        window = palette.blend(palette.brass, 0.16)
        cursor = palette.blend(palette.brass, 0.45)
        out = palette.blend(palette.bad, 0.3)
        table: list[Style] = []
        for colour in (palette.text, palette.faint, *colours):
            table += [self._style(colour, ground) for ground in (palette.ground, tint, window, cursor, out)]
        return Canvas(
            np.full((height, width), ord(" "), dtype=np.uint32),
            np.zeros((height, width), dtype=np.intp),
            table,
        )

    def _shade(self, ground: np.ndarray) -> None:
        """The averaging window and the cursor as backgrounds."""
        view = self.view
        if view.window is not None:
            span = max(view.end_s - view.start_s, 1e-9)
            a, b = ((edge - view.start_s) / span * self.plot_width for edge in view.window)
            ground[:, max(0, int(a)) : max(0, int(b) + 1)] = _WINDOW
        for start_s, end_s in view.left_out:
            a, b = self._edge(start_s), self._edge(end_s)
            if b > 0 and a < self.plot_width:
                ground[:, a : max(b, a + 1)] = _OUT
        for moment in (view.anchor_s, view.cursor_s):
            if moment is not None and (column := self._column(moment)) is not None:
                ground[:, column] = _CURSOR

    def _range(self, spec: StripSpec, low: np.ndarray, high: np.ndarray) -> tuple[float, float]:
        finite_low, finite_high = low[np.isfinite(low)], high[np.isfinite(high)]
        if len(finite_low) == 0:
            return 0.0, 1.0
        least, most = float(finite_low.min()), float(finite_high.max())
        levels = [value for value, word in spec.limits if word != "burst" or most > 0.9 * value]
        zero = spec.quantity != "temperature" or bool(spec.colours)
        span = LOOKS[spec.quantity].least_span if spec.least_span is None else spec.least_span
        return nice_range(min([least, *levels]), max([most, *levels]), spec.decimals, zero, span)

    def _limits(
        self,
        canvas: Canvas,
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
            text = f" {word} {round(value, spec.decimals):g} "
            column = self.plot_width - len(text) - 1
            if column > 4 and not drawn[row, column : column + len(text)].any():
                canvas.write(row, column, text, _VARIANTS)

    def _model_curve(
        self,
        canvas: Canvas,
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
        in_band = [values[k] for k in spec.band if np.isfinite(values[k])]
        if in_band and room_for > 0:
            low, high = (self._figure(edge, spec.decimals) for edge in (min(in_band), max(in_band)))
            words = f" {spec.band_word} {low} to {high}"
            lines.append([Segment(words if len(words) <= width else f" {low} to {high}", soft)])
        others = [k for k in others if k not in spec.band]
        for k in others[: max(0, height - len(lines))]:
            figure = self._figure(values[k], spec.decimals)
            name = spec.labels[k][: width - len(figure) - 3]
            colour = colours[k] if spec.colours or k == spec.other else palette.soft
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
        return [self.envelope.value_at(row, index) for row in spec.rows]

    @staticmethod
    def _figure(value: float, decimals: int) -> str:
        return f"{value:.{decimals}f}" if np.isfinite(value) else "–"
