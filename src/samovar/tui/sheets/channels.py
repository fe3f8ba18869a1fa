"""A sheet that says which channels are drawn, and whether a chip's cores are one band."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen
from textual.widgets import OptionList
from textual.widgets.option_list import Option

from samovar.core.quantity import Channel
from samovar.tui.channel_view import GROUPED, ChannelView, cores_of, is_band, key_of
from samovar.tui.widgets.plain import Static


class ChannelsSheet(ModalScreen[ChannelView | None]):
    """Enter or space shows or hides a channel, or joins cores to a band and takes them apart; Escape keeps it."""

    CSS = """
    ChannelsSheet { align: center middle; background: $background 60%; }
    ChannelsSheet > Vertical { width: 78; max-width: 94%; height: auto; max-height: 92%; background: $raised;
        border: round $primary; padding: 0 2; }
    ChannelsSheet .sheet-title { color: $primary; text-style: bold; margin-bottom: 1; }
    ChannelsSheet OptionList { height: auto; max-height: 30; background: $raised; border: none; padding: 0; }
    ChannelsSheet OptionList > .option-list--option-highlighted { background: $primary; color: $on-brass; }
    ChannelsSheet .sheet-foot { color: $soft; margin-top: 1; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape", "keep", "Keep", tooltip="keep the choice and close"),
        Binding("space", "switch", "Show or hide", show=False, priority=True),
        Binding("a", "everything", "All", show=False, tooltip="show everything"),
    ]

    def __init__(self, channels: Sequence[Channel], view: ChannelView) -> None:
        super().__init__()
        self._view = view
        self._lines: list[tuple[str, str]] = []
        self._names: dict[str, tuple[str, str]] = {}
        for quantity in GROUPED:
            cores = cores_of(channels, quantity)
            if cores:
                self._lines.append(("apart", quantity))
                self._names[quantity] = (f"{len(cores)} cores' {quantity}", "")
        for channel in channels:
            if not is_band(channel):
                key = key_of(channel)
                self._lines.append(("hidden", key))
                self._names[key] = (channel.name, f"{channel.quantity}, {channel.role}")

    def compose(self) -> ComposeResult:
        """The title, the channels, the keys."""
        with Vertical():
            yield Static("Channels drawn: all are recorded, whatever is shown", classes="sheet-title")
            yield OptionList(*(Option(self._line(k)) for k in range(len(self._lines))))
            yield Static("Enter show or hide   a show all   Esc keep", classes="sheet-foot")

    def _line(self, number: int) -> Text:
        kind, key = self._lines[number]
        name, words = self._names[key]
        text = Text(no_wrap=True, overflow="ellipsis")
        if kind == "apart":
            state = "one by one" if key in self._view.apart else "one band: least, median, greatest"
            text.append("≡ ")
        else:
            state = "hidden" if key in self._view.hidden else "shown"
            text.append("  " if key in self._view.hidden else "● ")
        text.append(f"{name[:30]:<31}", "bold" if state != "hidden" else "")
        text.append(f"{state:<10}", "")
        text.append(words, "")
        return text

    def _toggle(self, number: int) -> None:
        kind, key = self._lines[number]
        if kind == "apart":
            self._view = ChannelView(self._view.hidden, self._view.apart ^ {key})
        else:
            self._view = ChannelView(self._view.hidden ^ {key}, self._view.apart)
        self.query_one(OptionList).replace_option_prompt_at_index(number, self._line(number))

    def on_option_list_option_selected(self, message: OptionList.OptionSelected) -> None:
        """Enter."""
        self._toggle(message.option_index)

    def action_switch(self) -> None:
        """Space."""
        highlighted = self.query_one(OptionList).highlighted
        if highlighted is not None:
            self._toggle(highlighted)

    def action_everything(self) -> None:
        """Show all channels; bands stay as they are."""
        self._view = ChannelView(frozenset(), self._view.apart)
        for number in range(len(self._lines)):
            self.query_one(OptionList).replace_option_prompt_at_index(number, self._line(number))

    def action_keep(self) -> None:
        """Close with the choice."""
        self.dismiss(self._view)
