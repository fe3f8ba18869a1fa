"""Entries of a form that are chosen, not typed: one of several, or any number of several."""

from __future__ import annotations

from collections.abc import Sequence

from rich.text import Text
from textual import events
from textual.widget import Widget

from samovar.tui.theme import palette_of


class ChoiceLine(Widget, can_focus=True):
    """One of several on one line: left and right go through them, a letter jumps to the next that begins so."""

    DEFAULT_CSS = """
    ChoiceLine { width: 40; height: 1; background: $background; padding: 0 1; }
    ChoiceLine:focus { background: $line; }
    FormSheet.-narrow ChoiceLine { width: 32; }
    """

    def __init__(self, choices: Sequence[str], value: str) -> None:
        super().__init__()
        self._choices = list(choices)
        self._at = self._choices.index(value) if value in self._choices else 0

    @property
    def value(self) -> str:
        """The choice."""
        return self._choices[self._at] if self._choices else ""

    def turn(self, by: int) -> None:
        """The next or the one before, around the ends."""
        if self._choices:
            self._at = (self._at + by) % len(self._choices)
            self.refresh()

    def on_click(self) -> None:
        """A click goes on to the next."""
        self.focus()
        self.turn(1)

    def on_key(self, event: events.Key) -> None:
        """Arrows and space go through the choices, a letter jumps. Handled here and not as bindings: those go by
        whatever has the focus once they are looked up, which a fast Enter behind them may have moved."""
        if event.key in ("left", "right", "space"):
            self.turn(-1 if event.key == "left" else 1)
            event.stop()
        elif event.character and event.character.isalnum():
            order = [(self._at + 1 + k) % len(self._choices) for k in range(len(self._choices))]
            letter = event.character.lower()
            found = next((k for k in order if self._choices[k].lower().startswith(letter)), None)
            if found is not None:
                self._at = found
                self.refresh()
                event.stop()

    def render(self) -> Text:
        """The choice between its arrows."""
        palette = palette_of(self.app.theme)
        arrows = palette.brass if self.has_focus else palette.faint
        text = Text(no_wrap=True)
        text.append("◂ ", arrows)
        text.append(self.value, f"bold {palette.text}")
        text.append(" ▸", arrows)
        if self.has_focus and len(self._choices) > 2:
            text.append(f"  {self._at + 1} of {len(self._choices)}", palette.soft)
        return text


class PickList(Widget, can_focus=True):
    """Any number of several, in the order they were picked: up and down move, space picks."""

    DEFAULT_CSS = """
    PickList { width: 72; height: auto; max-height: 9; background: $background; padding: 0 1;
        text-wrap: nowrap; text-overflow: ellipsis; }
    PickList:focus { background: $line; }
    FormSheet.-narrow PickList { width: 60; }
    """

    def __init__(self, options: Sequence[tuple[str, str]], value: Sequence[str]) -> None:
        super().__init__()
        self._options = list(options)
        known = [name for name, _ in self._options]
        self._chosen = [v for v in value if v in known]
        # What is picked already comes first, so that it is seen at once.
        self._options.sort(key=lambda o: self._chosen.index(o[0]) if o[0] in self._chosen else len(known))
        self._at = 0

    @property
    def value(self) -> tuple[str, ...]:
        """What is picked, in order."""
        return tuple(self._chosen)

    def get_content_height(self, *_: object) -> int:
        """One row an option, up to nine."""
        return max(1, min(9, len(self._options)))

    def move(self, by: int) -> bool:
        """To another option; False past the ends."""
        if not 0 <= self._at + by < len(self._options):
            return False
        self._at += by
        self.refresh()
        return True

    def pick(self) -> None:
        """Pick it, or put it back."""
        if not self._options:
            return
        name = self._options[self._at][0]
        if name in self._chosen:
            self._chosen.remove(name)
        else:
            self._chosen.append(name)
        self.refresh()

    def on_key(self, event: events.Key) -> None:
        """Space picks what is under the pointer."""
        if event.key == "space":
            self.pick()
            event.stop()

    def on_click(self, event: events.Click) -> None:
        """A click picks."""
        self.focus()
        first = self._first()
        if 0 <= first + event.y < len(self._options):
            self._at = first + event.y
            self.pick()

    def _first(self) -> int:
        shown = max(1, self.size.height)
        return max(0, min(self._at - shown // 2, len(self._options) - shown))

    def render(self) -> Text:
        """The options, each with its place in the order where it is picked."""
        palette = palette_of(self.app.theme)
        text = Text(no_wrap=True, overflow="ellipsis")
        if not self._options:
            return Text("nothing to choose from yet", palette.soft)
        first = self._first()
        for k in range(first, min(len(self._options), first + max(1, self.size.height))):
            name, words = self._options[k]
            here = self.has_focus and k == self._at
            text.append("▸ " if here else "  ", palette.brass)
            picked = name in self._chosen
            text.append(
                f"[{self._chosen.index(name) + 1}] " if picked else "[ ] ",
                palette.brass if picked else palette.faint,
            )
            text.append(name, f"bold {palette.text}" if picked or here else palette.text)
            text.append(f"  {words}" if words else "", palette.soft)
            beyond = len(self._options) - first - self.size.height
            if k == first + self.size.height - 1 and beyond > 0:
                text.append(f"  ▾ {beyond} more", palette.brass)
            text.append("\n")
        return text
