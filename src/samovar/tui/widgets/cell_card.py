"""One cell of the Grid: rise, judgement, the die's course in miniature, passes done, noise."""

from __future__ import annotations

import itertools
import math

import numpy as np
from rich.text import Text
from textual.events import Click
from textual.message import Message
from textual.widget import Widget

from samovar.archive.review_data import Cell
from samovar.core.compare import joined
from samovar.figures.palette import JUDGEMENT_MARK, Palette
from samovar.tui.theme import palette_of
from samovar.tui.widgets.raster import BRAILLE, below, dots

LOWEST_C, HIGHEST_C = 20.0, 100.0


def miniature(outline: tuple[float | None, ...], width: int, rows: int, colour: str, tint: str) -> Text:
    """The die's course as braille over a tint, on one scale from 20 to 100 °C in every cell."""
    points = np.array([math.nan if v is None else v for v in outline], dtype=float)
    good = np.isfinite(points)
    if good.sum() < 2:
        return Text("\n" * rows)
    at = np.linspace(0, len(points) - 1, 2 * width)
    curve = np.interp(at, np.flatnonzero(good), points[good])
    bits = dots(curve, curve, LOWEST_C, HIGHEST_C, rows, 2)
    under = below(curve, LOWEST_C, HIGHEST_C, rows)
    text = Text(no_wrap=True)
    for row in range(rows):
        for inside, group in itertools.groupby(range(width), key=lambda k: bool(under[row, k])):
            shown = "".join(chr(BRAILLE + int(bits[row, k])) if bits[row, k] else " " for k in group)
            text.append(shown, f"{colour} on {tint}" if inside else colour)
        text.append("\n")
    return text


def judged(cell: Cell) -> str | None:
    """The judgement that the cell's finished passes share; the worst where they do not."""
    found = [r.reading.judgement for r in cell.results if r.finished and r.reading.judgement]
    order = ["stopped", "throttles", "rides-limit", "budget", "clear"]
    return min(found, key=order.index) if found else None


class CellCard(Widget):
    """A setup under a load. Selected, it stands in brass."""

    DEFAULT_CSS = """
    CellCard { width: 1fr; height: 100%; min-height: 6; border: blank; padding: 0 1; }
    CellCard.-selected { border: round $primary; }
    CellCard.-next { border: dashed $line; }
    CellCard.-selected.-next { border: round $primary; }
    """

    class Clicked(Message):
        """The card was clicked."""

        def __init__(self, card: CellCard) -> None:
            super().__init__()
            self.card = card

    def __init__(self, cell: Cell, row: int, column: int) -> None:
        super().__init__()
        self.cell = cell
        self.row, self.column = row, column
        self.wanted = 1
        self.way: list[str] = []

    def show(self, cell: Cell, wanted: int, way: list[str]) -> None:
        """Show this cell, and what stands in its way."""
        self.cell, self.wanted, self.way = cell, wanted, way
        self.refresh()

    def on_click(self, event: Click) -> None:
        """Choose it."""
        self.post_message(self.Clicked(self))

    def render(self) -> Text:
        """Four lines."""
        palette = palette_of(self.app.theme)
        cell = self.cell
        width = max(8, self.size.width - 1)
        results = [r for r in cell.results if r.finished]
        rises = [rise for r in results if (rise := r.reading.rise()) is not None]
        text = Text(no_wrap=True)
        rise = joined(rises)
        judgement = judged(cell)
        left = rise.text("K", finest=1) if rise else ("not settled" if results else "not measured")
        right = f"{JUDGEMENT_MARK[judgement]} {judgement}" if judgement else ""
        if len(left) + len(right) + 1 > width:
            right = right[:1]
        text.append(left, f"bold {palette.quantity['temperature']}" if rise else palette.faint)
        text.append(right.rjust(max(1, width - len(left))) + "\n", _judgement_colour(palette, judgement))
        curve_colour = palette.quantity["temperature"]
        outline = results[-1].reading.outline if results else ()
        many = self.app.console.color_system in ("truecolor", None)
        tint = palette.blend(curve_colour, 0.15) if many else palette.ground
        text.append_text(miniature(outline, width, max(2, self.size.height - 2), curve_colour, tint))
        ticks = "●" * min(cell.passes, self.wanted) + "○" * max(0, self.wanted - cell.passes)
        extra = f" +{cell.passes - self.wanted}" if cell.passes > self.wanted else ""
        text.append(ticks + extra, palette.brass)
        used = len(ticks + extra)
        noises = [r.noise for r in results if r.noise is not None]
        noise = joined(noises)
        shown = f"{noise.value:.0f} dBA" if noise else ""
        room = width - used - len(shown) - 2
        if self.way and room > 8:
            words = self.way[0] if len(self.way[0]) <= room else f"{self.way[0][: room - 1]}…"
            grave = words.startswith(("did not", "no reference", "room", "never"))
            text.append(
                f" {words}",
                palette.bad if words.startswith("did not") else palette.caution if grave else palette.soft,
            )
            used += 1 + len(words)
        text.append(shown.rjust(max(1, width - used)), palette.quantity["noise"])
        return text


def _judgement_colour(palette: Palette, judgement: str | None) -> str:
    if judgement in ("throttles", "stopped"):
        return palette.bad
    if judgement == "rides-limit":
        return palette.quantity["temperature"]
    return palette.text if judgement else palette.faint
