"""The strips as a widget: curves stacked on one time axis, with phases above, the held ribbon and the marks below.

Drawn by Textual's line API from numpy arrays: every column shows the least and the greatest value in
it, and the part under the main curve is tinted so that it can be read from a chair's distance.
"""

from __future__ import annotations

import math
from typing import Any

from textual.events import Click
from textual.message import Message
from textual.strip import Strip

from samovar.core.envelope import Envelope
from samovar.tui.pixels.layer import Pictured, pixels_for
from samovar.tui.pixels.terminal import Pixels
from samovar.tui.theme import palette_of
from samovar.tui.widgets.strip_frame import EDGE, StripView
from samovar.tui.widgets.strip_painter import StripPainter
from samovar.tui.widgets.strip_sketch import Sheet
from samovar.tui.widgets.strip_tiles import AT_ONCE, EVERYTHING, TileStore

__all__ = ["StripStack", "StripView"]


REST_S = 0.002
"""Between two slices of drawing: for keys, and for what else comes."""


class StripStack(Pictured):
    """Strips on one time axis. Feed it with `show`; it redraws when its view or its samples change."""

    class Picked(Message):
        """A moment was clicked, seconds on the run's time."""

        def __init__(self, seconds: float) -> None:
            super().__init__()
            self.seconds = seconds

    def __init__(self, **named: object) -> None:
        super().__init__(**named)
        self.view = StripView()
        self.envelope: Envelope | None = None
        self._count = 0
        self._rows: list[Strip] | None = None
        self._rest_comes = False
        self._asked = False
        self._window = 0.0, 0.0, 0
        self._before: tuple[tuple[Any, ...], Sheet | None] | None = None
        self._pixels: Pixels | None = None
        self._kept: TileStore | None = None

    def show(self, view: StripView, envelope: Envelope | None) -> None:
        """Show this from now on; what is shown already is not drawn again."""
        count = 0 if envelope is None else len(envelope.time_s)
        if envelope is self.envelope and count == self._count and view.shows_the_same(self.view):
            return
        self.view, self.envelope, self._count = view, envelope, count
        self._rows = None
        self.refresh()

    def on_resize(self) -> None:
        """The layout follows the size."""
        self._rows = None

    def notify_style_update(self) -> None:
        """Another theme: all colours anew."""
        super().notify_style_update()
        self._rows = None

    def painter(self) -> StripPainter:
        """What draws the present view at the present size."""
        many = self.app.console.color_system in ("truecolor", None)
        size = (self.size.width, self.size.height)
        painter = StripPainter(self.view, self.envelope, palette_of(self.app.theme), size, many)
        painter.store, painter.before = self._store, self._before
        return painter

    @property
    def plot_width(self) -> int:
        """Width of the plots, cells."""
        return self.painter().plot_width

    def draw_with(self, pixels: Pixels | None) -> None:
        """In pixels from now on, where a terminal takes them, else in dots."""
        if pixels == self._pixels:
            return
        self._pixels, self._rows = pixels, None
        # Under a sheet there are dots for a while: what is drawn already is kept for afterwards.
        if pixels is not None and (self._kept is None or self._kept.pixels != pixels):
            self._kept = TileStore(pixels)

    @property
    def _store(self) -> TileStore | None:
        """The pieces in pixels, while they are drawn so."""
        return self._kept if self._pixels is not None else None

    def build(self) -> list[Strip]:
        """All lines, for the present size and view; what pixels draw of it is kept for them."""
        painter, store = self.painter(), self._store
        view, count = painter.view, 0 if self.envelope is None else len(self.envelope.time_s)
        now = painter.column_s, view.start_s, count
        column_s, start_s, samples = self._window
        if store is not None:
            # New samples come now and then, and want no dots first. Where hands have moved the window, its new part has them.
            store.begin(EVERYTHING if samples != count else AT_ONCE if start_s == view.start_s else 0)
            if not math.isclose(column_s, now[0], rel_tol=EDGE):
                # Nothing that is kept fits another scale of time.
                painter.store = None
        self._window = now
        rows = painter.build()
        self._before = painter.before
        self.pictures.show(painter.pictures)
        self._asked = painter.store is not None
        if self.unfinished:
            self._draw_the_rest()
        return rows

    @property
    def unfinished(self) -> bool:
        """Whether dots stand where pixels are to come."""
        store = self._store
        return store is not None and (store.waits or not self._asked)

    def _draw_the_rest(self) -> None:
        if not self._rest_comes:
            self._rest_comes = True
            self.set_timer(REST_S, self.draw_the_rest)

    def draw_the_rest(self) -> None:
        """A slice of what a redraw had no time for, so that keys have their turn; once all is there the picture is drawn with it."""
        self._rest_comes = False
        store = self._store
        if store is None:
            return
        if not self._asked:
            store.begin(0)
            self.painter().build()
            self._asked = True
        else:
            store.go_on()
        if store.waits:
            self._draw_the_rest()
        else:
            self._rows = None
            self.refresh()

    def on_click(self, event: Click) -> None:
        """A click in the plots picks a moment."""
        painter = self.painter()
        x = event.x - painter.names_width
        if 0 <= x < painter.plot_width and self.envelope is not None:
            self.post_message(self.Picked(painter.view.start_s + (x + 0.5) * painter.column_s))

    def render_line(self, y: int) -> Strip:
        """One line of the widget."""
        self.draw_with(pixels_for(self))
        if self._rows is None:
            self._rows = self.build()
        if y < len(self._rows):
            return self._rows[y]
        return Strip.blank(self.size.width, self.rich_style)
