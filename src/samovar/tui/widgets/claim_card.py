"""A claim with what became of it: its state, the finding, its evidence."""

from __future__ import annotations

from rich.text import Text

from samovar.archive.records import Claim, Review
from samovar.core.claims import CHANGE, KINDS, Checked
from samovar.figures.palette import Palette

_STATE_MARK = {"holds": "✔", "weak": "≈", "contradicted": "✕", "stale": "↻", "open": "…"}


def claim_text(palette: Palette, review: Review | None, claim: Claim, checked: Checked) -> Text:
    """The claim as it stands in the list."""
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
    setup = review.setup(claim.setup_id) if review else None
    other = review.setup(claim.other_id) if review else None
    if setup is not None:
        text.append(f"  {setup.name} {_claimed(claim)}{' ' + other.name if other else ''}", palette.soft)
    text.append(f"\n{checked.sentence}\n", palette.text)
    text.append(", ".join(checked.evidence), palette.soft)
    return text


def _claimed(claim: Claim) -> str:
    """What a claim says, as it was picked."""
    about = claim.about or {}
    return (
        f"{about.get('what')} changed {about.get('channel')}" if claim.kind == CHANGE else KINDS[claim.kind]
    )
