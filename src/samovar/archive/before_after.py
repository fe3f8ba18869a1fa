"""Before and after on one machine: which setup grew out of which, what hands did for it, and what it gained."""

from __future__ import annotations

from dataclasses import dataclass

from samovar.archive.records import Setup
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_on, setups_on
from samovar.core.compare.rungs import Difference, Margins
from samovar.core.results.figure import Figure, figure_of
from samovar.core.setup_changes import hand_work

GAINS = ("rise", "power", "clock", "work", "score", "noise")
"""What a step is told by: degrees, and what was done with them."""


@dataclass(frozen=True)
class Gain:
    """What one figure gained by a step: after less before."""

    figure: Figure
    difference: Difference
    share: float | None

    def words(self) -> str:
        """`rise −14.5 ±0.1 K`; of a figure whose margin is a share, in percent; what was not shown says so."""
        gap = self.difference
        if self.share is not None:
            half = f" ±{100.0 * gap.half_width / self.share:.1f}" if gap.half_width is not None else ""
            percent = round(100.0 * gap.value / self.share, 1) or 0.0
            size = f"{percent:+.1f}{half} %".replace("-", "−")
        else:
            size = self.figure.difference_text(gap.measured, signed=True)
        tail = "" if gap.shown or gap.equivalent else " (not shown)"
        return f"{self.figure.label} {size}{tail}"


@dataclass(frozen=True)
class Step:
    """One setup made from another: by what work of hands, and what it gained."""

    before: str
    after: str
    work: tuple[str, ...]
    gains: tuple[Gain, ...]

    def words(self) -> str:
        """The step in a line."""
        return f"{self.before} → {self.after}: {', '.join(self.work)}; {self.gained()}"

    def gained(self) -> str:
        """What it gained, figure by figure."""
        return ", ".join(g.words() for g in self.gains) or "nothing measured of both yet"


def steps_on(data: ReviewData, load: str, rig: str) -> list[Step]:
    """Every setup of a rig that another one was made into by adding to it; none where setups replace each other."""
    setups = setups_on(data.review, rig)
    out = []
    for after in setups:
        grown = [s for s in setups if s is not after and _within(s, after)]
        if not grown:
            continue
        before = max(grown, key=lambda s: len(s.products) + len(s.changes))
        work = tuple(hand_work(before.arrangement, after.arrangement))
        out.append(Step(before.name, after.name, work, _gains(data, load, rig, before.name, after.name)))
    return out


def _within(part: Setup, whole: Setup) -> bool:
    """Whether a setup is another with something added."""
    fitted = {p.name for p in part.products}, {p.name for p in whole.products}
    same = all(whole.changes.get(k) == v for k, v in part.changes.items())
    return (
        fitted[0] <= fitted[1] and same and (fitted[0] < fitted[1] or len(part.changes) < len(whole.changes))
    )


def _gains(data: ReviewData, load: str, rig: str, before: str, after: str) -> tuple[Gain, ...]:
    margins = Margins(data.review.margin_k, data.review.margin_share)
    found = []
    for key in GAINS:
        one = compare_on(data, load, figure_of(key), rig)
        base = one.ladder.rung(before)
        gap = (
            one.ladder.difference(after, before, margins.of(one.figure, base.figure.value)) if base else None
        )
        if base is not None and gap is not None:
            share = (
                base.figure.value if one.figure.relative and gap.bound is None and base.figure.value else None
            )
            found.append(Gain(one.figure, gap, share))
    return tuple(found)
