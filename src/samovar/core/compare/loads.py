"""Several loads side by side, for one figure: who is best under each, and which load is the hardest for each setup."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from samovar.core.compare.criteria import Criterion, criterion_of
from samovar.core.compare.rungs import Ladder
from samovar.core.measured import AT_LEAST, Measured, combine
from samovar.core.results.figure import Figure

HARDER_BY = {"temperature": 1.0, "power": 1.0, "noise": 1.0, "clock": -1.0}
"""Of these quantities a load's own value tells how hard it is on a chip: more of the first three, less of the clock. Work,
scores and times of unlike loads are of unlike things."""


@dataclass(frozen=True)
class SideBySide:
    """All loads of one figure.

    Attributes:
        rows: a row a load, in the review's order, judged by its own ladder.
        hardest: in words which load is the hardest, and of which setups that holds.
        tells: whether the figure tells that at all.
    """

    rows: tuple[Criterion, ...]
    hardest: Mapping[str, tuple[str, ...]]
    tells: bool


def loads_side_by_side(figure: Figure, ladders: Mapping[str, Ladder], margin: float) -> SideBySide:
    """The loads side by side.

    Args:
        figure: what is compared.
        ladders: of each load, in the review's order.
        margin: what counts as a practical difference, in the figure's unit.
    """
    rows = []
    for load, ladder in ladders.items():
        row = criterion_of(figure, ladder)
        if row is not None:
            rows.append(replace(row, label=load))
    sign = HARDER_BY.get(figure.quantity)
    hardest: dict[str, tuple[str, ...]] = {}
    for name in dict.fromkeys(n for r in rows for n in r.cells) if sign is not None else ():
        words = _hardest(figure, ladders, name, sign or 1.0, margin)
        if words:
            hardest[words] = (*hardest.get(words, ()), name)
    return SideBySide(tuple(rows), hardest, sign is not None)


def _hardest(
    figure: Figure, ladders: Mapping[str, Ladder], setup: str, sign: float, margin: float
) -> str | None:
    """The load that asks most of a setup, with what the next one asks less, or that the two are level; None where neither is
    shown. The runs of two loads are two experiments: their intervals are joined."""
    known: list[tuple[str, Measured]] = []
    for load, ladder in ladders.items():
        rung = ladder.rung(setup)
        if rung is not None and rung in ladder.own:
            known.append((load, rung.figure))
    if len(known) < 2:
        return None
    known.sort(key=lambda x: -sign * x[1].value)
    (first, most), (second, next_most) = known[0], known[1]
    if most.half_width is None or next_most.half_width is None:
        return None
    gap, half = abs(most.value - next_most.value), combine(most.half_width, next_most.half_width)
    if most.bound is not None or next_most.bound is not None:
        # A value at its limit is at least this: the one above a measured one is harder still.
        told = most.bound == AT_LEAST and next_most.bound is None and sign > 0.0 and gap > half
        return (
            f"{first} is harder than {second} by at least {figure.text(Measured(gap, half))}"
            if told
            else None
        )
    if gap > half and gap + half >= margin:
        return f"{first} is harder than {second} by {figure.text(Measured(gap, half))}"
    return f"{' and '.join(sorted((first, second)))} are level" if gap + half < margin else None
