"""The side elevation in the terminal: parts as areas two to a cell, dimensions and their words over them."""

from __future__ import annotations

from rich.style import Style
from rich.text import Text
from textual.widget import Widget

from samovar.core.elevation import Box, Dimension, Elevation
from samovar.figures.palette import Palette
from samovar.tui.theme import palette_of

FIT_COLOUR = {"fits": "good", "touches": "caution", "does not fit": "bad", "not known": "faint", "": "text"}


class ElevationView(Widget):
    """Draws an elevation as large as it can, the same scale both ways."""

    DEFAULT_CSS = "ElevationView { width: 1fr; height: 1fr; }"

    def __init__(self, drawing: Elevation | None = None) -> None:
        super().__init__()
        self._drawing = drawing

    def show(self, drawing: Elevation | None) -> None:
        """Draw this."""
        self._drawing = drawing
        self.refresh()

    def render(self) -> Text:
        """The drawing, or a line where there is none."""
        palette = palette_of(self.app.theme)
        if self._drawing is None:
            return Text(
                "Nothing to draw: this kind of product has no height that could be in the way.", palette.soft
            )
        return draw(self._drawing, self.size.width, self.size.height, palette)


def part_colour(palette: Palette, part: str) -> str:
    """The colour of a part: parts are told apart by place and name first."""
    base = {
        "board": palette.quantity["fan"], "processor": palette.faint, "cooler": palette.quantity["clock"],
        "memory": palette.quantity["noise"], "room": palette.line, "radiator": palette.quantity["clock"],
    }[part]  # fmt: skip
    return palette.blend(base, 0.55 if part != "room" else 1.0)


class _Sheet:
    """Half-cell pixels, and characters over them."""

    def __init__(self, drawing: Elevation, columns: int, rows: int, palette: Palette) -> None:
        self.palette = palette
        self.columns, self.rows = columns, rows
        x0, x1, z0, z1 = drawing.bounds(0.0)
        words = max((len(d.text) for d in drawing.dimensions if d.axis == "z"), default=0) + 2
        # A cell is about twice as high as wide, so half of one is square.
        self.mm = max((x1 - x0) / max(8, columns - 2 * words), (z1 - z0) / max(1, 2 * rows - 2))
        self._x0 = x0 - 0.5 * ((columns - 1) * self.mm - (x1 - x0))
        self._z0 = z0 - 0.5 * ((2 * rows - 2) * self.mm - (z1 - z0))
        self.pixels: list[list[str | None]] = [[None] * columns for _ in range(2 * rows)]
        self.text: dict[tuple[int, int], tuple[str, str]] = {}

    def column(self, x: float) -> int:
        """The column of a place along the board."""
        return max(0, min(self.columns - 1, round((x - self._x0) / self.mm)))

    def edge(self, z: float) -> int:
        """The boundary of half rows, counted from the top, that a height falls on."""
        return max(0, min(2 * self.rows, 2 * self.rows - round((z - self._z0) / self.mm)))

    def row(self, z: float) -> int:
        """The row of cells below that boundary."""
        return min(self.rows - 1, self.edge(z) // 2)

    def fill(self, box: Box) -> None:
        """A part; one of unknown size as a checkered area."""
        colour = part_colour(self.palette, box.part)
        left = self.column(box.x0)
        # Thin parts side by side stay apart: they are never wider than they are.
        wide = int((box.x1 - box.x0) / self.mm) if box.part == "memory" else self.column(box.x1) - left
        top, bottom = self.edge(box.z1), self.edge(box.z0)
        for y in range(min(top, bottom - 1), bottom):
            for x in range(left, min(left + max(1, wide), self.columns)):
                if box.known or (x // 2 + y // 2) % 2 == 0:
                    self.pixels[y][x] = colour

    def line(self, z: float, known: bool, colour: str) -> None:
        """A line across everything, lying on a height."""
        y = max(0, self.edge(z) - 1)
        for x in range(self.columns):
            if known or x % 4 < 2:
                self.pixels[y][x] = colour

    def write(self, column: int, row: int, words: str, colour: str) -> None:
        """Words from a column on."""
        if 0 <= row < self.rows:
            for k, character in enumerate(words):
                if 0 <= column + k < self.columns:
                    self.text[row, column + k] = (character, colour)

    def lines(self) -> Text:
        """Everything as text."""
        ground = self.palette.ground
        text = Text(no_wrap=True)
        for row in range(self.rows):
            for column in range(self.columns):
                upper, lower = self.pixels[2 * row][column], self.pixels[2 * row + 1][column]
                over = self.text.get((row, column))
                if over is not None:
                    character, colour = over
                    text.append(
                        character,
                        Style(color=colour, bgcolor=lower or upper or ground, bold=character.isalnum()),
                    )
                elif upper == lower:
                    text.append(" ", Style(bgcolor=upper or ground))
                else:
                    text.append("▀", Style(color=upper or ground, bgcolor=lower or ground))
            text.append("\n")
        return text


def draw(drawing: Elevation, columns: int, rows: int, palette: Palette) -> Text:
    """The elevation on so many cells."""
    sheet = _Sheet(drawing, columns, rows, palette)
    for box in drawing.boxes:
        sheet.fill(box)
    if drawing.panel_mm is not None:
        _panel(sheet, drawing)
    for box in drawing.boxes:
        _label(sheet, box)
    for dimension in drawing.dimensions:
        _dimension(sheet, dimension)
    return sheet.lines()


def _panel(sheet: _Sheet, drawing: Elevation) -> None:
    panel = drawing.panel_mm or 0.0
    sheet.line(panel, drawing.panel_known, sheet.palette.brass)
    words = "side panel" if drawing.panel_known else "side panel: height not known"
    row = (sheet.edge(panel) - 1) // 2
    sheet.write(sheet.columns - len(words) - 2, row - 1 if row else 1, words, sheet.palette.brass)


def _label(sheet: _Sheet, box: Box) -> None:
    if box.name in ("base", "board", "processor") or box.part == "room":
        return
    left, right = sheet.column(box.x0), sheet.column(box.x1)
    if right - left < len(box.name) + 1:
        return
    row = (sheet.edge(box.z0) + sheet.edge(box.z1)) // 4
    words = box.name if box.known else f"{box.name} ?"
    sheet.write((left + right - len(words)) // 2, row, words, sheet.palette.text)


def _dimension(sheet: _Sheet, d: Dimension) -> None:
    colour = getattr(sheet.palette, FIT_COLOUR[d.state])
    if d.axis == "z":
        column = sheet.column(d.at)
        top = sheet.row(max(d.start, d.end))
        bottom = max(top, (sheet.edge(min(d.start, d.end)) - 1) // 2)
        for row in range(top, bottom + 1):
            sheet.write(column, row, "│", colour)
        sheet.write(column, top, "┬" if bottom > top else "╪", colour)
        if bottom > top:
            sheet.write(column, bottom, "┴", colour)
        # Words of a gap of less than a row stand below the panel's line, not on it.
        row = (top + bottom) // 2 if bottom > top + 1 else bottom + 1
        words = d.text
        sheet.write(column - len(words) - 1 if d.at < 0 else column + 2, row, words, colour)
        return
    row = sheet.row(d.at)
    left, right = sorted((sheet.column(d.start), sheet.column(d.end)))
    sheet.write(left, row, "├" + "─" * max(0, right - left - 1) + "┤", colour)
    words = f" {d.text} "
    inside = right - left - 1 >= len(words)
    sheet.write((left + right - len(words)) // 2 + 1 if inside else right + 1, row, words, colour)
