"""The keys of a place along its foot; the one that lists all of them stays to be seen where there is no room for the others."""

from __future__ import annotations

from textual.app import ComposeResult
from textual.widgets import Footer
from textual.widgets._footer import FooterKey

HELP = "help"


class KeyLine(Footer):
    """Textual's own line of keys, with `?` at its right end."""

    DEFAULT_CSS = "KeyLine FooterKey.-kept { dock: right; background: $raised; padding-left: 1; }"

    def __init__(self) -> None:
        super().__init__(show_command_palette=False)

    def compose(self) -> ComposeResult:
        """The keys, in the order of the place."""
        for key in super().compose():
            if isinstance(key, FooterKey) and key.action.rpartition(".")[2] == HELP:
                key.add_class("-kept")
            yield key
