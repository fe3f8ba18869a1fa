"""What the command palette offers: every action of a place, and those of the program."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import TYPE_CHECKING

from textual.app import SystemCommand
from textual.screen import Screen

from samovar.settings import OFF, ON
from samovar.tui.keeping import COMMANDS, command
from samovar.tui.pixels.layer import switch
from samovar.tui.screens.place import Place
from samovar.tui.widgets.rail import PLACES

if TYPE_CHECKING:
    from samovar.tui.app import SamovarApp


def commands_of(app: SamovarApp, screen: Screen[object]) -> Iterator[SystemCommand]:
    """All of them, where this screen is seen."""
    for place, _, name in PLACES:
        yield SystemCommand(f"Go to {name}", f"Open the {name}", partial(app.action_go, place))
    general: tuple[tuple[str, str, Callable[[], object]], ...] = (
        ("Light or dark", "Switch between the dark and the light theme", app.action_theme),
        (
            "Dots or pixels",
            "Draw curves in dots, or as pictures where the terminal takes them",
            partial(dots_or_pixels, app),
        ),
        ("Keys", "Show the keys of this place", app.action_help),
        ("Find", "Find a review, a run, a product or a mark by any word", app.action_find),
        ("Undo", "Undo the last change", app.action_undo),
        ("Quit", "Leave Samovar", app.action_leave),
    )
    for name, words, act in general:
        yield SystemCommand(name, words, act)
    if not isinstance(screen, Place):
        return
    for name, words, keep in COMMANDS:
        yield SystemCommand(name, words, partial(command, screen, keep))
    for binding in screen.offered_keys():
        yield SystemCommand(
            binding.description,
            binding.tooltip or binding.description,
            lambda action=binding.action: app.call_later(screen.run_action, action),
        )


def dots_or_pixels(app: SamovarApp) -> None:
    """The other of the two, from now on and the next time."""
    app.remember("pixels", ON if switch(app) else OFF)
