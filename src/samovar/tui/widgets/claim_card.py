"""A claim with what became of it: its state, the finding, its evidence."""

from __future__ import annotations

from rich.text import Text

from samovar.archive.records import Claim
from samovar.core.claims.judged import Checked
from samovar.figures.palette import Palette

_STATE_MARK = {"holds": "✔", "weak": "≈", "contradicted": "✕", "stale": "↻", "open": "…"}


def claim_text(palette: Palette, made: str, claim: Claim, checked: Checked) -> Text:
    """The claim as it stands in the list; `made` is how it was put."""
    colours = {
        "holds": palette.good,
        "weak": palette.caution,
        "contradicted": palette.bad,
        "stale": palette.quantity["noise"],
    }
    colour = colours.get(checked.state, palette.soft)
    text = Text()
    text.append(f"{_STATE_MARK[checked.state]} {checked.state}", f"bold {colour}")
    if claim.accepted is not None and checked.state != "stale":
        text.append("  accepted", palette.soft)
    text.append(f"\n{made}\n", palette.text)
    found = checked.sentence if checked.sentence != made else ""
    text.append(found, palette.soft)
    return text


def evidence_text(palette: Palette, checked: Checked) -> Text:
    """What a claim stands on."""
    return Text(", ".join(checked.evidence), palette.faint)
