"""The strips themselves: curves as braille over a tint, names and values at their left."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from rich.segment import Segment
from textual.strip import Strip

from samovar.tui.pixels.picture import CLEAR, CellPicture
from samovar.tui.widgets.raster import BRAILLE, CELL_DOTS, columns_of_all
from samovar.tui.widgets.spectrogram import spectrogram_lines, spectrogram_pixels
from samovar.tui.widgets.strip_axis import axis_labels, free_place, last_known, row_of
from samovar.tui.widgets.strip_bands import Bands
from samovar.tui.widgets.strip_curves import Drawn, dashed, filled, line_and_band, round_levels, swings
from samovar.tui.widgets.strip_frame import Canvas, styles_of
from samovar.tui.widgets.strip_gutter import gutter_lines
from samovar.tui.widgets.strip_heights import shared_out
from samovar.tui.widgets.strip_pixels import STRETCH, Ground, strip_pixels
from samovar.tui.widgets.strip_plan import LOOKS, StripSpec, nice_range

_VARIANTS = 6
_PLAIN, _TINT, _WINDOW, _CURSOR, _OUT, _BAND = range(_VARIANTS)
"""Grounds of cells."""
_TEXT, _FAINT, _TINTED, _BANDED, _OWN = range(5)
"""What stands on them: words, faint things, the tint's and the band's edges, then the channels' own colours."""
NEAR_LIMIT = 0.6
"""A limit further from the curve than this share of its own height is out of the way."""
ONLY_NEAR = ("burst",)
"""Of no matter while nothing comes near it."""
GRID_EVERY = 6


class StripPainter(Bands):
    """Draws the whole stack, row by row. With a cell's size in pixels, `cell`, what curves are made of is left out of the lines: it
    is in `pictures`, once they are built."""

    cell: tuple[int, int] | None = None

    def build(self) -> list[Strip]:
        """All lines, for the present size and view."""
        self.pictures: list[CellPicture] = []
        height, width = self.height, self.width
        if width < 40 or height < 6:
            return []
        view = self.view
        if not view.specs or self.envelope is None or len(self.envelope.time_s) == 0:
            return self._empty(width, height)
        ribbon = 0 if view.held is None else max(len(view.held), 2 if height >= 34 else 1)
        phases = bool(view.phases)
        fixed = phases + ribbon + (1 if view.held is not None else 0) + 1
        shown, heights = shared_out(view.specs, height - fixed)
        rows = [self.phase_row()] if phases else []
        # All at once: to ask for each strip's alone takes twice as long.
        asked = [row for spec in shown if not spec.is_picture for row in spec.rows]
        low, high = self.envelope.columns(asked, view.start_s, view.end_s, 2 * self.plot_width)
        first = 0
        for spec, rows_of in zip(shown, heights, strict=True):
            if spec.is_picture:
                rows.extend(self._picture_rows(spec, rows_of, len(rows)))
                continue
            mine = slice(first, first + len(spec.rows))
            first = mine.stop
            rows.extend(self._strip_rows(spec, rows_of, len(rows), low[mine], high[mine]))
        rows.extend(self.ribbon_rows(ribbon))
        if view.held is not None:
            rows.append(self.mark_row())
        rows.append(self.axis_row())
        return rows

    def _empty(self, width: int, height: int) -> list[Strip]:
        blank = Strip.blank(width, self.style(None))
        rows = [blank] * height
        text = self.view.empty[: width - 4]
        middle = Strip([Segment("  " + text, self.style(self.palette.soft))]).adjust_cell_length(
            width, self.style(None)
        )
        rows[min(2, height - 1)] = middle
        return rows

    def _colours(self, spec: StripSpec) -> list[str]:
        if spec.colours:
            return list(spec.colours)
        palette = self.palette
        main = palette.quantity[spec.quantity]
        colours = [main] + [palette.blend(main, 0.55)] * (len(spec.rows) - 1)
        if spec.other is not None:
            colours[spec.other] = palette.brass if spec.quantity == "work" else palette.text
        return colours

    def _strip_rows(
        self, spec: StripSpec, height: int, row: int, low: np.ndarray, high: np.ndarray
    ) -> list[Strip]:
        """One strip's lines; `low` and `high`, shape (m, 2 * columns), are its channels' envelopes, and its own to change."""
        width, rows = self.plot_width, list(spec.rows)
        bottom, top = self._range(spec, low, high)
        colours = self._colours(spec)
        canvas = self._canvas(spec, height, width, colours)
        main = self._curves(rows, low, high, top - bottom, height)
        # What swings about nothing has no ground to stand on.
        single = not spec.colours and spec.least_span is None
        if spec.colours:
            for k in range(1, len(rows)):
                low[k], high[k] = dashed(low[k], high[k], k)
        strong = [k in (0, spec.other) or bool(spec.colours) for k in range(len(rows))]
        found = columns_of_all(low, high, bottom, top, height, np.where(strong, 2, 1))
        bits = CELL_DOTS[np.bitwise_or.reduce(found, axis=0)].astype(np.uint32)
        drawn = bits > 0
        ground = np.full((height, width), _PLAIN)
        foreground = np.full((height, width), _TEXT)
        chars = np.full((height, width), ord(" "), dtype=np.uint32)
        edges = np.zeros((height, width), bool)
        if single:
            edges = self._ground_of(main, bottom, top, height, ground, foreground, chars, drawn)
        self._shade(ground)
        if self.cell is None:
            chars[drawn] = BRAILLE + bits[drawn]
            # Where curves cross, the first of them is seen.
            foreground[drawn] = _OWN + (found > 0).argmax(axis=0)[drawn]
        canvas.chars[:] = chars
        canvas.styles[:] = foreground * _VARIANTS + ground
        taken = drawn | edges
        levels = self._gridlines(canvas, bottom, top, height, taken, ground)
        values = self._values(spec)
        self._limits(canvas, spec, values[:1], (bottom, top), height, drawn, ground)
        self._model_curve(canvas, spec, bottom, top, height, drawn, ground)
        if self.cell is not None:
            tint, band = self._tones(colours[0])
            picture = strip_pixels(
                self.cell, low, high, main if single else None, (bottom, top), np.array(strong), colours,
                Ground(ground, canvas.chars == ord(" "), (_PLAIN, _TINT, _BAND), (self.palette.ground, tint, band)),
            )  # fmt: skip
            self.pictures.append(CellPicture(self.names_width, row, *picture, STRETCH))
        labels = axis_labels(bottom, top, height, levels)
        gutter = gutter_lines(self, spec, values, height, colours, labels)
        # Both parts have their widths: measuring them again, letter by letter, takes a third of the time.
        total = self.names_width + self.plot_width
        plot = canvas.segments()
        return [Strip([*gutter[k], *plot[k]], total) for k in range(height)]

    def _curves(self, rows: list[int], low: np.ndarray, high: np.ndarray, span: float, height: int) -> Drawn:
        """The main channel's line and band; `low` and `high`, shape (m, 2 * columns), become the lines of all of them where
        they swing too fast to be followed."""
        view = self.view
        assert self.envelope is not None
        fast = np.flatnonzero(swings(low, high, span, height)).tolist()
        first = Drawn(low[0].copy(), high[0].copy())
        for k in fast:
            middle = 0.5 * (low[k] + high[k])
            if k == 0:
                mean = self.envelope.means(rows[0], view.start_s, view.end_s, low.shape[1])
                # Where columns are finer than samples, the middle of the joining line is as good as any mean.
                middle = np.where(np.isfinite(mean), mean, middle)
            drawn = line_and_band(low[k], high[k], middle, span, height)
            low[k], high[k] = drawn.low, drawn.high
            if k == 0:
                first = drawn
        return first

    def _ground_of(
        self, curve: Drawn, bottom: float, top: float, height: int, ground: np.ndarray, foreground: np.ndarray,
        chars: np.ndarray, drawn: np.ndarray,
    ) -> np.ndarray:  # fmt: skip
        """The tint under the main curve, which ends where it is, and its band in a lighter tone; where pixels draw their edges,
        cells that are whole alone. The answer is which cells the edges are in."""
        under = filled(np.full_like(curve.high, bottom), curve.high, bottom, top, height)
        ground[under.whole] = _TINT
        has_band = curve.band_low is not None and curve.band_high is not None
        band = filled(curve.band_low, curve.band_high, bottom, top, height) if has_band else None  # type: ignore[arg-type]
        edges: np.ndarray = under.upper != ord(" ")
        if band is not None:
            edges = edges | (band.upper != ord(" ")) | (band.lower != ord(" "))
        if self.cell is not None:
            if band is not None:
                ground[band.whole] = _BAND
            return edges
        edge = under.upper != ord(" ")
        chars[edge], foreground[edge] = under.upper[edge], _TINTED
        # A cell that the line itself is in is tinted where the tint would fill most of it.
        ground[edge & (under.upper >= ord("▅"))] = _TINT
        chars[edge & (under.upper >= ord("▅"))] = ord(" ")
        if band is None:
            return edges
        ground[band.whole], chars[band.whole] = _BAND, ord(" ")
        edge = band.upper != ord(" ")
        chars[edge], foreground[edge], ground[edge] = band.upper[edge], _BANDED, _PLAIN
        edge = band.lower != ord(" ")
        chars[edge], foreground[edge], ground[edge] = band.lower[edge], _TINTED, _BAND
        # A cell that a line is in cannot have an edge, too: what fills most of it fills it.
        ground[drawn & (band.upper >= ord("▄"))] = _BAND
        ground[drawn & (band.lower >= ord("▄"))] = _TINT
        return edges

    def _picture_rows(self, spec: StripSpec, height: int, row: int) -> list[Strip]:
        """A spectrogram, with the frequencies at its side."""
        view = self.view
        assert self.envelope is not None
        _, high = self.envelope.columns(list(spec.rows), view.start_s, view.end_s, self.plot_width)
        cursor = self._column(view.cursor_s) if view.cursor_s is not None else None
        colour = self.palette.quantity["noise"]
        lines = spectrogram_lines(high, height, self.palette, colour, cursor)
        if self.cell is not None:
            wide = self.cell[0] // STRETCH
            _, fine = self.envelope.columns(list(spec.rows), view.start_s, view.end_s, self.plot_width * wide)
            pixels, tones = spectrogram_pixels(fine, height * self.cell[1], self.palette, colour)
            if cursor is not None:
                pixels[:, cursor * wide : (cursor + 1) * wide] = CLEAR
            self.pictures.append(CellPicture(self.names_width, row, pixels, tones, STRETCH))
        top = max(spec.labels, key=float, default="")
        marks = {0: f"{float(top) / 1000.0:.0f}k", height - 1: spec.labels[0]}
        gutter = gutter_lines(self, spec, self._values(spec), height, [colour], marks)
        return [
            Strip([*gutter[k], *lines[k]]).adjust_cell_length(self.width, self.style(None))
            for k in range(height)
        ]

    def _canvas(self, spec: StripSpec, height: int, width: int, colours: Sequence[str]) -> Canvas:
        palette = self.palette
        tint, band = self._tones(colours[0])
        window = palette.blend(palette.brass, 0.16)
        cursor = palette.blend(palette.brass, 0.45)
        out = palette.blend(palette.bad, 0.3)
        grounds = (palette.ground, tint, window, cursor, out, band)
        inks = (palette.text, palette.faint, tint, band, *colours)
        return Canvas(
            np.full((height, width), ord(" "), dtype=np.uint32),
            np.zeros((height, width), dtype=np.intp),
            styles_of(inks, grounds),
            _VARIANTS,
        )

    def _tones(self, colour: str) -> tuple[str, str]:
        """The tint under a curve, and its band."""
        palette = self.palette
        # Where only 256 colours are to be had, a tint would come out as something glaring.
        return (
            palette.blend(colour, 0.13) if self._many_colours else palette.ground,
            palette.blend(colour, 0.36) if self._many_colours else palette.line,
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
        zero = spec.quantity != "temperature" or bool(spec.colours)
        span = LOOKS[spec.quantity].least_span if spec.least_span is None else spec.least_span
        # A limit far out of the way would squeeze the curve: it is told at the edge instead.
        reach = NEAR_LIMIT * max(most - least, span)
        levels = [v for v, _ in spec.limits if least - reach <= v <= most + reach]
        return nice_range(min([least, *levels]), max([most, *levels]), spec.decimals, zero, span)

    def _gridlines(
        self, canvas: Canvas, bottom: float, top: float, height: int, taken: np.ndarray, ground: np.ndarray
    ) -> list[float]:
        """Sparse dots at round values, where nothing else stands; the answer is the values."""
        levels = round_levels(bottom, top, 0 if height < 5 else 1 if height < 8 else 2)
        for value in levels:
            row = row_of(value, bottom, top, height)
            columns = np.arange(GRID_EVERY // 2, self.plot_width, GRID_EVERY)
            columns = columns[~taken[row, columns]]
            canvas.chars[row, columns] = ord("·")
            canvas.styles[row, columns] = _FAINT * _VARIANTS + ground[row, columns]
        return levels

    def _limits(
        self,
        canvas: Canvas,
        spec: StripSpec,
        latest: Sequence[float],
        ends: tuple[float, float],
        height: int,
        drawn: np.ndarray,
        ground: np.ndarray,
    ) -> None:
        """Limits as dashed lines with their word where no curve is; one out of sight as an arrow, with its distance from the `latest`
        value, if there is one."""
        bottom, top = ends
        for value, word in spec.limits:
            beyond = value > top or value < bottom
            if beyond and word in ONLY_NEAR:
                continue
            row = (0 if value > top else height - 1) if beyond else row_of(value, bottom, top, height)
            text = f" {word} {round(value, spec.decimals):g} "
            if beyond:
                away = abs(value - latest[0]) if latest and np.isfinite(latest[0]) else None
                unit = "K" if spec.unit == "°C" else spec.unit
                far = "" if away is None else f", {away:.0f} {unit} away"
                text = f" {'↑' if value > top else '↓'} {word} {round(value, spec.decimals):g}{far} "
            else:
                free = ~drawn[row]
                canvas.chars[row, free] = ord("╌")
                canvas.styles[row, free] = _FAINT * _VARIANTS + ground[row, free]
            # Where a curve runs along it, the word stands beside the line.
            for near in (row, row - 1, row + 1):
                column = free_place(drawn[near], len(text)) if 0 <= near < height else None
                if column is not None:
                    canvas.write(near, column, text, _FAINT * _VARIANTS)
                    drawn[near, column : column + len(text)] = True
                    break

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

    def _values(self, spec: StripSpec) -> list[float]:
        """The channels' values at the cursor, else the newest."""
        assert self.envelope is not None
        time_s, values = self.envelope.time_s, self.envelope.values
        if self.view.cursor_s is None:
            if spec.colours:
                return [last_known(values[row]) for row in spec.rows]
            index = len(time_s) - 1
        else:
            index = int(np.clip(np.searchsorted(time_s, self.view.cursor_s), 0, len(time_s) - 1))
            if index and abs(time_s[index - 1] - self.view.cursor_s) < abs(
                time_s[index] - self.view.cursor_s
            ):
                index -= 1
        return self.envelope.values_at(spec.rows, index)
