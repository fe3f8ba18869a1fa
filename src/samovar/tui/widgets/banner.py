"""A banner across the Bench, for what must be noticed from across the room."""

from __future__ import annotations

from rich.text import Text

from samovar.tui.theme import palette_of
from samovar.tui.widgets.plain import Static


class Banner(Static):
    """Hidden until something is shown on it."""

    DEFAULT_CSS = """
    Banner { height: 3; content-align: center middle; text-style: bold; display: none; }
    Banner.-shown { display: block; }
    """

    def __init__(self) -> None:
        super().__init__(id="banner")
        self._words = ""

    def announce(self, words: str, grave: bool) -> None:
        """Show these words; empty words take the banner away."""
        if words == self._words:
            return
        self._words = words
        palette = palette_of(self.app.theme)
        self.set_class(bool(words), "-shown")
        self.styles.background = palette.bad if grave else palette.brass
        self.styles.color = palette.ground if grave else palette.on_brass
        self.update(Text(" ".join(words), no_wrap=True) if len(words) < 40 else Text(words))
