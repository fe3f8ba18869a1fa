"""The ladder: setups ranked on one figure, each with its interval, drawn in cells."""

from __future__ import annotations

from rich.text import Text
from textual.events import Click
from textual.message import Message
from textual.widget import Widget

from samovar.core.compare.rungs import Rung
from samovar.core.elsewhere import against_norm, names_norm
from samovar.core.measured import AT_MOST, Measured
from samovar.core.results.figure import Figure
from samovar.core.results.result import ELSEWHERE
from samovar.figures.palette import Palette
from samovar.tui.run_cells import short
from samovar.tui.theme import palette_of

ROOMY = 60
"""In fewer cells a bound is a sign, not words."""
LINES_A_RUNG, NARROW_INDENT = 2, 2
NAME_LEAST, NAME_SHORTEST, BAR_LEAST = 16, 8, 6
_EIGHTHS = " ▏▎▍▌▋▊▉█"


class Ladder(Widget):
    """Bars from zero, the interval marked on them, best at the top."""

    class Picked(Message):
        """The bar of a setup was clicked."""

        def __init__(self, name: str) -> None:
            super().__init__()
            self.name = name

    DEFAULT_CSS = "Ladder { height: auto; padding: 0 1; }"

    def __init__(self) -> None:
        super().__init__(id="ladder")
        self._rungs: list[Rung] = []
        self._measure: Figure | None = None
        self._reference: str | None = None
        self._colours: dict[str, str] = {}
        self._without: dict[str, str] = {}

    def show(
        self,
        rungs: list[Rung],
        measure: Figure,
        reference: str | None,
        colours: dict[str, str],
        without: dict[str, str],
    ) -> None:
        """Show these rungs; `without` are setups that have no such figure, with the reason where it is known."""
        self._rungs, self._measure, self._reference = rungs, measure, reference
        self._colours, self._without = colours, without
        self.refresh(layout=True)

    def on_click(self, event: Click) -> None:
        """A click on a rung, its bar or its words, picks it."""
        rung = event.y // LINES_A_RUNG
        if 0 <= rung < len(self._rungs) and self._rungs[rung].source != ELSEWHERE:
            self.post_message(self.Picked(self._rungs[rung].name))

    def render(self) -> Text:
        """Two lines a rung."""
        palette, measure = palette_of(self.app.theme), self._measure
        text = Text(no_wrap=True)
        if measure is None or not self._rungs:
            words = f"No run carries {measure.label} under this load yet." if measure else ""
            text.append(words, palette.soft)
            for name, why in self._without.items():
                text.append(f"\n{name}: {why}" if why else "", palette.faint)
            return text
        width = max(30, self.size.width - 2)
        # Long names leave the bars, which are what is looked at, at least half of the width.
        name_width = min(max(len(r.name) for r in self._rungs), max(NAME_LEAST, width // 3)) + 2
        written = measure.text if width >= ROOMY else measure.brief
        figure_width = max(len(written(r.figure)) for r in self._rungs) + 2
        # In a very narrow box names give way: figures never do.
        name_width = max(NAME_SHORTEST, min(name_width, width - figure_width - 3 - BAR_LEAST))
        bar = max(BAR_LEAST, width - name_width - figure_width - 3)
        highest = max(r.figure.value + (r.figure.half_width or 0.0) for r in self._rungs)
        norms = [r for r in self._rungs if r.source == ELSEWHERE and names_norm(r.name)]
        lines = {round(r.figure.value / highest * bar) for r in norms}
        for rung in self._rungs:
            outside = rung.source == ELSEWHERE
            colour = (
                palette.faint if outside else self._colours.get(rung.name, palette.quantity[measure.quantity])
            )
            name_style = f"italic {palette.soft}" if outside else f"bold {palette.text}"
            text.append(f"{short(rung.name, name_width - 2):<{name_width}}", name_style)
            self._bar(text, palette, rung.figure, highest, bar, colour, lines)
            text.append(f" {written(rung.figure):>{figure_width}}\n", f"bold {palette.text}")
            # In a narrow box the words have the whole line.
            indent = name_width if width >= ROOMY else NARROW_INDENT
            text.append(" " * indent)
            room = width - indent
            said = [self._words(rung, True), self._words(rung, False)]
            if norms and not outside:
                full = ", ".join(against_norm(rung.figure, n.figure, n.name) for n in norms)
                brief = ", ".join(against_norm(rung.figure, n.figure, "norm") for n in norms)
                said = [*(f"{against}; {words}" for against in (full, brief) for words in said), said[1]]
            words = next((w for w in said if len(w) <= room), said[-1])
            text.append((words if len(words) <= room else words[: room - 1] + "…") + "\n", palette.soft)
        if self._without:
            plain = [name for name, why in self._without.items() if not why]
            if plain:
                text.append(f"\nnot known for {', '.join(plain)}", palette.faint)
            for name, why in self._without.items():
                if why:
                    words = f"{name}: {why}"
                    text.append(
                        f"\n{words if len(words) <= width else words[: width - 1] + '…'}", palette.faint
                    )
            text.append("\n")
        return text

    def _bar(
        self,
        text: Text,
        palette: Palette,
        figure: Measured,
        highest: float,
        width: int,
        colour: str,
        norms: set[int],
    ) -> None:
        length = figure.value / highest * width
        whole = int(length)
        body = "█" * whole + _EIGHTHS[int((length - whole) * 8)].strip()
        half = (figure.half_width or 0.0) / highest * width
        low, high = (
            max(0, round(length - half)),
            min(width, max(round(length + half), round(length - half) + 1)),
        )
        if figure.bound is not None:
            # Drawn open: an arrow towards where the value may be, no interval.
            arrows = "◀╌╌" if figure.bound == AT_MOST else "╌╌▶"
            at = len(body) - 3 if figure.bound == AT_MOST else min(len(body), width - 3)
            for k in range(width):
                inside = k < len(body)
                if 0 <= k - at < 3:
                    text.append(arrows[k - at], f"{palette.text} on {colour}" if inside else palette.text)
                else:
                    text.append(body[k] if inside else " ", colour)
            return
        for k in range(width):
            inside = k < len(body)
            if half >= 0.5 and low <= k < high:
                text.append(
                    "┃" if k in (low, high - 1) else "━",
                    f"{palette.text} on {colour}" if inside else palette.text,
                )
            elif k in norms:
                # The norm of a class goes through all bars.
                text.append("┆", f"{palette.text} on {colour}" if inside else palette.text)
            else:
                text.append(body[k] if inside else " ", colour)

    def _words(self, rung: Rung, whole: bool) -> str:
        assert self._measure is not None
        if rung.source == ELSEWHERE:
            return "from elsewhere: it takes no part in the statistics"
        passes = f"{rung.passes} pass{'es' if rung.passes != 1 else ''}"
        parts = []
        if rung.name == self._reference:
            parts.append("the reference")
        elif rung.difference is not None:
            gap = rung.difference
            if gap.bound is not None:
                size = self._measure.text(Measured(abs(gap.value), gap.half_width))
                way = "less" if gap.value < 0 else "more"
                parts.append(
                    f"at least {size} {way} than {gap.other}"
                    if gap.shown
                    else f"no more than a bound: {gap.words()}"
                )
            else:
                words = self._measure.difference_text(gap.measured, signed=True)
                parts.append(f"{words} to {gap.other}: {gap.words()}" if whole else f"{words}, {gap.words()}")
        above = rung.above
        if above is not None and rung.difference is not None and above.other == rung.difference.other:
            above = None  # It is the reference: what there is to say of it is said.
        if above is not None and above.equivalent:
            parts.append("no practical difference to the one above" if whole else "same as above")
        elif above is not None and not above.shown:
            parts.append("not shown to differ from the one above" if whole else "above not shown to differ")
        return ", ".join([*parts, passes])
