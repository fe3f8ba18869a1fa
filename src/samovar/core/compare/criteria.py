"""A table of criteria: for each a value a setup, and a winner or `level` by the model's own verdict."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from samovar.core.compare.rungs import Ladder
from samovar.core.results.figure import Figure

WINS, LEVEL, OPEN, ASKED = "wins", "level", "not shown", "asked"

NO_CONTEST = ("power", "settle")
"""Figures in which less or more is no merit by itself."""


@dataclass(frozen=True, slots=True)
class Criterion:
    """One row.

    Attributes:
        label: what it is, with its unit.
        better: `less`, `more`, or empty where neither is.
        cells: what stands for each setup; one that is missing is not known.
        best: the setups that are best in it: one that wins, or those that are level; empty where nothing is shown.
        verdict: wins, level, not shown; or asked, of a demand, whose cells say met, not met or not shown.
        weight: what it counts for in the reviewer's own total; 0 where none was given.
    """

    label: str
    better: str
    cells: Mapping[str, str] = field(default_factory=dict)
    best: tuple[str, ...] = ()
    verdict: str = OPEN
    weight: float = 0.0


def criterion_of(figure: Figure, ladder: Ladder) -> Criterion | None:
    """The row of a figure, judged by its ladder's own differences; None where no setup has it."""
    if not ladder.own:
        return None
    best, verdict = _winner(ladder)
    unit = figure.unit
    return Criterion(
        f"{figure.label}{f', {unit}' if unit else ''}",
        "less" if figure.lower_is_better else "more",
        {r.name: figure.brief(r.figure).removesuffix(unit).strip() for r in ladder.own},
        best,
        verdict,
    )


def _winner(ladder: Ladder) -> tuple[tuple[str, ...], str]:
    own = ladder.own
    first = own[0]
    if len(own) == 1:
        return (), OPEN
    gap = own[1].above
    if first.figure.half_width is None and first.figure.bound is None and ladder.model is None:
        # Known exactly, as prices and dimensions are.
        equal = tuple(r.name for r in own if r.figure.value == first.figure.value)
        return equal, LEVEL if len(equal) > 1 else WINS
    for group in ladder.level:
        if first.name in group:
            return group, LEVEL
    if gap is not None and gap.shown:
        return (first.name,), WINS
    return (), OPEN


def plain_criterion(
    label: str, better: str, values: Mapping[str, float | None], text: Mapping[str, str]
) -> Criterion:
    """The row of a value that is known exactly: a height, a price, a warranty."""
    known = {n: v for n, v in values.items() if v is not None}
    if not known or not better:
        return Criterion(label, better, dict(text))
    top = min(known.values()) if better == "less" else max(known.values())
    best = tuple(n for n, v in known.items() if v == top)
    if len(known) < 2:
        return Criterion(label, better, dict(text))
    return Criterion(label, better, dict(text), best, WINS if len(best) == 1 else LEVEL)


def tally(rows: Sequence[Criterion], names: Sequence[str]) -> dict[str, int]:
    """How many criteria each setup wins alone; no total of unlike things, only their count."""
    return {n: sum(r.verdict == WINS and r.best == (n,) for r in rows) for n in names}


def weighed(rows: Sequence[Criterion], names: Sequence[str]) -> dict[str, float]:
    """The sum of the weights of the criteria in which each setup is best or level with the best; empty where no weight was
    given. It is the reviewer's own: the weights are his, and nothing else makes a total of unlike things."""
    if not any(r.weight for r in rows):
        return {}
    return {n: sum(r.weight for r in rows if n in r.best) for n in names}
