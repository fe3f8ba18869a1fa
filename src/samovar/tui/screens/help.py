"""The keys of a place."""

from __future__ import annotations

from typing import ClassVar

from rich.table import Table
from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import VerticalScroll
from textual.screen import ModalScreen

from samovar.tui.screens.place import Place
from samovar.tui.theme import palette_of
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.rail import PLACES


class HelpScreen(ModalScreen[None]):
    """A sheet over the place it explains."""

    CSS = """
    HelpScreen { align: center middle; background: $background 60%; }
    HelpScreen > VerticalScroll { width: 76; height: auto; max-height: 90%; background: $raised;
        border: round $primary; padding: 1 2; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape,question_mark,q,enter", "dismiss", "Close", tooltip="close this sheet"),
        Binding("m", "manual", "Manual", tooltip="the manual, at the page of this place"),
    ]

    def __init__(self, place: Place) -> None:
        super().__init__()
        self._place = place

    def compose(self) -> ComposeResult:
        """The place's keys, then those that hold everywhere."""
        palette = palette_of(self.app.theme)
        name = next(n for p, _, n in PLACES if p == self._place.NAME)
        table = Table.grid(padding=(0, 2))
        table.add_column(justify="right", style=f"bold {palette.brass}", no_wrap=True)
        table.add_column(style=palette.text)
        for key, words in self._place.key_lines():
            table.add_row(key, words)
        common = Table.grid(padding=(0, 2))
        common.add_column(justify="right", style=f"bold {palette.brass}", no_wrap=True)
        common.add_column(style=palette.text)
        common.add_row("0 … 6", "go to a place of the rail")
        common.add_row("z", "on Desk, Shelf, Grid and Versus: undo the last change")
        common.add_row("/", "find a review, a run, a product or a mark by any word")
        common.add_row("ctrl+p", "find any action by its name")
        common.add_row("ctrl+t", "dark or light")
        common.add_row("q", "leave; a run under way is stopped and sealed")
        with VerticalScroll():
            yield Static(Text(f"{name}\n", f"bold {palette.brass}"))
            yield Static(table)
            yield Static(Text("\nEverywhere\n", f"bold {palette.brass}"))
            yield Static(common)
            yield Static(
                Text("\nm opens the manual at this place's page; Esc closes this sheet", palette.soft)
            )

    def action_manual(self) -> None:
        """The manual in place of this sheet."""
        from samovar.tui.manual_pages import FIRST, OF_PLACES
        from samovar.tui.screens.manual import ManualScreen

        self.app.switch_screen(ManualScreen(OF_PLACES.get(self._place.NAME, FIRST)))
