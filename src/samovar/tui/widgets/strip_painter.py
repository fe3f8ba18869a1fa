"""The strips themselves: curves as braille over a tint, names and values at their left."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property

import numpy as np
from rich.segment import Segment
from rich.style import Style
from textual.strip import Strip

from samovar.tui.pixels.picture import CLEAR, CellPicture
from samovar.tui.widgets import strip_pixels
from samovar.tui.widgets.spectrogram import spectrogram_lines, spectrogram_pixels
from samovar.tui.widgets.strip_axis import axis_labels, free_place, last_known, row_of
from samovar.tui.widgets.strip_bands import Bands
from samovar.tui.widgets.strip_cells import (
    BAND,
    CURSOR,
    FAINT,
    OUT,
    PLAIN,
    TEXT,
    TINT,
    VARIANTS,
    WINDOW,
    Areas,
    Cells,
    Dotted,
)
from samovar.tui.widgets.strip_curves import round_levels
from samovar.tui.widgets.strip_frame import Canvas, styles_of
from samovar.tui.widgets.strip_gutter import gutter_lines
from samovar.tui.widgets.strip_heights import shared_out
from samovar.tui.widgets.strip_pixels import STRETCH, Ground, Ink, heights
from samovar.tui.widgets.strip_plan import StripSpec
from samovar.tui.widgets.strip_sketch import Sketch, sketches_of
from samovar.tui.widgets.strip_tiles import TileStore, column_under_cursor, stacked, tiles_of

_UNDER = np.full(VARIANTS, strip_pixels.OTHER, np.uint8)
_UNDER[[PLAIN, TINT, BAND]] = strip_pixels.PLAIN, strip_pixels.TINT, strip_pixels.BAND
"""What pixels make of the grounds of cells."""
ONLY_NEAR = ("burst",)
"""Of no matter while nothing comes near it."""
GRID_EVERY = 6


class StripPainter(Bands):
    """Draws the whole stack, row by row. With a `store` of pieces in pixels what curves are made of is left out of the lines: it is in
    `pictures`, once they are built."""

    store: TileStore | None = None
    before: tuple[object, list[Sketch]] | None = None
    """What the last picture was drawn from."""

    def build(self) -> list[Strip]:
        """All lines, for the present size and view."""
        self.pictures: list[CellPicture] = []
        self.under_cursors: dict[int, list[tuple[int, tuple[np.ndarray, tuple[str, ...]]]]] = {}
        height, width = self.height, self.width
        if width < 40 or height < 6:
            return []
        view = self.view
        if not view.specs or self.envelope is None or len(self.envelope.time_s) == 0:
            return self._empty(width, height)
        ribbon = 0 if view.held is None else max(len(view.held), 2 if height >= 34 else 1)
        phases = bool(view.phases)
        fixed = phases + ribbon + (1 if view.held is not None else 0) + 1
        shown, sizes = shared_out(view.specs, height - fixed)
        rows = [self.phase_row()] if phases else []
        sketches = self.sketches(shown, sizes)
        for k, (spec, height) in enumerate(zip(shown, sizes, strict=True)):
            if spec.is_picture:
                rows.extend(self._picture_rows(spec, height, len(rows)))
            else:
                rows.extend(self._strip_rows(spec, height, len(rows), sketches[k]))
        for column, parts in self.under_cursors.items():
            cursor = stacked(parts, self._cursor_tone(), self.store.pixels.cell) if self.store else None
            if cursor is not None:
                self.pictures.append(replace(cursor, column=column))
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

    def sketches(self, specs: Sequence[StripSpec], rows: Sequence[int]) -> dict[int, Sketch]:
        """The sketches of those strips that have curves, by their number; what was drawn before, with another cursor, is taken again."""
        view, envelope = self.view, self.envelope
        assert envelope is not None
        curved = [k for k, spec in enumerate(specs) if not spec.is_picture]
        mine = (
            [specs[k] for k in curved],
            [rows[k] for k in curved],
            (view.start_s, view.end_s),
            self.plot_width,
        )
        name = envelope, len(envelope.time_s), mine
        if self.before is None or self.before[0] != name:
            self.before = name, sketches_of(envelope, *mine)
        return dict(zip(curved, self.before[1], strict=True))

    def _strip_rows(self, spec: StripSpec, height: int, row: int, sketch: Sketch) -> list[Strip]:
        """One strip's lines."""
        width = self.plot_width
        bottom, top = ends = sketch.ends
        colours = self._colours(spec)
        lines = sketch.lines
        areas = None
        if (main := sketch.main) is not None:
            areas = sketch.once("areas", lambda: Areas.of(main, ends, height))
        cells = Cells.blank(height, width)
        if self.store is None:
            cells.fill(areas, lines)
        elif areas is not None:
            cells.ground[areas.under.whole] = TINT
            if areas.band is not None:
                cells.ground[areas.band.whole] = BAND
        self._shade(cells.ground)
        under = cells.ground.copy()
        cells.ground[:, self._cursors] = CURSOR
        canvas = Canvas(
            cells.chars, cells.inks * VARIANTS + cells.ground, self._styles(tuple(colours)), VARIANTS
        )
        drawn = lines.bits > 0
        taken = drawn | areas.edges if areas is not None else drawn
        levels = self._gridlines(canvas, bottom, top, height, taken, cells.ground)
        values = self._values(spec)
        words = self._limits(
            canvas, spec, values[:1], ends, drawn, taken | (cells.ground == BAND), cells.ground
        )
        self._model_curve(canvas, spec, bottom, top, height, drawn | words, cells.ground)
        if self.store is not None:
            free = (canvas.chars == ord(" ")) & ~words
            missing = self._pieces(row, sketch, tuple(colours), under, free)
            if missing.any():
                self._in_dots(canvas, missing, areas, lines)
        labels = axis_labels(bottom, top, height, levels)
        gutter = gutter_lines(self, spec, values, height, colours, labels)
        # Both parts have their widths: measuring them again, letter by letter, takes a third of the time.
        total = self.names_width + self.plot_width
        plot = canvas.segments()
        return [Strip([*gutter[k], *plot[k]], total) for k in range(height)]

    def _pieces(
        self,
        row: int,
        sketch: Sketch,
        colours: tuple[str, ...],
        under: np.ndarray,
        free: np.ndarray,
    ) -> np.ndarray:
        """A strip's curves as pictures from this row on; the answer is in which columns they have to wait, shape (columns,)."""
        assert self.store is not None
        store, cell = self.store, self.store.pixels.cell
        tint, band = self._tones(colours[0])
        ground = Ground(_UNDER[under], free, (self.palette.ground, tint, band))
        ink = Ink(colours, sketch.strong)
        height = len(under) * cell[1]
        curves = sketch.once(
            ("heights", height), lambda: heights(sketch.low, sketch.high, sketch.main, sketch.ends, height)
        )
        corner = self.names_width, row
        name = ink, ground.colours, ground.cells.tobytes(), ground.free.tobytes(), corner
        found, missing = sketch.drawn.get(name) or tiles_of(store, self._offset, curves, ink, ground, corner)
        if not missing.any():
            sketch.drawn[name] = found, missing
        for column in self._cursors:
            at = column + self.names_width
            lies = column_under_cursor(found, at, ground.free[:, column], cell, ink, ground.colours)
            if lies is not None:
                self.under_cursors.setdefault(at, []).append((row, lies))
        self.pictures += found
        return missing

    def _in_dots(self, canvas: Canvas, where: np.ndarray, areas: Areas | None, lines: Dotted) -> None:
        """Curves as dots in columns whose pictures are not drawn yet."""
        cells = Cells.blank(*canvas.chars.shape)
        cells.fill(areas, lines)
        self._shade(cells.ground)
        cells.ground[:, self._cursors] = CURSOR
        free = where & (canvas.chars == ord(" "))
        np.copyto(canvas.chars, cells.chars, where=free)
        np.copyto(canvas.styles, cells.inks * VARIANTS + cells.ground, where=free)

    def _picture_rows(self, spec: StripSpec, height: int, row: int) -> list[Strip]:
        """A spectrogram, with the frequencies at its side."""
        view = self.view
        assert self.envelope is not None
        _, high = self.envelope.columns(list(spec.rows), view.start_s, view.end_s, self.plot_width)
        cursor = self._column(view.cursor_s) if view.cursor_s is not None else None
        colour = self.palette.quantity["noise"]
        lines = spectrogram_lines(high, height, self.palette, colour, cursor)
        if self.store is not None:
            wide = self.store.pixels.cell_width // STRETCH
            _, fine = self.envelope.columns(list(spec.rows), view.start_s, view.end_s, self.plot_width * wide)
            pixels, tones = spectrogram_pixels(
                fine, height * self.store.pixels.cell_height, self.palette, colour
            )
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

    def _styles(self, colours: tuple[str, ...]) -> Sequence[Style]:
        palette = self.palette
        tint, band = self._tones(colours[0])
        window = palette.blend(palette.brass, 0.16)
        out = palette.blend(palette.bad, 0.3)
        grounds = (palette.ground, tint, window, self._cursor_tone(), out, band)
        return styles_of((palette.text, palette.faint, tint, band, *colours), grounds)

    def _cursor_tone(self) -> str:
        return self.palette.blend(self.palette.brass, 0.45)

    def _tones(self, colour: str) -> tuple[str, str]:
        """The tint under a curve, and its band."""
        palette = self.palette
        # Where only 256 colours are to be had, a tint would come out as something glaring.
        return (
            palette.blend(colour, 0.13) if self._many_colours else palette.ground,
            palette.blend(colour, 0.36) if self._many_colours else palette.line,
        )

    def _shade(self, ground: np.ndarray) -> None:
        """The averaging window and what is left out as backgrounds."""
        view = self.view
        if view.window is not None:
            span = max(view.end_s - view.start_s, 1e-9)
            a, b = ((edge - view.start_s) / span * self.plot_width for edge in view.window)
            ground[:, max(0, int(a)) : max(0, int(b) + 1)] = WINDOW
        for start_s, end_s in view.left_out:
            a, b = self._edge(start_s), self._edge(end_s)
            if b > 0 and a < self.plot_width:
                ground[:, a : max(b, a + 1)] = OUT

    @cached_property
    def _offset(self) -> int:
        """How many columns lie between the axis' beginning and the window's."""
        column_s = (self.view.end_s - self.view.start_s) / self.plot_width
        return round(self.view.start_s / max(column_s, 1e-9))

    @cached_property
    def _cursors(self) -> list[int]:
        """The columns that a cursor is in."""
        moments = self.view.anchor_s, self.view.cursor_s
        found = {self._column(moment) for moment in moments if moment is not None}
        return sorted(column for column in found if column is not None)

    def _gridlines(
        self, canvas: Canvas, bottom: float, top: float, height: int, taken: np.ndarray, ground: np.ndarray
    ) -> list[float]:
        """Sparse dots at round values, where nothing else stands; the answer is the values."""
        levels = round_levels(bottom, top, 0 if height < 5 else 1 if height < 8 else 2)
        for value in levels:
            row = row_of(value, bottom, top, height)
            # They belong to the time axis, and move with it.
            columns = np.arange((GRID_EVERY // 2 - self._offset) % GRID_EVERY, self.plot_width, GRID_EVERY)
            columns = columns[~taken[row, columns]]
            canvas.chars[row, columns] = ord("·")
            canvas.styles[row, columns] = FAINT * VARIANTS + ground[row, columns]
        return levels

    def _limits(
        self,
        canvas: Canvas,
        spec: StripSpec,
        latest: Sequence[float],
        ends: tuple[float, float],
        drawn: np.ndarray,
        busy: np.ndarray,
        ground: np.ndarray,
    ) -> np.ndarray:
        """Limits as dashed lines with their word where no curve is, and if there is such a place no band; one out of sight as an arrow,
        with its distance from the `latest` value, if there is one. The answer is where words stand, with the blanks in them, shape
        (height, columns)."""
        bottom, top = ends
        height = len(drawn)
        words = np.zeros(drawn.shape, bool)
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
                free = ~(drawn | words)[row]
                canvas.chars[row, free] = ord("╌")
                canvas.styles[row, free] = FAINT * VARIANTS + ground[row, free]
            # Where a curve runs along it, the word stands beside the line.
            rows = [near for near in (row, row - 1, row + 1) if 0 <= near < height]
            for near, taken in ((near, taken) for taken in (busy, drawn) for near in rows):
                column = free_place((taken | words)[near], len(text))
                if column is not None:
                    there = near, slice(column, column + len(text))
                    canvas.write(near, column, text, TEXT)
                    ink = TEXT if (ground[there] == BAND).any() else FAINT
                    canvas.styles[there] = ink * VARIANTS + ground[there]
                    words[there] = True
                    break
        return words

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
            index = self._sample_at(self.view.cursor_s)
        return self.envelope.values_at(spec.rows, index)

    def _sample_at(self, seconds: float) -> int:
        """The sample nearest to a moment."""
        assert self.envelope is not None
        time_s = self.envelope.time_s
        index = min(int(np.searchsorted(time_s, seconds)), len(time_s) - 1)
        nearer_before = index and abs(time_s[index - 1] - seconds) < abs(time_s[index] - seconds)
        return index - 1 if nearer_before else index
