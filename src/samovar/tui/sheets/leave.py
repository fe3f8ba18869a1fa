"""A sheet that shows a command which came with a document, the whole of it, and asks for leave to run it."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical, VerticalScroll
from textual.screen import ModalScreen

from samovar.bench.loads.catalogue import OwnLoad
from samovar.core.shown_text import visible
from samovar.tui.widgets.plain import Static


class Leave(ModalScreen[bool]):
    """The answer is whether the command may run here, from now on, as it reads."""

    CSS = """
    Leave { align: center middle; background: $background 60%; }
    Leave > Vertical { width: 96; max-width: 94%; height: auto; max-height: 90%; background: $raised;
        border: round $error; padding: 0 2; }
    Leave Static { height: auto; }
    Leave #leave-title { color: $error; text-style: bold; margin-bottom: 1; }
    Leave VerticalScroll { height: auto; max-height: 16; margin: 1 0; background: $background; padding: 0 1; }
    Leave #leave-foot { color: $soft; margin-top: 1; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("ctrl+a", "allow", "Allow", tooltip="it may run on this computer, as it reads"),
        Binding("escape", "refuse", "Leave", tooltip="nothing runs"),
    ]

    def __init__(self, load: OwnLoad) -> None:
        super().__init__()
        self._load = load

    def compose(self) -> ComposeResult:
        """What it is, the command to the letter, the keys."""
        load = self._load
        with Vertical():
            yield Static(f"{load.name} runs a command that came with {load.origin}", id="leave-title")
            yield Static("It would run on this computer, as you, with all that you may do. Read it:")
            with VerticalScroll():
                yield Static(Text("\n".join(visible(line) for line in load.command.split("\n"))))
            if load.note:
                yield Static(f"Its note says: {load.note}")
            yield Static("Ctrl+A it may run, as it reads   Esc nothing runs", id="leave-foot")

    def action_allow(self) -> None:
        """A person has read it and agrees."""
        self.dismiss(True)

    def action_refuse(self) -> None:
        """Nothing runs."""
        self.dismiss(False)
