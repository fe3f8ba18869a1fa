"""The draft sentence by sentence: each is kept, reworded or struck, and none of the reviewer's words is replaced."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen
from textual.widgets import OptionList
from textual.widgets.option_list import Option

from samovar.core.drafting import CHANGED, IN, NEW, OWN, STRUCK, Offered
from samovar.figures.palette import Palette
from samovar.tui.asking import Asking
from samovar.tui.drafting import Drafting
from samovar.tui.widgets.plain import Static

_SIGNS = {NEW: "＋", IN: "✔", OWN: "✎", STRUCK: "✕", CHANGED: "↻"}


@dataclass(frozen=True)
class Reword:
    """The sentence that the reviewer wants to put in his own words."""

    text: str


class DraftSheet(Asking, ModalScreen[Reword | None]):
    """What was decided is in `drafting`; the answer is the sentence to be reworded, if there is one."""

    CSS = """
    DraftSheet { align: center middle; background: $background 60%; }
    DraftSheet > Vertical { width: 120; max-width: 96%; height: auto; max-height: 94%; background: $raised;
        border: round $primary; padding: 0 2; }
    DraftSheet Static { height: auto; }
    DraftSheet #draft-title { color: $primary; text-style: bold; margin-bottom: 1; }
    DraftSheet OptionList { height: auto; max-height: 70vh; background: $raised; border: none; padding: 0; }
    DraftSheet OptionList > .option-list--option-highlighted { background: $background; }
    DraftSheet #draft-foot { color: $soft; margin-top: 1; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("k,enter", "keep", "Keep", tooltip="take the sentence into the article", priority=True),
        Binding("r", "reword", "Reword", tooltip="take it in and put it in your own words"),
        Binding("x", "strike", "Strike", tooltip="leave it out; it is not offered again"),
        Binding("a", "keep_all", "Keep all", tooltip="take in all that is new"),
        Binding("u", "undo", "Undo", tooltip="take the last decision back"),
        Binding("escape", "close", "Close", tooltip="back to the article"),
    ]

    def __init__(self, drafting: Drafting, palette: Palette) -> None:
        super().__init__()
        self._drafting, self._palette = drafting, palette

    def compose(self) -> ComposeResult:
        """The sentences and the keys."""
        with Vertical():
            yield Static("The draft, sentence by sentence", id="draft-title")
            yield OptionList(*self._rows())
            yield Static(
                "k keep   r reword   x strike   a keep all new   u undo   Esc close", id="draft-foot"
            )

    def on_mount(self) -> None:
        """The first sentence that is new is marked."""
        offers = self._drafting.offers()
        first = next((k for k, o in enumerate(offers) if o.state in (NEW, CHANGED)), 0)
        listed = self.query_one(OptionList)
        listed.highlighted = first if offers else None
        listed.focus()

    def _rows(self) -> list[Option]:
        return [Option(self._row(one)) for one in self._drafting.offers()]

    def _row(self, one: Offered) -> Text:
        colours = {NEW: self._palette.brass, IN: self._palette.good, CHANGED: self._palette.caution}
        colour = colours.get(one.state, self._palette.soft)
        text = Text()
        text.append(f"{_SIGNS[one.state]} {one.state}\n", f"bold {colour}")
        faded = one.state in (STRUCK, OWN)
        text.append(self._drafting.plain(one.text), self._palette.soft if faded else self._palette.text)
        if one.state == CHANGED:
            text.append(f"\nbefore: {self._drafting.plain_before(one.before)}", self._palette.soft)
        text.append("\n")
        return text

    def _again(self) -> None:
        listed = self.query_one(OptionList)
        at = listed.highlighted
        listed.clear_options()
        listed.add_options(self._rows())
        listed.highlighted = at

    def _current(self) -> Offered | None:
        at, offers = self.query_one(OptionList).highlighted, self._drafting.offers()
        return offers[at] if at is not None and at < len(offers) else None

    def _on(self) -> None:
        """Redraw, and on to the next sentence."""
        self._again()
        self.query_one(OptionList).action_cursor_down()

    def action_keep(self) -> None:
        """Take the sentence in."""
        one = self._current()
        if one is not None and one.state != IN:
            self._drafting.keep(one.key)
            self._on()

    def action_strike(self) -> None:
        """Leave the sentence out for good."""
        one = self._current()
        if one is not None and one.state == IN:
            self.notify("It stands in your article: take it out there.", severity="warning")
        elif one is not None:
            self._drafting.strike(one.key)
            self._on()

    def action_reword(self) -> None:
        """Take the sentence in and go and reword it."""
        one = self._current()
        if one is not None:
            if one.state != IN:
                self._drafting.keep(one.key)
            self.dismiss(Reword(one.text))

    def action_keep_all(self) -> None:
        """Take in all that is new."""
        for one in self._drafting.offers():
            if one.state == NEW:
                self._drafting.keep(one.key)
        self._again()

    def action_undo(self) -> None:
        """The last decision back."""
        if not self._drafting.undo():
            self.notify("Nothing to undo.")
        self._again()

    def action_close(self) -> None:
        """Back."""
        self.dismiss(None)
