"""What is plugged in, as a table: every channel with its value now and its role, the doubtful ones faint."""

from __future__ import annotations

from rich.text import Text

from samovar.core.quantity import QUANTITIES, value_text
from samovar.figures.palette import Palette
from samovar.sources.protocol import Probed
from samovar.tui.widgets.quiet_table import QuietTable


def fill_plugged(table: QuietTable, found: list[Probed], palette: Palette) -> None:
    """Channel, value now, role; core clocks together on one line."""
    table.clear()
    clocks = [p for p in found if p.channel.quantity == "clock"]
    for p in filter(tells_by_itself, found):
        if len(clocks) > 2 and p in clocks[1:]:
            continue
        name = p.channel.name if p not in clocks or len(clocks) < 3 else f"{len(clocks)} core clocks"
        if p.status == "ok":
            colour = palette.quantity[p.channel.quantity]
            table.add_row(
                name, Text(value_text(p.value, p.channel.unit), colour, justify="right"), p.channel.role
            )
        else:
            faint = palette.faint
            table.add_row(Text(name, faint), Text("–", faint, justify="right"), Text(p.status, faint))


def tells_by_itself(found: Probed) -> bool:
    """Whether a channel means something alone in a list; of a microphone that is its level."""
    return QUANTITIES[found.channel.quantity].told_alone


def plugged_words(found: list[Probed]) -> str:
    """How many channels there are, and how many of use."""
    usable = sum(p.status == "ok" for p in found)
    return f"Plugged in: {usable} of {len(found)} channels usable"


def plugged_hint(found: list[Probed]) -> str:
    """What to do where no temperature can be read; empty where one can."""
    if any(p.channel.quantity == "temperature" and p.status == "ok" for p in found):
        return ""
    return (
        "No temperature sensor can be read here. samovar demo shows Samovar at work;\n"
        "samovar read LOG reads a log made elsewhere."
    )
