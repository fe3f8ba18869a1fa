"""A sheet that lets one choose one thing of several."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.events import Key
from textual.screen import ModalScreen
from textual.widgets import Input, OptionList
from textual.widgets.option_list import Option

from samovar.tui.widgets.plain import Static

MANY = 16
"""More options than this are searched, not scrolled."""


class Choose(ModalScreen[str | None]):
    """The answer is the chosen option's name; None where it was left. An option is its name and a line on it."""

    CSS = """
    Choose { align: center middle; background: $background 60%; }
    Choose > Vertical { width: 84; max-width: 94%; height: auto; max-height: 90%; background: $raised;
        border: round $primary; padding: 0 2; }
    Choose #choose-title { color: $primary; text-style: bold; height: auto; margin-bottom: 1; }
    Choose OptionList { height: auto; max-height: 60vh; background: $raised; border: none; padding: 0; }
    Choose OptionList > .option-list--option-highlighted { background: $primary; color: $on-brass; }
    Choose #narrow { height: 1; border: none; background: $background; margin-bottom: 1; padding: 0 1; }
    Choose #choose-foot { color: $soft; height: 1; margin-top: 1; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape", "leave", "Leave", tooltip="leave without choosing")
    ]

    def __init__(self, title: str, options: Sequence[tuple[str, str]]) -> None:
        super().__init__()
        self._title, self._options = title, list(options)
        self._shown = self._options
        self._long = len(self._options) > MANY

    def compose(self) -> ComposeResult:
        """The title, the options, the keys; of many options a line that narrows them."""
        with Vertical():
            yield Static(self._title, id="choose-title", markup=False)
            if self._long:
                yield Input(placeholder="type to narrow the list", id="narrow")
            yield OptionList(*self._rows())
            foot = "type to narrow   " if self._long else ""
            yield Static(f"{foot}↑↓ move   Enter choose   Esc close", id="choose-foot")

    def _rows(self) -> list[Option]:
        width = max((len(name) for name, _ in self._options), default=0) + 2
        rows = []
        for name, words in self._shown:
            text = Text(no_wrap=True, overflow="ellipsis")
            text.append(name.ljust(width), "bold")
            text.append(words[: max(8, 76 - width)], "")
            rows.append(Option(text, id=None))
        return rows

    def on_mount(self) -> None:
        """The first option is marked, wherever the keys go."""
        if self._options:
            self.query_one(OptionList).highlighted = 0

    def on_input_changed(self, message: Input.Changed) -> None:
        """Only what holds every word typed."""
        wanted = message.value.lower().split()
        self._shown = [o for o in self._options if all(w in " ".join(o).lower() for w in wanted)]
        listed = self.query_one(OptionList)
        listed.clear_options()
        listed.add_options(self._rows())
        listed.highlighted = 0 if self._shown else None

    def on_input_submitted(self) -> None:
        """Enter on the line chooses what is marked in the list."""
        at = self.query_one(OptionList).highlighted
        if at is not None and at < len(self._shown):
            self.dismiss(self._shown[at][0])

    def on_key(self, event: Key) -> None:
        """Up and down go to the list from the line above it too."""
        if self._long and event.key in ("down", "up") and isinstance(self.focused, Input):
            listed = self.query_one(OptionList)
            listed.focus()
            (listed.action_cursor_down if event.key == "down" else listed.action_cursor_up)()
            event.stop()

    def on_option_list_option_selected(self, message: OptionList.OptionSelected) -> None:
        """Enter chooses."""
        self.dismiss(self._shown[message.option_index][0])

    def action_leave(self) -> None:
        """Escape chooses nothing."""
        self.dismiss(None)
