"""The strips as a widget: curves stacked on one time axis, with phases above, the held ribbon and the marks below.

Drawn by Textual's line API from numpy arrays: every column shows the least and the greatest value in
it, and the part under the main curve is tinted so that it can be read from a chair's distance.
"""

from __future__ import annotations

from textual.events import Click
from textual.message import Message
from textual.strip import Strip

from samovar.core.envelope import Envelope
from samovar.tui.pixels.layer import Pictured, pixels_for
from samovar.tui.pixels.terminal import Pixels
from samovar.tui.theme import palette_of
from samovar.tui.widgets.strip_frame import StripView
from samovar.tui.widgets.strip_painter import StripPainter

__all__ = ["StripStack", "StripView"]


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
        self._cell: tuple[int, int] | None = None

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
        painter.cell = self._cell
        return painter

    @property
    def plot_width(self) -> int:
        """Width of the plots, cells."""
        return self.painter().plot_width

    def draw_with(self, pixels: Pixels | None) -> None:
        """In pixels from now on, where a terminal takes them, else in dots."""
        cell = pixels.cell if pixels is not None else None
        if cell != self._cell:
            self._cell, self._rows = cell, None

    def build(self) -> list[Strip]:
        """All lines, for the present size and view; what pixels draw of it is kept for them."""
        painter = self.painter()
        rows = painter.build()
        self.pictures.show(painter.pictures)
        return rows

    def on_click(self, event: Click) -> None:
        """A click in the plots picks a moment."""
        painter = self.painter()
        x = event.x - painter.names_width
        if 0 <= x < painter.plot_width and self.envelope is not None:
            span = self.view.end_s - self.view.start_s
            self.post_message(self.Picked(self.view.start_s + (x + 0.5) / painter.plot_width * span))

    def render_line(self, y: int) -> Strip:
        """One line of the widget."""
        self.draw_with(pixels_for(self))
        if self._rows is None:
            self._rows = self.build()
        if y < len(self._rows):
            return self._rows[y]
        return Strip.blank(self.size.width, self.rich_style)
