"""The strips themselves: curves as braille over a tint, names and values at their left."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property
from typing import Any

import numpy as np
from rich.segment import Segment
from rich.style import Style
from textual.strip import Strip

from samovar.figures.palette import laid_over
from samovar.tui.pixels.picture import CellPicture
from samovar.tui.widgets import strip_pixels
from samovar.tui.widgets.spectrogram import fine_shades, fine_tones, spectrogram_lines
from samovar.tui.widgets.strip_axis import axis_labels, last_known
from samovar.tui.widgets.strip_bands import Bands
from samovar.tui.widgets.strip_cells import (
    BAND,
    CURSOR,
    OUT,
    PLAIN,
    TINT,
    VARIANTS,
    WINDOW,
    Cells,
)
from samovar.tui.widgets.strip_cursor import column_in, column_under_cursor, stacked
from samovar.tui.widgets.strip_frame import Canvas, styles_of
from samovar.tui.widgets.strip_gutter import gutter_lines
from samovar.tui.widgets.strip_heights import shared_out
from samovar.tui.widgets.strip_pixels import STRETCH, Ground, Ink, heights
from samovar.tui.widgets.strip_plan import StripSpec
from samovar.tui.widgets.strip_plot import Plot
from samovar.tui.widgets.strip_sketch import Sheet, Sketch, sheet_of
from samovar.tui.widgets.strip_tiles import TileStore, shades_of, tiles_of

_UNDER = np.full(VARIANTS, strip_pixels.OTHER, np.uint8)
_UNDER[[PLAIN, TINT, BAND]] = strip_pixels.PLAIN, strip_pixels.TINT, strip_pixels.BAND
"""What pixels make of the grounds of cells."""
CURSOR_SHARE = 0.45
"""Of the accent in the cursor's ground."""


class StripPainter(Bands):
    """Draws the whole stack, row by row. With a `store` of pieces in pixels what curves are made of is left out of the lines: it is in
    `pictures`, once they are built."""

    store: TileStore | None = None
    before: tuple[tuple[Any, ...], Sheet | None] | None = None
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
        tops = [len(rows) + sum(sizes[:k]) for k in range(len(sizes))]
        curved = self._curved(shown, sizes, tops)
        for k, (spec, high) in enumerate(zip(shown, sizes, strict=True)):
            rows.extend(self._picture_rows(spec, high, tops[k]) if spec.is_picture else curved[k])
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

    def _sheet(self, specs: Sequence[StripSpec], rows: Sequence[int]) -> Sheet | None:
        """The strips' curves; what was drawn before, with another cursor, is taken again."""
        view, envelope = self.view, self.envelope
        assert envelope is not None
        mine = specs, rows, (view.start_s, view.end_s), self.plot_width
        name = envelope, len(envelope.time_s), mine
        before = self.before[1] if self.before is not None and self.before[0][0] is envelope else None
        if self.before is None or self.before[0] != name:
            self.before = name, sheet_of(envelope, *mine, before)
        return self.before[1]

    def _curved(
        self, specs: Sequence[StripSpec], sizes: Sequence[int], tops: Sequence[int]
    ) -> dict[int, list[Strip]]:
        """The lines of those strips that have curves, by their number: all their cells are drawn at once, as one tall strip's."""
        curved = [k for k, spec in enumerate(specs) if not spec.is_picture]
        sheet = self._sheet([specs[k] for k in curved], [sizes[k] for k in curved])
        if sheet is None:
            return {}
        cells = Cells.blank(*sheet.lines.bits.shape)
        if self.store is None:
            cells.fill(sheet.areas, sheet.lines)
        else:
            cells.fill_whole(sheet.areas)
        self._shade(cells.ground)
        under = _UNDER[cells.ground] if self.store is not None else None
        cells.ground[:, self._cursors] = CURSOR
        colours = [self._colours(specs[k]) for k in curved]
        tables = [self._styles(tuple(mine)) for mine in colours]
        firsts = list(itertools.accumulate(map(len, tables[:-1]), initial=0))
        first_of_row = np.repeat(firsts, [sizes[k] for k in curved])[:, None]
        styles = cells.inks * VARIANTS + cells.ground + first_of_row
        canvas = Canvas(cells.chars, styles, list(itertools.chain(*tables)), VARIANTS)
        drawn = sheet.lines.bits > 0
        taken = drawn | sheet.areas.edges if sheet.areas is not None else drawn
        words = np.zeros(drawn.shape, bool)
        missing = np.zeros(drawn.shape, bool)
        gutters = []
        for k, sketch, mine, first in zip(curved, sheet.strips, colours, firsts, strict=True):
            here = sketch.rows
            plot = Plot(
                specs[k], sketch.ends, canvas.chars[here], styles[here], first, cells.ground[here],
                drawn[here], taken[here], words[here],
            )  # fmt: skip
            levels = plot.gridlines(self._offset)
            values = self._values(specs[k])
            plot.limits(values[:1])
            if self.view.model is not None and specs[k].over_room:
                time_s, celsius = self.view.model
                plot.model(time_s.tolist(), celsius.tolist(), self._column)
            if under is not None:
                free = (plot.chars == ord(" ")) & ~plot.words
                missing[here] = self._pieces(tops[k], sketch, tuple(mine), under[here], free)
            labels = axis_labels(*sketch.ends, sizes[k], levels)
            gutters += gutter_lines(self, specs[k], values, sizes[k], mine, labels)
        if missing.any():
            self._in_dots(canvas, missing, sheet, first_of_row)
        # Both parts have their widths: measuring them again, letter by letter, takes a third of the time.
        total = self.names_width + self.plot_width
        lines = [Strip([*a, *b], total) for a, b in zip(gutters, canvas.segments(), strict=True)]
        return {k: lines[sketch.rows] for k, sketch in zip(curved, sheet.strips, strict=True)}

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
        ground = Ground(under, free, (self.palette.ground, tint, band))
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

    def _in_dots(self, canvas: Canvas, where: np.ndarray, sheet: Sheet, first_style: np.ndarray) -> None:
        """Curves as dots in cells whose pictures are not drawn yet."""
        cells = Cells.blank(*canvas.chars.shape)
        cells.fill(sheet.areas, sheet.lines)
        self._shade(cells.ground)
        cells.ground[:, self._cursors] = CURSOR
        free = where & (canvas.chars == ord(" "))
        np.copyto(canvas.chars, cells.chars, where=free)
        np.copyto(canvas.styles, cells.inks * VARIANTS + cells.ground + first_style, where=free)

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
            tones, corner = fine_tones(self.palette, colour), (self.names_width, row)
            pieces = shades_of(self.store, self._offset, fine_shades(fine), tones, height, corner)
            self.pictures += pieces
            for column in self._cursors:
                at = column + self.names_width
                if (there := column_in(pieces, at, wide)) is not None:
                    over = tuple(laid_over(tone, self.palette.brass, CURSOR_SHARE) for tone in there[1])
                    self.pictures.append(CellPicture(at, row, there[0], over, STRETCH))
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
        return self.palette.blend(self.palette.brass, CURSOR_SHARE)

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
        return round(self.view.start_s / max(self.column_s, 1e-9))

    @cached_property
    def _cursors(self) -> list[int]:
        """The columns that a cursor is in."""
        moments = self.view.anchor_s, self.view.cursor_s
        found = {self._column(moment) for moment in moments if moment is not None}
        return sorted(column for column in found if column is not None)

    def _values(self, spec: StripSpec) -> list[float]:
        """The channels' values at the cursor, else the newest."""
        assert self.envelope is not None
        time_s, values = self.envelope.time_s, self.envelope.values
        if self.view.cursor_s is None:
            if spec.colours:
                return [last_known(values[row]) for row in spec.rows]
            index = len(time_s) - 1
        else:
            index = self._sample
        return self.envelope.values_at(spec.rows, index)

    @cached_property
    def _sample(self) -> int:
        """The sample nearest to the cursor."""
        assert self.envelope is not None and self.view.cursor_s is not None
        seconds = self.view.cursor_s
        time_s = self.envelope.time_s
        index = min(int(np.searchsorted(time_s, seconds)), len(time_s) - 1)
        nearer_before = index and abs(time_s[index - 1] - seconds) < abs(time_s[index] - seconds)
        return index - 1 if nearer_before else index
