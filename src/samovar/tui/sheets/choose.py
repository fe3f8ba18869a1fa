"""A sheet that lets one choose one thing of several."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen
from textual.widgets import OptionList
from textual.widgets.option_list import Option

from samovar.tui.widgets.plain import Static


class Choose(ModalScreen[str | None]):
    """The answer is the chosen option's name; None where it was left. An option is its name and a line on it."""

    CSS = """
    Choose { align: center middle; background: $background 60%; }
    Choose > Vertical { width: 84; max-width: 94%; height: auto; max-height: 90%; background: $raised;
        border: round $primary; padding: 0 2; }
    Choose #choose-title { color: $primary; text-style: bold; height: auto; margin-bottom: 1; }
    Choose OptionList { height: auto; max-height: 24; background: $raised; border: none; padding: 0; }
    Choose OptionList > .option-list--option-highlighted { background: $primary; color: $on-brass; }
    Choose #choose-foot { color: $soft; height: 1; margin-top: 1; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape", "leave", "Leave", tooltip="leave without choosing")
    ]

    def __init__(self, title: str, options: Sequence[tuple[str, str]]) -> None:
        super().__init__()
        self._title, self._options = title, list(options)

    def compose(self) -> ComposeResult:
        """The title, the options, the keys."""
        width = max((len(name) for name, _ in self._options), default=0) + 2
        rows = []
        for name, words in self._options:
            text = Text(no_wrap=True, overflow="ellipsis")
            text.append(name.ljust(width), "bold")
            text.append(words[: max(8, 76 - width)], "")
            rows.append(Option(text, id=None))
        with Vertical():
            yield Static(self._title, id="choose-title", markup=False)
            yield OptionList(*rows)
            yield Static("↑↓ move   Enter choose   Esc close", id="choose-foot")

    def on_option_list_option_selected(self, message: OptionList.OptionSelected) -> None:
        """Enter chooses."""
        self.dismiss(self._options[message.option_index][0])

    def action_leave(self) -> None:
        """Escape chooses nothing."""
        self.dismiss(None)
