"""A small sheet that asks for one line of text."""

from __future__ import annotations

from typing import ClassVar

from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen
from textual.widgets import Input, Static


class Ask(ModalScreen[str | None]):
    """Asks one thing; the answer is the text, None where it was closed with Escape."""

    CSS = """
    Ask { align: center middle; background: $background 50%; }
    Ask > Vertical { width: 64; height: auto; background: $raised; border: round $primary; padding: 1 2; }
    Ask Static { height: auto; margin-bottom: 1; }
    Ask #wrong { color: $error; margin: 0; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape", "close", "Close", tooltip="close without an answer")
    ]

    def __init__(self, question: str, value: str = "", hint: str = "") -> None:
        super().__init__()
        self._question, self._value, self._hint = question, value, hint

    def compose(self) -> ComposeResult:
        """The question and a line to write on."""
        with Vertical():
            yield Static(self._question)
            yield Input(self._value, placeholder=self._hint)

    def on_input_submitted(self, message: Input.Submitted) -> None:
        """Enter answers."""
        self.dismiss(message.value.strip())

    def action_close(self) -> None:
        """Escape answers nothing."""
        self.dismiss(None)
