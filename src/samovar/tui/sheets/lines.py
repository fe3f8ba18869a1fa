"""A sheet of lines: one statement a line, each read as it is typed, and kept only when all can be read."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import ClassVar, Protocol

from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen
from textual.widgets import TextArea

from samovar.core.units import Unreadable
from samovar.tui.widgets.plain import Static


class Lined(Protocol):
    """What a line is read as."""

    @property
    def line(self) -> str:
        """It in plain form."""


class Lines(ModalScreen[tuple[str, ...] | None]):
    """The answer is the lines in plain form, None where the sheet was left."""

    CSS = """
    Lines { align: center middle; background: $background 60%; }
    Lines > Vertical { width: 104; max-width: 94%; height: auto; max-height: 90%; background: $raised;
        border: round $primary; padding: 0 2; }
    Lines Static { height: auto; }
    Lines #lines-title { color: $primary; text-style: bold; margin-bottom: 1; }
    Lines #lines-intro { color: $soft; margin-bottom: 1; }
    Lines TextArea { height: 14; background: $background; border: none; }
    Lines #lines-state { margin-top: 1; }
    Lines #lines-foot { color: $soft; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("ctrl+s", "keep", "Keep", tooltip="keep the lines as they are", priority=True),
        Binding("escape", "leave", "Leave", tooltip="change nothing", priority=True),
    ]

    def __init__(self, title: str, intro: str, lines: Sequence[str], read: Callable[[str], Lined]) -> None:
        super().__init__()
        self._title, self._intro, self._lines, self._read = title, intro, tuple(lines), read

    def compose(self) -> ComposeResult:
        """What can be written, the lines, whether they can be read."""
        with Vertical():
            yield Static(self._title, id="lines-title", markup=False)
            yield Static(self._intro, id="lines-intro", markup=False)
            yield TextArea("\n".join(self._lines), show_line_numbers=True, soft_wrap=True)
            yield Static(id="lines-state", markup=False)
            yield Static("Ctrl+S keep   Esc leave all as it was", id="lines-foot")

    def on_mount(self) -> None:
        """Write at the end of what is there."""
        area = self.query_one(TextArea)
        area.focus()
        area.move_cursor(area.document.end)
        self._say()

    def on_text_area_changed(self) -> None:
        """Every line is read as it is typed."""
        self._say()

    def _readable(self) -> tuple[tuple[str, ...], str]:
        """The lines in plain form, and what is wrong with the first that cannot be read."""
        kept: list[str] = []
        for number, typed in enumerate(self.query_one(TextArea).text.split("\n"), 1):
            if not typed.strip():
                continue
            try:
                kept.append(self._read(typed.strip()).line)
            except Unreadable as problem:
                return tuple(kept), f"line {number}: {problem}"
        return tuple(dict.fromkeys(kept)), ""

    def _say(self) -> None:
        kept, wrong = self._readable()
        state = self.query_one("#lines-state", Static)
        state.styles.color = self.app.theme_variables["error" if wrong else "soft"]
        state.update(wrong or (f"{len(kept)} read" if kept else "none yet"))

    def action_keep(self) -> None:
        """Keep them, if all can be read."""
        kept, wrong = self._readable()
        if not wrong:
            self.dismiss(kept)

    def action_leave(self) -> None:
        """Change nothing."""
        self.dismiss(None)
