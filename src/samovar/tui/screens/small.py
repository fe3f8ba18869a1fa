"""What a window that is too small shows."""

from __future__ import annotations

from textual.app import ComposeResult
from textual.events import Resize
from textual.screen import Screen

from samovar.tui.widgets.plain import Static


class TooSmall(Screen[None]):
    """Says which size is needed; goes away by itself once the window has it."""

    CSS = "TooSmall { align: center middle; } TooSmall > Static { width: auto; text-align: center; }"

    def compose(self) -> ComposeResult:
        """One line, centred."""
        yield Static(id="size")

    def on_mount(self) -> None:
        """Say so at once."""
        self._say()

    def on_resize(self, event: Resize) -> None:
        """Say the size as it is now."""
        self._say()

    def _say(self) -> None:
        self.query_one("#size", Static).update(
            f"This window is {self.app.size.width}×{self.app.size.height}.\n"
            "Samovar needs at least 100×30: make it larger, or the letters smaller."
        )
