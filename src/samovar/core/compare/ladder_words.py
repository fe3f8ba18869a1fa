"""What a ladder says, in a sentence or two: who is best, with whom it is level, and how far from the reference."""

from __future__ import annotations

from samovar.core.compare.audit import listed
from samovar.core.compare.rungs import Ladder, Rung
from samovar.core.measured import Measured
from samovar.core.results.figure import Figure


def ladder_words(ladder: Ladder, figure: Figure, reference: str | None) -> str:
    """The finding of a ladder; empty where nothing stands on it."""
    own = [r for r in ladder.own if r.figure.bound is None]
    bounds = [r for r in ladder.own if r.figure.bound is not None]
    parts = []
    if own:
        parts.append(_lead(ladder, own, figure))
        parts += _against_reference(own, figure, reference)
    for rung in bounds:
        parts.append(f"{rung.name}: {figure.text(rung.figure)}, no more than a bound.")
    return " ".join(parts)


def _lead(ladder: Ladder, own: list[Rung], figure: Figure) -> str:
    first = own[0]
    value = figure.text(first.figure)
    group = next((g for g in ladder.level if first.name in g), ())
    if len(own) == 1:
        return f"{first.name}: {figure.label} {value}."
    if len(group) > 1:
        return f"{listed(list(group))} are level in {figure.label}, {value} for {first.name}."
    way = "least" if figure.lower_is_better else "most"
    second = own[1]
    gap = ladder.difference(first.name, second.name, 0.0) if ladder.model is not None else None
    if gap is not None and gap.shown:
        return f"{first.name} has the {way} {figure.label}, {value}; next is {second.name} with {figure.text(second.figure)}."
    if gap is None or gap.half_width is None:
        return f"{first.name} read the {way} {figure.label}, {value}; nothing tells how a pass scatters."
    return (
        f"{first.name} read the {way} {figure.label}, {value}, and is not shown to differ from {second.name} with "
        f"{figure.text(second.figure)}."
    )


def _against_reference(own: list[Rung], figure: Figure, reference: str | None) -> list[str]:
    """The best one's difference from the reference, where it is shown."""
    first = own[0]
    gap = first.difference
    if gap is None or first.name == reference or not gap.shown:
        return []
    size = figure.difference_text(Measured(abs(gap.value), gap.half_width))
    least = "at least " if gap.bound is not None else ""
    return [f"That is {least}{size} {'less' if gap.value < 0 else 'more'} than {gap.other}, the reference."]
