"""The pictures of a widget: written over its cells, each time these were."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import count
from typing import TYPE_CHECKING, Any
from weakref import WeakKeyDictionary

from textual.app import App
from textual.geometry import Offset, Region
from textual.screen import Screen
from textual.strip import Strip
from textual.widget import Widget

from samovar.tui.pixels.terminal import GRAPHICS, Pixels

if TYPE_CHECKING:
    from samovar.tui.pixels.picture import CellPicture

OVER = "Toast, Tooltip"
"""What comes over a place without being a screen of its own."""
MOST_PICTURES = 2000
_FIRST_NUMBERS = count(1000, MOST_PICTURES)
"""Pictures of the graphics protocol have numbers: each widget has so many of its own."""


HOLD, SHOW = "\x1b[?2026h", "\x1b[?2026l"
"""Synchronised output: a terminal that knows it shows cells and pictures at once, and does not flicker between."""
_PUT_AWAY: WeakKeyDictionary[App[Any], Pixels] = WeakKeyDictionary()
_TAKES: WeakKeyDictionary[App[Any], Pixels] = WeakKeyDictionary()


def draw_in_pixels(app: App[Any], pixels: Pixels | None) -> None:
    """Let a program draw so from now on; None: in dots."""
    if pixels is None:
        _TAKES.pop(app, None)
    else:
        _TAKES[app] = pixels


def put_pixels_away(app: App[Any]) -> None:
    """Draw in dots, though the terminal takes pictures, until it is switched."""
    if app in _TAKES:
        forget_pictures(app)
        _PUT_AWAY[app] = _TAKES.pop(app)


def switch(app: App[Any]) -> bool:
    """Draw in dots where pixels were drawn, and the other way round; whether it is pixels from now on."""
    if app in _TAKES:
        put_pixels_away(app)
    elif app in _PUT_AWAY:
        _TAKES[app] = _PUT_AWAY.pop(app)
    else:
        app.notify(
            "This terminal takes no pictures, as far as it says: curves are drawn in dots.",
            severity="warning",
        )
    draw_anew(app.screen)
    return app in _TAKES


def draw_anew(screen: Screen[Any]) -> None:
    """Let all of a screen's pictures be drawn once more: in pixels or in dots, as it is now."""
    for widget in screen.query(Pictured):
        widget.refresh()


def pixels_for(widget: Widget) -> Pixels | None:
    """What the terminal takes; None where a widget is drawn in dots: it takes none, or something lies over the widget's screen."""
    found = _TAKES.get(widget.app)
    return found if found is not None and widget.app.screen is widget.screen else None


def forget_pictures(app: App[Any]) -> None:
    """Take all pictures off: another screen comes. What sixels drew the next screen's cells cover by themselves."""
    found = _TAKES.get(app)
    if found is not None and found.protocol == GRAPHICS and app._driver is not None:
        from samovar.tui.pixels.graphics_protocol import DELETE_ALL

        app._driver.write(DELETE_ALL)


class PixelLayer:
    """The pictures of one widget.

    Args:
        widget: what they lie over.
    """

    def __init__(self, widget: Widget) -> None:
        self._widget = widget
        self._pictures: Sequence[CellPicture] = ()
        self._comes = False
        self._first = next(_FIRST_NUMBERS)
        self._written: tuple[object, str] | None = None
        self._there = 0

    def show(self, pictures: Sequence[CellPicture]) -> None:
        """These from now on."""
        self._pictures = pictures[:MOST_PICTURES]
        self._written = None

    def drawn(self) -> None:
        """Cells of the widget were drawn anew: the pictures follow, once the screen is."""
        driver = self._widget.app._driver
        if (self._pictures or self._there) and not self._comes and driver is not None:
            self._comes = True
            # Textual's own marks would end the frame before its pictures are there.
            self._widget.app._sync_available = False
            driver.write(HOLD)
            self._widget.call_after_refresh(self._write)

    def _write(self) -> None:
        self._comes = False
        widget = self._widget
        pixels = pixels_for(widget) if widget.is_attached else None
        driver = widget.app._driver
        if driver is None:
            return
        seen = pixels is not None and widget.display and bool(widget.region)
        said = self.written(pixels, widget.region.offset, covered(widget)) if seen and pixels else ""
        driver.write(said + self._without_the_rest(len(self._pictures) if seen else 0, pixels) + SHOW)

    def take_away(self) -> None:
        """The widget is gone: nothing stays behind."""
        driver = self._widget.app._driver
        if self._there and driver is not None:
            driver.write(self._without_the_rest(0, None))

    def _without_the_rest(self, count: int, pixels: Pixels | None) -> str:
        """What takes away the pictures from this one on that were there before. Sixels are gone once their cells are written."""
        from samovar.tui.pixels.graphics_protocol import taken_away

        gone = range(self._first + count, self._first + self._there)
        self._there = count if pixels is not None and pixels.protocol == GRAPHICS else 0
        return "".join(map(taken_away, gone))

    def written(
        self, pixels: Pixels, corner: tuple[int, int], over: Sequence[tuple[int, int, int, int]]
    ) -> str:
        """What goes to the terminal: worked out once for the same pictures in the same place.

        Args:
            pixels: what it takes.
            corner: column and row of the widget on the screen.
            over: what of the widget's cells is covered: column, row, width, height.
        """
        # Imported here: the first places have no pictures, and need no numerics.
        from samovar.tui.pixels.coded import coded, shown
        from samovar.tui.pixels.picture import without_cells

        asked = pixels, tuple(corner), tuple(over)
        if self._written is not None and self._written[0] == asked:
            return self._written[1]
        said = ["\x1b7"]
        for number, one in enumerate(self._pictures):
            picture = without_cells(one, pixels.cell, over)
            pieces = picture.pieces if picture.pieces is not None else coded(picture, pixels)
            for piece in pieces:
                row, column = corner[1] + picture.row + piece.row, corner[0] + picture.column + piece.column
                said.append(f"\x1b[{row + 1};{column + 1}H{shown(piece, pixels, self._first + number)}")
        text = "".join((*said, "\x1b8"))
        self._written = asked, text
        return text


class Pictured(Widget):
    """A widget that can be drawn either way: it gives `pictures` what lies over its cells, and whenever these are drawn, from a store
    or anew, the pictures follow."""

    def __init__(self, **named: Any) -> None:
        super().__init__(**named)
        self.pictures = PixelLayer(self)

    @property
    def content_corner(self) -> Offset:
        """Where what it renders begins, behind its border and padding, in cells from its own corner."""
        return self.content_region.offset - self.region.offset

    def render_lines(self, crop: Region) -> list[Strip]:
        """Its cells, its pictures to come."""
        lines = super().render_lines(crop)
        self.pictures.drawn()
        return lines

    def on_unmount(self) -> None:
        """Its pictures go with it."""
        self.pictures.take_away()


def covered(widget: Widget) -> list[tuple[int, int, int, int]]:
    """The widget's cells that are not seen: other things lie over them, or what it scrolls in has moved them out. Column, row, width,
    height, from its own corner."""
    mine = widget.region
    found = []
    for other in widget.screen.query(OVER):
        part = other.region.intersection(mine) if other.display else None
        if part:
            found.append((part.x - mine.x, part.y - mine.y, part.width, part.height))
    seen = widget.screen.find_widget(widget).visible_region
    above, below = seen.y - mine.y, mine.bottom - seen.bottom
    found += [(0, 0, mine.width, above)] * (above > 0)
    found += [(0, mine.height - below, mine.width, below)] * (below > 0)
    return found
