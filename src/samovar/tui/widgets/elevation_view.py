"""The side elevation in the terminal: parts as areas two to a cell, dimensions and their words over them."""

from __future__ import annotations

from rich.style import Style
from rich.text import Text

from samovar.core.elevation import Box, Dimension, Elevation
from samovar.figures.palette import Palette
from samovar.tui.pixels.layer import Pictured, pixels_for
from samovar.tui.pixels.picture import CellPicture
from samovar.tui.theme import palette_of
from samovar.tui.widgets.elevation_pixels import elevation_pixels
from samovar.tui.widgets.elevation_scale import FIT_COLOUR, Scale, part_colour, scale_of


class ElevationView(Pictured):
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
        palette, drawing = palette_of(self.app.theme), self._drawing
        self.pictures.show(())
        if drawing is None:
            return Text(
                "Nothing to draw: this kind of product has no height that could be in the way. Press f on a cooler.",
                palette.soft,
            )
        sheet = drawn(drawing, self.size.width, self.size.height, palette)
        pixels = pixels_for(self)
        if pixels is not None:
            picture = elevation_pixels(drawing, sheet.scale, list(sheet.words), pixels.cell, palette)
            self.pictures.show((CellPicture(0, 0, *picture),))
        return sheet.lines(areas=pixels is None)


class _Sheet:
    """Half-cell pixels, and characters over them."""

    def __init__(self, scale: Scale, palette: Palette) -> None:
        self.scale, self.palette = scale, palette
        self.columns, self.rows = scale.columns, scale.rows
        self.pixels: list[list[str | None]] = [[None] * self.columns for _ in range(2 * self.rows)]
        self.lines_drawn: dict[tuple[int, int], tuple[str, str]] = {}
        self.words: dict[tuple[int, int], tuple[str, str]] = {}

    def column(self, x: float) -> int:
        """The column of a place along the board."""
        return max(0, min(self.columns - 1, round(self.scale.across(x))))

    def edge(self, z: float) -> int:
        """The boundary of half rows, counted from the top, that a height falls on."""
        return max(0, min(2 * self.rows, round(2.0 * self.scale.down(z))))

    def row(self, z: float) -> int:
        """The row of cells below that boundary."""
        return min(self.rows - 1, self.edge(z) // 2)

    def fill(self, box: Box) -> None:
        """A part; one of unknown size as a checkered area."""
        colour = part_colour(self.palette, box.part)
        left = self.column(box.x0)
        # Thin parts side by side stay apart: they are never wider than they are.
        wide = int((box.x1 - box.x0) / self.scale.mm) if box.part == "memory" else self.column(box.x1) - left
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

    def write(self, column: int, row: int, words: str, colour: str, is_line: bool = False) -> None:
        """Words from a column on, or characters that make a line."""
        onto = self.lines_drawn if is_line else self.words
        if 0 <= row < self.rows:
            for k, character in enumerate(words):
                if 0 <= column + k < self.columns:
                    onto[row, column + k] = (character, colour)

    def lines(self, areas: bool) -> Text:
        """Everything as text; without the `areas` words alone, on the grounds they stand on."""
        ground = self.palette.ground
        text = Text(no_wrap=True)
        for row in range(self.rows):
            for column in range(self.columns):
                upper, lower = self.pixels[2 * row][column], self.pixels[2 * row + 1][column]
                over = self.words.get((row, column))
                if areas:
                    over = over or self.lines_drawn.get((row, column))
                elif over is None:
                    upper = lower = None
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


def drawn(drawing: Elevation, columns: int, rows: int, palette: Palette) -> _Sheet:
    """The elevation on so many cells, before it becomes lines of text."""
    sheet = _Sheet(scale_of(drawing, columns, rows), palette)
    for box in drawing.boxes:
        sheet.fill(box)
    if drawing.panel_mm is not None:
        _panel(sheet, drawing)
    for box in drawing.boxes:
        _label(sheet, box)
    for dimension in drawing.dimensions:
        _dimension(sheet, dimension)
    return sheet


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
            sheet.write(column, row, "│", colour, is_line=True)
        sheet.write(column, top, "┬" if bottom > top else "╪", colour, is_line=True)
        if bottom > top:
            sheet.write(column, bottom, "┴", colour, is_line=True)
        # Words of a gap of less than a row stand below the panel's line, not on it.
        row = (top + bottom) // 2 if bottom > top + 1 else bottom + 1
        words = d.text
        sheet.write(column - len(words) - 1 if d.at < 0 else column + 2, row, words, colour)
        return
    row = sheet.row(d.at)
    left, right = sorted((sheet.column(d.start), sheet.column(d.end)))
    sheet.write(left, row, "├" + "─" * max(0, right - left - 1) + "┤", colour, is_line=True)
    words = f" {d.text} "
    inside = right - left - 1 >= len(words)
    sheet.write((left + right - len(words)) // 2 + 1 if inside else right + 1, row, words, colour)
