"""The Bench from across the room: the four numbers that matter, as large as the window allows."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

from rich.text import Text
from textual.widget import Widget

from samovar.tui.theme import palette_of
from samovar.tui.widgets.raster import large

_TOP, _BOTTOM = {"█": 1, "▀": 1, "▄": 0}, {"█": 1, "▀": 0, "▄": 1}


@dataclass(frozen=True, slots=True)
class FarNumber:
    """One of the four: what it is, its number as text, its unit, its quantity for the colour, a line on it."""

    label: str
    number: str
    unit: str
    quantity: str
    words: str = ""


def huge(text: str, factor: int) -> list[list[tuple[int, int]]]:
    """A number in digits three cells high times `factor`: rows of cells, each as its upper and lower half."""
    pixels: list[list[int]] = []
    for row in large(text):
        pixels.append([_TOP.get(c, 0) for c in row])
        pixels.append([_BOTTOM.get(c, 0) for c in row])
    tall = [[dot for dot in row for _ in range(factor)] for row in pixels for _ in range(factor)]
    return [list(zip(upper, lower, strict=True)) for upper, lower in zip(tall[::2], tall[1::2], strict=True)]


class FarView(Widget):
    """Two rows of two numbers."""

    DEFAULT_CSS = "FarView { width: 1fr; height: 1fr; padding: 1 2; }"

    def __init__(self) -> None:
        super().__init__(id="far")
        self._numbers: tuple[FarNumber, ...] = ()

    def show(self, numbers: tuple[FarNumber, ...]) -> None:
        """Show these."""
        if numbers != self._numbers:
            self._numbers = numbers
            self.refresh()

    def render(self) -> Text:
        """As large as fits: both rows and columns decide."""
        palette = palette_of(self.app.theme)
        half = max(20, self.size.width // 2)
        widest = max((len(large(n.number)[0]) for n in self._numbers), default=1)
        factor = max(1, min((half - 4) // max(1, widest), (self.size.height - 8) // 6))
        text = Text(no_wrap=True)
        for pair in (self._numbers[:2], self._numbers[2:4]):
            for number in pair:
                text.append(f"{number.label}, {number.unit}"[: half - 1].ljust(half), f"bold {palette.soft}")
            text.append("\n\n")
            rows = [huge(number.number, factor) for number in pair]
            for line in range(3 * factor):
                for number, drawn in zip(pair, rows, strict=True):
                    cells = drawn[line][: half - 1]
                    # Full cells as ground, not as letters: some letters leave lines between the rows.
                    for full, group in groupby(cells):
                        width = len(list(group))
                        colour = palette.quantity[number.quantity]
                        if full == (1, 1):
                            text.append(" " * width, f"on {colour}")
                        else:
                            text.append({(1, 0): "▀", (0, 1): "▄", (0, 0): " "}[full] * width, colour)
                    text.append(" " * (half - len(cells)))
                text.append("\n")
            text.append("\n")
            for number in pair:
                text.append(number.words[: half - 1].ljust(half), palette.text)
            text.append("\n\n")
        return text
