"""Finding something again: reviews, runs, products and marks, as one types."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen
from textual.widgets import Input, OptionList
from textual.widgets.option_list import Option

from samovar.archive.archive import Archive
from samovar.archive.search import EXAMPLE, MOST, Hit, read_query, search
from samovar.tui.aside import aside, behind
from samovar.tui.asking import SHOWING, Asking
from samovar.tui.theme import palette_of
from samovar.tui.widgets.plain import Static

REST_S = 0.15
"""The archive is asked when the hands have rested for so long."""
_KINDS = {"review": "reviews", "product": "products", "run": "runs", "mark": "marks"}


class Find(Asking, ModalScreen[Hit | None]):
    """The answer is what was chosen; None where it was left."""

    CSS = """
    Find { align: center top; background: $background 60%; }
    Find > Vertical { width: 120; max-width: 96%; height: 86%; margin-top: 2; background: $raised;
        border: round $primary; padding: 0 2; }
    Find Input { border: none; height: 1; background: $background; margin: 1 0; padding: 0 1; }
    Find OptionList { height: 1fr; background: $raised; border: none; padding: 0; }
    Find OptionList > .option-list--option-highlighted { background: $primary; color: $on-brass; }
    Find #find-foot { color: $soft; height: auto; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape", "leave", "Leave", tooltip="leave without choosing"),
        Binding("down", "step(1)", "", show=False, priority=True),
        Binding("up", "step(-1)", "", show=False, priority=True),
        Binding("enter", "choose", "", show=False, priority=True),
    ]

    def __init__(self, archive: Archive) -> None:
        super().__init__()
        self._archive = behind(archive)
        self._hits: list[Hit | None] = []
        self._shown = ""

    def compose(self) -> ComposeResult:
        """The words, what was found, how to ask."""
        with Vertical():
            yield Input(placeholder="any word of a review, run, product, mark")
            yield OptionList()
            yield Static(f"narrower: {EXAMPLE}\n↑↓ move   Enter open   Esc close", id="find-foot")

    def on_mount(self) -> None:
        """The keys are the line's."""
        self.query_one(Input).focus()

    def on_input_changed(self) -> None:
        """Look when the hands rest."""
        typed = self.query_one(Input).value
        self.set_timer(REST_S, lambda: self._look(typed))

    def _look(self, typed: str) -> None:
        if self.is_mounted and typed == self.query_one(Input).value:
            self.soon(self._show, typed, group=SHOWING, exclusive=True)

    def _show(self, typed: str) -> None:
        query = read_query(typed)
        found = aside(search, self._archive, query)
        listed, palette = self.query_one(OptionList), palette_of(self.app.theme)
        listed.clear_options()
        self._hits, self._shown = [], typed
        for kind, name in _KINDS.items():
            some = [hit for hit in found if hit.kind == kind]
            if not some:
                continue
            more = f", the first {MOST}: a further word narrows it" if len(some) == MOST else ""
            self._add(listed, Option(Text(f"{name}{more}", palette.brass), disabled=True), None)
            for hit in some:
                text = Text(no_wrap=True, overflow="ellipsis")
                text.append(f"  {hit.name}", "bold")
                text.append(f"   {hit.where}")
                self._add(listed, Option(text), hit)
        if query and not found:
            self._add(
                listed, Option(Text(f"nothing has all of {typed!r}", palette.soft), disabled=True), None
            )
        first = next((k for k, hit in enumerate(self._hits) if hit is not None), None)
        listed.highlighted = first

    def _add(self, listed: OptionList, option: Option, hit: Hit | None) -> None:
        listed.add_option(option)
        self._hits.append(hit)

    def action_step(self, by: int) -> None:
        """Up or down the list, the keys still the line's."""
        listed = self.query_one(OptionList)
        if by > 0:
            listed.action_cursor_down()
        else:
            listed.action_cursor_up()

    def action_choose(self) -> None:
        """What is under the cursor; hands that were quicker than the list get what they typed for."""
        typed = self.query_one(Input).value
        if typed != self._shown:
            self._show(typed)
        at = self.query_one(OptionList).highlighted
        hit = self._hits[at] if at is not None and at < len(self._hits) else None
        if hit is not None:
            self.dismiss(hit)

    def on_option_list_option_selected(self, message: OptionList.OptionSelected) -> None:
        """A click chooses too."""
        hit = self._hits[message.option_index]
        if hit is not None:
            self.dismiss(hit)

    def action_leave(self) -> None:
        """Back."""
        self.dismiss(None)
