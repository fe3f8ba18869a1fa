"""Like for like, in words: what differs between the setups, and what a product gains on each of several rigs."""

from __future__ import annotations

from collections.abc import Sequence

from rich.text import Text

from samovar.archive.rig_comparison import Across
from samovar.core.compare.audit import AuditItem
from samovar.core.results.figure import Figure
from samovar.figures.palette import Palette

MARK = {"same": "=", "corrected": "≈", "caution": "▲"}


def audit_text(palette: Palette, items: Sequence[AuditItem], gains: Sequence[Across], figure: Figure) -> Text:
    """The audit, then each product that was fitted on several rigs with its gain on each, signs and all."""
    text = Text()
    text.append("like for like?\n", f"bold {palette.brass}")
    for item in items:
        colour = palette.caution if item.level == "caution" else palette.good
        text.append(f"{MARK[item.level]} ", f"bold {colour}")
        text.append(f"{item.text}\n", palette.text if item.level == "caution" else palette.soft)
    for k, gain in enumerate(gains):
        if k == 0 or gain.product != gains[k - 1].product:
            text.append(f"{gain.product} on each rig\n", f"bold {palette.brass}")
        words = figure.difference_text(gain.difference.measured, signed=True)
        text.append(f"  {words} ", f"bold {palette.text}")
        text.append(f"{gain.rig}: {gain.difference.words()}\n", palette.soft)
    return text
