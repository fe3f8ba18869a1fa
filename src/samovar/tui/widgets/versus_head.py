"""The line above every view of Versus: what is compared, by what, on which terms."""

from __future__ import annotations

from rich.text import Text

from samovar.archive.rig_comparison import RigComparison
from samovar.core.compare.terms import AS_THEY_RAN
from samovar.core.results.figure import Figure
from samovar.figures.palette import Palette

BY_FIGURE = ("ladder", "trade")
"""The views that rank by one figure."""
TABLES = {"loads": "side by side", "standing": "standing table"}
"""What stands in the ladder's place is called."""


def versus_head(
    palette: Palette, found: RigComparison, view: str, across: Figure, tabled: str, many_rigs: bool, narrow: bool,
) -> Text:  # fmt: skip
    """The line.

    Args:
        palette: the colours in force.
        found: what is compared.
        view: the view's name.
        across: the other figure, of a trade.
        tabled: what stands in the ladder's place: `loads`, `standing`, or nothing.
        many_rigs: the review has more rigs than the one that is seen.
        narrow: there is no room for hints.
    """
    text = Text(no_wrap=True, overflow="ellipsis")
    parts = [(TABLES.get(tabled, view), f"bold {palette.text}")]

    def chosen(before: str, words: str) -> None:
        parts.extend([(before, palette.soft), (words, f"bold {palette.brass}")])

    if view in BY_FIGURE:
        chosen("  by ", found.figure.label)
    if view == "trade":
        chosen(" over ", across.label)
    chosen("  under ", "all loads" if tabled == "loads" else found.load)
    chosen("  ", (AS_THEY_RAN if tabled else found.terms).words)
    if many_rigs:
        chosen("  on ", found.rig)
    if not narrow and view in BY_FIGURE:
        better = f"{'less' if found.figure.lower_is_better else 'more'} is better"
        hint = "↑ ↓ move it" if found.terms != AS_THEY_RAN and not tabled else better
        parts.append((f"   {hint}", palette.soft))
    for words, style in parts:
        text.append(words, style)
    return text
