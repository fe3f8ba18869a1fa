"""What stands at the head of the Grid's rows and columns, and how long the rest of a review takes."""

from __future__ import annotations

from rich.text import Text

from samovar.archive.records import Setup
from samovar.core.money import amount_text
from samovar.core.setup_price import SetupPrice
from samovar.figures.palette import Palette


def setup_head(palette: Palette, setup: Setup, price: SetupPrice) -> Text:
    """A setup: its name, whether it is the reference, the price of all it is made of."""
    text = Text(overflow="ellipsis")
    text.append(setup.name, f"bold {palette.text}")
    if setup.reference:
        text.append("\nreference", palette.brass)
    words = amount_text(price.amount, price.currency) if price.amount is not None else "no price"
    text.append(f"\n{words}", palette.soft)
    return text


def load_head(palette: Palette, load: str, course: str) -> Text:
    """A load and its course."""
    text = Text(no_wrap=True, overflow="ellipsis")
    text.append(f"{load}\n", f"bold {palette.text}")
    text.append(course, palette.soft)
    return text


def hours(seconds: float) -> str:
    """Bench time as one plans it: to the minute, beyond three hours to ten."""
    minutes = round(seconds / 60.0)
    if minutes < 60:
        return f"{max(1, minutes)} min"
    if minutes > 180:
        minutes = 10 * round(minutes / 10)
    return f"{minutes // 60} h {minutes % 60:02d} min"
