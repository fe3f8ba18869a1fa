"""The rows around the strips: phases above, the held ribbon, the marks and the time axis below."""

from __future__ import annotations

import numpy as np
from textual.strip import Strip

from samovar.bench.course_spec import clock_text
from samovar.core.held.stretches import HeldStretch
from samovar.figures.palette import HELD_COLOUR, HELD_PATTERN
from samovar.tui.widgets.strip_frame import Frame

_TICKS_S = (1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200)


class Bands(Frame):
    """Draws what all strips share."""

    def phase_row(self) -> Strip:
        """Idle, load and cool-down as they lie in time."""
        palette = self.palette
        canvas = self._blank(
            1,
            self.style(palette.line),
            self.style(palette.text, bold=True),
            self.style(palette.brass),
            self.style(palette.soft),
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
        for start_s, end_s in self.view.left_out:
            a, b = self._edge(start_s), self._edge(end_s)
            canvas.chars[0, a : max(b, a + 1)] = ord("╳")
            canvas.styles[0, a : max(b, a + 1)] = 1
        return self._line("phase", canvas)

    def ribbon_rows(self, rows: int) -> list[Strip]:
        """What held each part, a pattern and a word for each cause; of two parts each has a row of its own."""
        ribbons = self.view.held
        if rows == 0 or ribbons is None:
            return []
        if len(ribbons) > 1:
            return [line for name, held in ribbons for line in self._ribbon(name, held, 1)]
        return self._ribbon(*ribbons[0], rows)

    def _ribbon(self, name: str, held: tuple[HeldStretch, ...], rows: int) -> list[Strip]:
        palette, view = self.palette, self.view
        kinds = list(HELD_PATTERN)
        colours = [palette.quantity[HELD_COLOUR[k]] for k in kinds]
        canvas = self._blank(
            rows,
            self.style(palette.faint),
            *(self.style(c) for c in colours),
            *(self.style(palette.ground, c, True) for c in colours),
        )
        for phase in view.phases:
            if phase.name == "load":
                a, b = self._edge(phase.start_s), self._edge(phase.end_s)
                canvas.chars[:, a:b] = ord("·")
        for stretch in held:
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
        names = [name, "", ""]
        return [self._line(names[row], canvas, row, palette.text) for row in range(rows)]

    def mark_row(self) -> Strip:
        """What was noted, at its moment."""
        palette = self.palette
        canvas = self._blank(1, self.style(palette.line), self.style(palette.brass), self.style(palette.text))
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

    def axis_row(self) -> Strip:
        """Minutes and seconds, and the cursor's moment."""
        view, palette = self.view, self.palette
        canvas = self._blank(1, self.style(palette.soft), self.style(palette.brass, bold=True))
        span = view.end_s - view.start_s
        step = next((s for s in _TICKS_S if span / s * 9 <= self.plot_width), _TICKS_S[-1])
        cursor, at = "", self.plot_width
        if view.cursor_s is not None and (column := self._column(view.cursor_s)) is not None:
            cursor = f" {clock_text(abs(view.cursor_s))} "
            at = min(max(0, column - (len(cursor) - 2) // 2), self.plot_width - len(cursor))
        moment = np.ceil(view.start_s / step) * step
        while moment < view.end_s:
            column = self._column(float(moment))
            text = clock_text(moment) if moment >= 0 else f"−{clock_text(-moment)}"
            hidden = column is not None and column < at + len(cursor) and column + len(text) + 1 > at
            if column is not None and column + len(text) + 1 < self.plot_width and not hidden:
                canvas.write(0, column, f"╵{text}", 0)
            moment += step
        if cursor:
            canvas.write(0, at, cursor, 1)
        return self._line("min:s", canvas)
