"""A plan or a temperature picture in the terminal, to scale: two pixels to a cell, with names and degrees over them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
from rich.segment import Segment
from rich.style import Style
from textual.events import Click
from textual.message import Message
from textual.strip import Strip

from samovar.core.recording import Array
from samovar.core.surfaces.picture import resampled
from samovar.core.surfaces.plan import PART, SPOT, Item, Plan, rectangle
from samovar.figures.heat_scale import STEPS, heat_colour, heat_colours, heat_steps, ink_over
from samovar.figures.palette import Palette
from samovar.tui.pixels.layer import Pictured, pixels_for
from samovar.tui.pixels.picture import CLEAR, CellPicture
from samovar.tui.pixels.terminal import Pixels
from samovar.tui.theme import palette_of

MARK, CURSOR = "◆", "╋"
Cell = Callable[[float, float], tuple[int, int]]
"""The column and row of a place, mm."""
SCALE_ROWS = 2
"""The scale and its numbers stand below the drawing."""


@dataclass(frozen=True)
class MapView:
    """What is drawn.

    Attributes:
        plan: what is on the face; None while there is none.
        celsius: the picture over it, shape (rows, columns); None for the plan alone.
        values: degrees at spots and areas, by name, as numbers and in words.
        scale: the least and the greatest value of the scale.
        unit: of the scale: °C, or K for a difference.
        cursor: where it stands, mm; None where none is shown.
        corner: the first corner of an area that is being drawn.
        chosen: the name of what is chosen in the list.
        empty: what stands there while there is no plan.
    """

    plan: Plan | None = None
    celsius: Array | None = None
    values: Mapping[str, tuple[float, str]] = field(default_factory=dict)
    scale: tuple[float, float] = (20.0, 80.0)
    unit: str = "°C"
    cursor: tuple[float, float] | None = None
    corner: tuple[float, float] | None = None
    chosen: str = ""
    empty: str = ""


class SurfaceMap(Pictured):
    """The drawing; a click moves the cursor."""

    DEFAULT_CSS = "SurfaceMap { width: 1fr; height: 1fr; }"

    class Picked(Message):
        """A place was clicked, mm."""

        def __init__(self, x_mm: float, y_mm: float) -> None:
            super().__init__()
            self.x_mm, self.y_mm = x_mm, y_mm

    def __init__(self) -> None:
        super().__init__()
        self.view = MapView()
        self._rows: list[Strip] | None = None
        self._pixels: Pixels | None = None

    def show(self, view: MapView) -> None:
        """Draw this from now on."""
        self.view, self._rows = view, None
        self.refresh()

    def on_resize(self) -> None:
        """The scale follows the size."""
        self._rows = None

    def notify_style_update(self) -> None:
        """Another theme: all colours anew."""
        super().notify_style_update()
        self._rows = None

    @property
    def step_mm(self) -> float:
        """How far a step of the cursor goes: one cell."""
        plan = self.view.plan
        return 1.0 if plan is None else fitted(plan, self.size.width, self.size.height)[0]

    def on_click(self, event: Click) -> None:
        """A click moves the cursor."""
        plan = self.view.plan
        if plan is not None:
            mm, left, top = fitted(plan, self.size.width, self.size.height)
            x, y = (event.x - left + 0.5) * mm, (event.y - top + 0.5) * 2.0 * mm
            if 0.0 <= x <= plan.width_mm and 0.0 <= y <= plan.height_mm:
                self.post_message(self.Picked(x, y))

    def render_line(self, y: int) -> Strip:
        """One line of it."""
        pixels = pixels_for(self)
        if self._rows is None or pixels != self._pixels:
            self._pixels = pixels
            cell = pixels.cell if pixels is not None else None
            drawn = map_lines(self.view, self.size.width, self.size.height, palette_of(self.app.theme), cell)
            self._rows, picture = drawn
            self.pictures.show((picture,) if picture is not None else ())
        return self._rows[y] if y < len(self._rows) else Strip.blank(self.size.width, self.rich_style)


def fitted(plan: Plan, columns: int, rows: int) -> tuple[float, int, int]:
    """Millimetres to a column, and the column and row at which the face begins: as large as it goes, the same scale both ways
    (a cell is about twice as high as wide)."""
    high = max(1, rows - SCALE_ROWS - 1)
    mm = max(plan.width_mm / max(1, columns), plan.height_mm / (2.0 * high))
    return mm, (columns - round(plan.width_mm / mm)) // 2, 0


class _Sheet:
    """Colours two to a cell, and characters over them."""

    def __init__(self, columns: int, rows: int, palette: Palette) -> None:
        self.palette, self.columns, self.rows = palette, columns, rows
        self.table = [palette.ground, *("#" + "".join(f"{p:02x}" for p in c) for c in heat_colours())]
        self._own: dict[str, int] = {}
        self.pixels = np.zeros((2 * rows, columns), np.intp)
        self.over: dict[tuple[int, int], tuple[str, str, bool]] = {}
        self.words: set[tuple[int, int]] = set()

    def colour(self, hexadecimal: str) -> int:
        """The number of a colour."""
        if hexadecimal not in self._own:
            self._own[hexadecimal] = len(self.table)
            self.table.append(hexadecimal)
        return self._own[hexadecimal]

    def is_free(self, column: int, row: int, length: int) -> bool:
        """Whether so many cells hold no words yet, and stand on the sheet; a frame may be covered."""
        return (
            0 <= row < self.rows
            and column >= 0
            and column + length <= self.columns
            and all((row, column + k) not in self.words for k in range(length))
        )

    def draw(self, column: int, row: int, characters: str, colour: str) -> None:
        """Characters of a line from a column on, where no words stand."""
        for k, character in enumerate(characters):
            if self.is_free(column + k, row, 1):
                self.over[row, column + k] = (character, colour, False)

    def write(self, column: int, row: int, words: str, colour: str, bold: bool = False) -> None:
        """Words from a column on."""
        for k, character in enumerate(words):
            if 0 <= row < self.rows and 0 <= column + k < self.columns:
                self.over[row, column + k] = (character, colour, bold)
                self.words.add((row, column + k))

    def strips(self, plated: dict[tuple[int, int], str]) -> list[Strip]:
        """The lines; characters at the cells of `plated` stand on a ground of their own, so that they can be read."""
        lines = []
        for row in range(self.rows):
            upper, lower = self.pixels[2 * row], self.pixels[2 * row + 1]
            cells: list[tuple[str, Style]] = []
            for column in range(self.columns):
                over = self.over.get((row, column))
                above, below = self.table[upper[column]], self.table[lower[column]]
                if over is not None:
                    ground = plated.get((row, column), below)
                    cells.append((over[0], _style(over[1] or ink_over(ground), ground, over[2])))
                elif above == below:
                    cells.append((" ", _style(None, above, False)))
                else:
                    cells.append(("▀", _style(above, below, False)))
            lines.append(Strip(_joined(cells), self.columns))
        return lines


@lru_cache(maxsize=4096)
def _style(colour: str | None, ground: str, bold: bool) -> Style:
    return Style(color=colour, bgcolor=ground, bold=bold or None)


def _joined(cells: list[tuple[str, Style]]) -> list[Segment]:
    found: list[Segment] = []
    words, style = "", None
    for character, one in cells:
        if style is not None and one != style:
            found.append(Segment(words, style))
            words = ""
        words, style = words + character, one
    return [*found, Segment(words, style)] if words else found


def map_lines(
    view: MapView, columns: int, rows: int, palette: Palette, cell_px: tuple[int, int] | None = None
) -> tuple[list[Strip], CellPicture | None]:
    """All lines of the drawing; where a cell's size in pixels is given, the picture over what no words stand in besides."""
    plan = view.plan
    if plan is None or columns < 12 or rows < 6:
        blank = Strip.blank(columns, Style(bgcolor=palette.ground))
        words = Segment(f"  {view.empty}"[:columns], Style(color=palette.soft, bgcolor=palette.ground))
        return [
            blank,
            Strip([words]).adjust_cell_length(columns, Style(bgcolor=palette.ground)),
            *[blank] * (rows - 2),
        ], None
    mm, left, top = fitted(plan, columns, rows)
    sheet, plated = _Sheet(columns, rows, palette), dict[tuple[int, int], str]()
    wide, high = max(1, round(plan.width_mm / mm)), max(2, round(plan.height_mm / mm))
    low, most = view.scale
    if view.celsius is not None:
        steps = heat_steps(resampled(view.celsius, high, wide), low, most) + 1
        face = np.where(steps > 0, steps, sheet.colour(palette.line))
    else:
        face = np.full((high, wide), sheet.colour(palette.raised))
    end = min(2 * rows, 2 * top + high)
    sheet.pixels[2 * top : end, left : left + wide] = face[: end - 2 * top, : columns - left]

    def cell(x_mm: float, y_mm: float) -> tuple[int, int]:
        return (
            min(left + wide - 1, left + int(x_mm / mm)),
            min(top + (high - 1) // 2, top + int(y_mm / (2.0 * mm))),
        )

    for item in plan.items:
        if item.kind == PART:
            _part(sheet, item, mm, left, top, view.celsius is None, plated)
    # Words keep clear of the cursor.
    if view.cursor is not None:
        column, row = cell(*view.cursor)
        sheet.write(column, row, CURSOR, palette.brass, True)
        plated[row, column] = palette.ground
    # Spots have fewer places for their words than areas have.
    for item in sorted(plan.measured, key=lambda i: i.kind != SPOT):
        _measured(sheet, item, view, cell, plated)
    if view.corner is not None and view.cursor is not None:
        x, y, width, height = rectangle(view.corner, view.cursor)
        _frame(
            sheet,
            cell(x, y),
            cell(x + width, y + height),
            palette.brass if view.celsius is None else "",
            True,
        )
    _scale(sheet, view, top + (high + 1) // 2)
    picture = None
    if cell_px is not None and view.celsius is not None:
        fine = resampled(view.celsius, round(plan.height_mm / mm * cell_px[1] / 2.0), wide * cell_px[0])
        picture = _fine_face(fine, view.scale, sheet, (left, top), cell_px)
    return sheet.strips(plated), picture


def _fine_face(
    celsius: Array,
    scale: tuple[float, float],
    sheet: _Sheet,
    corner: tuple[int, int],
    cell_px: tuple[int, int],
) -> CellPicture:
    """The face in the terminal's own pixels, but where characters stand."""
    left, top = corner
    pixels = (heat_steps(celsius, *scale) + 1).astype(np.uint8)
    for row, column in sheet.over:
        y, x = (row - top) * cell_px[1], (column - left) * cell_px[0]
        if x >= 0 and y >= 0:
            pixels[y : y + cell_px[1], x : x + cell_px[0]] = CLEAR
    return CellPicture(left, top, pixels, tuple(sheet.table[1 : STEPS + 1]))


def _part(
    sheet: _Sheet,
    item: Item,
    mm: float,
    left: int,
    top: int,
    filled: bool,
    plated: dict[tuple[int, int], str],
) -> None:
    """A part for orientation: on a plan an area of its own tone, on a picture its name alone."""
    palette = sheet.palette
    x0, x1 = left + round(item.x_mm / mm), left + max(1, round((item.x_mm + item.width_mm) / mm))
    y0, y1 = 2 * top + round(item.y_mm / mm), 2 * top + max(1, round((item.y_mm + item.height_mm) / mm))
    if filled:
        sheet.pixels[y0 : max(y0 + 1, y1), x0 : max(x0 + 1, x1)] = sheet.colour(palette.line)
    row, column = (y0 + y1) // 4, (x0 + x1 - len(item.name)) // 2
    if len(item.name) <= x1 - x0 and sheet.is_free(column, row, len(item.name)):
        sheet.write(column, row, item.name, palette.soft)
        if not filled:
            plated.update({(row, column + k): palette.ground for k in range(len(item.name))})


def _frame(
    sheet: _Sheet, first: tuple[int, int], last: tuple[int, int], colour: str, heavy: bool = False
) -> None:
    """A frame; without a colour in what can be seen on the picture. The chosen one's is heavy."""
    across, down, *corners = list("━┃┏┓┗┛" if heavy else "─│┌┐└┘")
    (x0, y0), (x1, y1) = first, last
    for x in range(x0 + 1, x1):
        for y in (y0, y1):
            sheet.draw(x, y, across, colour)
    for y in range(y0 + 1, y1):
        for x in (x0, x1):
            sheet.draw(x, y, down, colour)
    for corner, x, y in zip(corners, (x0, x1, x0, x1), (y0, y0, y1, y1), strict=True):
        sheet.draw(x, y, corner, colour)


def _measured(
    sheet: _Sheet, item: Item, view: MapView, cell: Cell, plated: dict[tuple[int, int], str]
) -> None:
    palette = sheet.palette
    value = view.values.get(item.name)
    chosen = item.name == view.chosen
    colour = palette.brass if chosen else palette.text
    words = f" {item.name}{' ' + value[1] if value is not None else ''} "
    column, row = cell(*item.middle)
    if item.kind == SPOT:
        sheet.write(column, row, MARK, colour, True)
        plated[row, column] = palette.ground
        tries = [(column + 1, row), (column - len(words), row), (column - len(words) // 2, row - 1)]
    else:
        first = cell(item.x_mm, item.y_mm)
        last = cell(item.x_mm + item.width_mm, item.y_mm + item.height_mm)
        _frame(sheet, first, last, "" if view.celsius is not None else colour, chosen)
        middle = (first[0] + last[0] - len(words)) // 2 + 1
        inside = last[0] - first[0] - 1 >= len(words)
        tries = [(first[0] + 1, first[1])] if inside else [(middle, first[1] - 1)]
        tries += [(middle, last[1] + 1), (middle, (first[1] + last[1]) // 2)]
    for x, y in (*tries, (column + 1, row + 1), (column - len(words), row + 1)):
        if not sheet.is_free(x, y, len(words)):
            continue
        # On a plan the words' ground carries the degrees, as the picture does elsewhere.
        warm = value is not None and view.celsius is None
        ground = heat_colour(value[0], *view.scale) if warm and value is not None else palette.ground
        sheet.write(x, y, words, "" if warm else colour, chosen)
        plated.update({(y, x + k): ground for k in range(len(words))})
        return


def _scale(sheet: _Sheet, view: MapView, row: int) -> None:
    """The scale with its ends and middle in numbers."""
    low, most = view.scale
    width = min(sheet.columns - 4, 48)
    left, row = (sheet.columns - width) // 2, min(row + 1, sheet.rows - SCALE_ROWS)
    if view.celsius is None and not view.values:
        return
    steps = heat_steps(np.linspace(low, most, width), low, most) + 1
    sheet.pixels[2 * row : 2 * row + 2, left : left + width] = steps
    for share in (0.0, 0.5, 1.0):
        words = f"{low + share * (most - low):.0f}".replace("-", "−") + (
            f" {view.unit}" if share == 1.0 else ""
        )
        at = left + round(share * (width - 1)) - (len(words) // 2 if share else 0)
        sheet.write(min(at, sheet.columns - len(words)), row + 1, words, sheet.palette.soft)
