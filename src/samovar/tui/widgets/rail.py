"""The rail: the way between the seven places, and the gauge of the review."""

from __future__ import annotations

from rich.text import Text
from textual.events import Click
from textual.message import Message
from textual.widget import Widget

from samovar.tui.theme import palette_of

PLACES: tuple[tuple[str, str, str], ...] = (
    ("desk", "0", "Desk"),
    ("shelf", "1", "Shelf"),
    ("grid", "2", "Grid"),
    ("bench", "3", "Bench"),
    ("trace", "4", "Trace"),
    ("versus", "5", "Versus"),
    ("writeup", "6", "Write-up"),
)


class Rail(Widget):
    """One entry a place: its key, its name, and how far it is."""

    DEFAULT_CSS = """
    Rail { width: 17; height: 1fr; background: $raised; padding: 1 0 0 0; }
    """

    class Chosen(Message):
        """A place was clicked."""

        def __init__(self, place: str) -> None:
            super().__init__()
            self.place = place

    def __init__(self, here: str) -> None:
        super().__init__(id="rail")
        self.here = here
        self.states: dict[str, str] = {}

    def show(self, states: dict[str, str]) -> None:
        """Show how far each place is."""
        if states != self.states:
            self.states = states
            self.refresh()

    def _pitch(self) -> int:
        return 4 if self.size.height >= 34 else 3

    def render(self) -> Text:
        """The entries, the one of this place on brass."""
        palette = palette_of(self.app.theme)
        text = Text()
        width = self.size.width
        gap = self._pitch() - 2
        for place, key, name in PLACES:
            here = place == self.here
            state = self.states.get(place, "")
            if here:
                ground = f"{palette.on_brass} on {palette.brass}"
                text.append(f" {key} {name}".ljust(width) + "\n", f"bold {ground}")
                text.append(f"   {state}"[:width].ljust(width) + "\n", ground)
            else:
                text.append(f" {key} ", palette.brass)
                text.append(name + "\n", f"bold {palette.text}")
                colour = palette.quantity["temperature"] if state.startswith("●") else palette.soft
                text.append(f"   {state}"[:width] + "\n", colour)
            text.append("\n" * gap)
        return text

    def on_click(self, event: Click) -> None:
        """A click on an entry goes there."""
        index = (event.y - 1) // self._pitch()
        if 0 <= index < len(PLACES):
            self.post_message(self.Chosen(PLACES[index][0]))
