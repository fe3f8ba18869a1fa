"""A small sheet that asks for one line of text."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen
from textual.widgets import Input

from samovar.tui.widgets.plain import Static


class Ask(ModalScreen[str | None]):
    """Asks one thing; the answer is the text, None where it was closed with Escape."""

    CSS = """
    Ask { align: center middle; background: $background 50%; }
    Ask > Vertical { width: 64; height: auto; background: $raised; border: round $primary; padding: 1 2; }
    Ask Static { height: auto; margin-bottom: 1; }
    Ask #wrong { color: $error; margin: 0; }
    Ask #prepared { color: $soft; margin: 1 0 0 0; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape", "close", "Close", tooltip="close without an answer")
    ]

    def __init__(self, question: str, value: str = "", hint: str = "", prepared: Sequence[str] = ()) -> None:
        super().__init__()
        self._question, self._value, self._hint = question, value, hint
        self._prepared = list(prepared)[:9]

    def compose(self) -> ComposeResult:
        """The question and a line to write on."""
        with Vertical():
            yield Static(self._question)
            yield Input(self._value, placeholder=self._hint)
            if self._prepared:
                lines = "\n".join(f"{k} {words}" for k, words in enumerate(self._prepared, 1))
                yield Static(lines, id="prepared", markup=False)

    def on_input_changed(self, message: Input.Changed) -> None:
        """A digit on an empty line takes a prepared answer."""
        typed = message.value
        if self._prepared and len(typed) == 1 and typed.isdigit() and 1 <= int(typed) <= len(self._prepared):
            self.dismiss(self._prepared[int(typed) - 1])

    def on_input_submitted(self, message: Input.Submitted) -> None:
        """Enter answers."""
        self.dismiss(message.value.strip())

    def action_close(self) -> None:
        """Escape answers nothing."""
        self.dismiss(None)
