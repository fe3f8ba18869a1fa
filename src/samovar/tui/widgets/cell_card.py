"""One cell of the Grid: what the review is about, judgement, the die's course in miniature, passes done, noise."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from rich.text import Text
from textual.events import Click
from textual.message import Message

from samovar.archive.review_data import Cell, ReviewData
from samovar.archive.rig_comparison import compare_on
from samovar.core.compare.rungs import joined
from samovar.core.measured import AT_MOST, Measured
from samovar.core.results.figure import Figure, RunResult, as_they_ran
from samovar.figures.palette import JUDGEMENT_MARK, Palette
from samovar.tui.pixels.layer import Pictured, pixels_for
from samovar.tui.pixels.picture import CellPicture
from samovar.tui.theme import palette_of
from samovar.tui.widgets.miniature import course_of, miniature, miniature_pixels
from samovar.tui.widgets.strip_pixels import STRETCH

LOWEST_C, HIGHEST_C = 20.0, 100.0


@dataclass(frozen=True)
class CardLook:
    """What all cells of a review show: its figure, the scale of their miniatures, gives a run's course, and a cell's
    value, which is the one that Versus gives it."""

    figure: Figure
    low: float
    high: float
    outline: Callable[[RunResult], tuple[float | None, ...]]
    value: Callable[[Cell], Measured | None]


def look_of(data: ReviewData) -> CardLook:
    """What the cells of a review show: temperatures on one scale from 20 to 100 °C, all else from nothing to the most
    that any of its runs reached."""
    figure = data.subject
    # All at once, and not when they are drawn: what a bench showed before is asked of the archive.
    values = {key: _value_of(data, cell, figure) for key, cell in data.cells.items()}

    def value(cell: Cell) -> Measured | None:
        return values.get((cell.setup.id, cell.load))

    if figure.quantity in ("temperature", "noise", "score", "time", "held") or not data.outlines:
        return CardLook(figure, LOWEST_C, HIGHEST_C, data.outline, value)
    most = max((v for o in data.outlines.values() for v in o if v is not None), default=1.0)
    return CardLook(figure, 0.0, max(most, 1e-9), data.outline, value)


def _value_of(data: ReviewData, cell: Cell, figure: Figure) -> Measured | None:
    rung = compare_on(data, cell.load, figure, cell.setup.rig_name).ladder.rung(cell.setup.name)
    return rung.figure if rung is not None else None


def judged(cell: Cell) -> str | None:
    """The judgement that the cell's finished passes share; the worst where they do not."""
    found = [r.reading.judgement for r in cell.results if r.finished and r.reading.judgement]
    order = ["stopped", "throttles", "rides-limit", "budget", "clear"]
    return min(found, key=order.index) if found else None


class CellCard(Pictured):
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
        self.look: CardLook | None = None

    def show(self, cell: Cell, wanted: int, way: list[str], look: CardLook) -> None:
        """Show this cell, and what stands in its way."""
        self.cell, self.wanted, self.way, self.look = cell, wanted, way, look
        self.refresh()

    def on_click(self, event: Click) -> None:
        """Choose it."""
        self.post_message(self.Clicked(self))

    def render(self) -> Text:
        """Four lines."""
        palette = palette_of(self.app.theme)
        cell, look = self.cell, self.look
        if look is None:
            return Text()
        figure = look.figure
        width = max(8, self.size.width - 1)
        results = as_they_ran(cell.results)
        value = look.value(cell)
        text = Text(no_wrap=True)
        judgement = judged(cell)
        left = figure.brief(value) if value else _why_not(figure, results)
        right = f"{JUDGEMENT_MARK[judgement]} {judgement}" if judgement else ""
        if len(left) + len(right) + 1 > width:
            right = right[:1]
        own_colour = palette.quantity[figure.quantity]
        text.append(left, f"bold {own_colour}" if value else palette.faint)
        text.append(right.rjust(max(1, width - len(left))) + "\n", _judgement_colour(palette, judgement))
        drawn = look.outline(results[-1]) if results else ()
        # What has no course of its own stands over the die's.
        own = bool(results) and drawn is not results[-1].reading.outline
        curve_colour = own_colour if own else palette.quantity["temperature"]
        text.append_text(self._course(drawn, curve_colour, width, look, palette))
        ticks = "●" * min(cell.passes, self.wanted) + "○" * max(0, self.wanted - cell.passes)
        extra = f" +{cell.passes - self.wanted}" if cell.passes > self.wanted else ""
        text.append(ticks + extra, palette.brass)
        used = len(ticks + extra)
        noise = joined([r.noise for r in results if r.noise is not None])
        shown = (
            ""
            if noise is None or figure.key == "noise"
            else f"{'≤' if noise.bound == AT_MOST else ''}{noise.value:.0f} dBA"
        )
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

    def _course(
        self,
        outline: Sequence[float | None],
        colour: str,
        width: int,
        look: CardLook,
        palette: Palette,
    ) -> Text:
        """The course between the first line and the last, in pixels where the terminal takes them."""
        rows, ends = max(2, self.size.height - 2), (look.low, look.high)
        curve = course_of(outline, width)
        self.pictures.show(())
        if curve is None:
            return Text("\n" * rows)
        many = self.app.console.color_system in ("truecolor", None)
        tint = palette.blend(colour, 0.15) if many else palette.ground
        pixels = pixels_for(self)
        if pixels is None:
            return miniature(curve, rows, colour, tint, ends)
        left, top = self.content_corner
        picture = miniature_pixels(curve, rows, pixels.cell, (colour, tint, palette.ground), ends)
        self.pictures.show((CellPicture(left, top + 1, *picture, STRETCH),))
        return Text("\n" * rows)


def _why_not(figure: Figure, results: Sequence[RunResult]) -> str:
    """Why a cell has no value."""
    if not results:
        return "not measured"
    if figure.statistic in ("steady", "rise", "resistance", "settle"):
        return "not settled" if figure.parts[0] == "die" else "not known"
    return "not read" if figure.statistic in ("level", "score", "time") else "not known"


def _judgement_colour(palette: Palette, judgement: str | None) -> str:
    if judgement in ("throttles", "stopped"):
        return palette.bad
    if judgement == "rides-limit":
        return palette.quantity["temperature"]
    return palette.text if judgement else palette.faint
