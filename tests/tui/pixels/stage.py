"""What tests of strips stand on: strips and nothing else, and whether something is drawn in dots."""

from __future__ import annotations

from textual.app import App, ComposeResult

from samovar.tui.widgets.strips import StripStack


class Stage(App[None]):
    """Strips and nothing else."""

    def compose(self) -> ComposeResult:
        yield StripStack()


def has_dots(text: str) -> bool:
    """Whether any character is one of dots."""
    return any("\u2800" < c <= "\u28ff" for c in text)
