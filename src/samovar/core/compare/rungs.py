"""The ladder: setups ranked on one figure, each with its difference from the reference, and which of them are level.

A difference, its interval and its words are one thing: it is `no practical difference` where the whole interval lies within
the margin (two one-sided tests, D. Schuirmann, J. Pharmacokinet. Biopharm. 15 (1987) 657, at half their usual level and
over all that are shown), it `differs` where the interval leaves nothing out, and else it is not shown to.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from samovar.core.compare.estimates import Estimates
from samovar.core.compare.experiment import Experiment, Pass, fit
from samovar.core.compare.pooling import Spread
from samovar.core.compare.simultaneous import Extremes
from samovar.core.measured import AT_LEAST, AT_MOST, COVERAGE_FACTOR, Measured, combine
from samovar.core.results.figure import Figure, RunResult, as_they_ran
from samovar.core.results.result import ELSEWHERE, MEASURED

DIFFERS, LEVEL_WORDS, OPEN = "differs", "no practical difference", "not shown to differ"
_TURNED = {AT_MOST: AT_LEAST, AT_LEAST: AT_MOST}


@dataclass(frozen=True, slots=True)
class Difference:
    """One setup less another.

    Attributes:
        name, other: which less which.
        value, half_width: the difference and its interval, over all that are shown at once; None where nothing tells.
        p: how likely chance alone would give it somewhere among them; None where nothing tells.
        margin: what counts as a practical difference.
        one_pass: a side has a single pass: its scatter is borrowed from the others.
        bound: a side is no more than a bound, and so is the difference: it supports its own side alone.
    """

    name: str
    other: str
    value: float
    half_width: float | None
    p: float | None
    margin: float
    one_pass: bool
    bound: str | None = None

    @property
    def shown(self) -> bool:
        """Whether a difference is shown at all."""
        if self.half_width is None:
            return False
        if self.bound == AT_MOST:
            return self.value + self.half_width < 0.0
        if self.bound == AT_LEAST:
            return self.value - self.half_width > 0.0
        return abs(self.value) > self.half_width

    @property
    def equivalent(self) -> bool:
        """Whether it is shown to be within the margin."""
        return (
            self.bound is None
            and self.half_width is not None
            and abs(self.value) + self.half_width < self.margin
        )

    @property
    def measured(self) -> Measured:
        """The difference with its half-width, and its bound where a side is no more than one."""
        return Measured(self.value, self.half_width, self.bound)

    def words(self) -> str:
        """The finding in words."""
        return LEVEL_WORDS if self.equivalent else DIFFERS if self.shown else OPEN


@dataclass(frozen=True, slots=True)
class Rung:
    """One setup on the ladder: its figure, its passes, its difference from the reference and from the rung above (None
    where there is none), and where its value is from."""

    name: str
    figure: Measured
    passes: int
    difference: Difference | None
    above: Difference | None
    source: str = MEASURED


@dataclass(frozen=True)
class Ladder:
    """All that one figure says of one rig's setups under one load.

    Attributes:
        rungs: best first.
        level: setups that are shown to be practically the same, in their order on the ladder.
        model: what the rungs' intervals come from; None where bounds alone stand there.
        experiment: the passes behind them; None where there are none.
        left_out: setups that have runs but no rung, with the reason.
        cautions: what is to be said of these terms.
    """

    rungs: tuple[Rung, ...] = ()
    level: tuple[tuple[str, ...], ...] = ()
    model: Estimates | None = None
    experiment: Experiment | None = None
    left_out: dict[str, str] = field(default_factory=dict)
    cautions: tuple[str, ...] = ()

    @property
    def own(self) -> tuple[Rung, ...]:
        """The rungs of this bench's runs, without figures from elsewhere."""
        return tuple(r for r in self.rungs if r.source != ELSEWHERE)

    def rung(self, name: str) -> Rung | None:
        """The rung of a setup."""
        return next((r for r in self.rungs if r.name == name), None)

    def difference(self, name: str, other: str, margin: float) -> Difference | None:
        """One setup less another, over all pairs at once; None where one of them has no rung."""
        a, b = self.rung(name), self.rung(other)
        if a is None or b is None or ELSEWHERE in (a.source, b.source):
            return None
        return _gap(a, b, margin, self.model, self.model.all_pairs if self.model is not None else None)


@dataclass(frozen=True, slots=True)
class Margins:
    """What counts as a practical difference: kelvin and decibel as they are, a share of the level else."""

    kelvin: float = 1.0
    share: float = 0.02

    def of(self, figure: Figure, level: float) -> float:
        """The margin of a figure about a level, in its unit."""
        return margin_for(figure, level, self.kelvin, self.share)


def margin_for(figure: Figure, level: float, margin_k: float, margin_share: float) -> float:
    """What counts as a practical difference: kelvin and decibel as they are, a share of the level else."""
    return margin_share * abs(level) if figure.relative else margin_k


def passes_of(cells: Mapping[str, Sequence[RunResult]], figure: Figure, times: float = 1.0) -> list[Pass]:
    """Every finished run's value of a figure, in the order of the runs on the rig; `times`: each multiplied by this."""
    # A run in steps is no pass of a load that stays as it is, unless a setup has no others.
    every = [(name, r) for name, results in cells.items() for r in as_they_ran(results)]
    found = []
    for place, (name, r) in enumerate(every):
        value = figure.of(r)
        if value is None:
            continue
        common, of = r.common(figure)
        order = float(place if r.order is None else r.order)
        half = None if value.half_width is None else value.half_width * times
        scaled = Measured(value.value * times, half, value.bound)
        found.append(Pass(name, order, scaled, min(common * times, half or 0.0), of, r.run))
    return found


def compared(
    cells: Mapping[str, Sequence[RunResult]],
    reference: str | None,
    figure: Figure,
    margin_k: float = 1.0,
    margin_share: float = 0.02,
    prior: Spread | None = None,
    taken: Figure | None = None,
    times: float = 1.0,
) -> Ladder:
    """The setups of one rig that carry a figure, best first, each with its difference from the reference.

    Args:
        cells: setup name to its runs under one load, all on one rig.
        reference: the setup the others are held against.
        figure: what to rank by.
        margin_k, margin_share: the review's margins.
        prior: what a pass's variance was on this bench before.
        taken, times: the figure that is taken of the runs in its place, and what it is multiplied by.
    """
    taken = taken or figure
    passes = passes_of(cells, taken, times)
    experiment = fit(passes, prior)
    plain: list[Rung] = []
    for name in cells:
        mine = [p for p in passes if p.setup == name]
        measured = [p for p in mine if p.value.bound is None]
        if measured and experiment is not None:
            value = experiment.value(name)
        elif mine:
            value = joined([p.value for p in mine]) or mine[0].value
        else:
            continue
        plain.append(Rung(name, value, len(measured or mine), None, None, _source(cells[name], taken)))
    margins = Margins(margin_k, margin_share)
    left_out = _left_out(cells, taken, {r.name for r in plain})
    return climbed(plain, reference, figure, margins, experiment, experiment, left_out)


def best_first(rungs: Sequence[Rung], figure: Figure) -> list[Rung]:
    """Rungs in the order of the ladder."""
    return sorted(rungs, key=lambda r: r.figure.value, reverse=not figure.lower_is_better)


def climbed(
    plain: Sequence[Rung],
    reference: str | None,
    figure: Figure,
    margins: Margins,
    model: Estimates | None,
    experiment: Experiment | None = None,
    left_out: dict[str, str] | None = None,
    cautions: tuple[str, ...] = (),
) -> Ladder:
    """A ladder of rungs that have their values but no differences yet, whatever model gave them."""
    ranked = best_first(plain, figure)
    base = next((r for r in ranked if r.name == reference), None)
    known = base is not None and base.figure.bound is None and model is not None
    family = model.from_reference(base.name) if known and model is not None and base is not None else None
    pairs = model.all_pairs if model is not None else None
    rungs: list[Rung] = []
    for place, rung in enumerate(ranked):
        gap = above = None
        if base is not None and base is not rung:
            gap = _gap(rung, base, margins.of(figure, base.figure.value), model, family)
        if place:
            other = ranked[place - 1]
            above = _gap(rung, other, margins.of(figure, other.figure.value), model, pairs)
        rungs.append(replace(rung, difference=gap, above=above))
    found = Ladder(tuple(rungs), (), model, experiment, left_out or {}, cautions)
    return replace(found, level=_level(found, figure, margins))


def _gap(a: Rung, b: Rung, margin: float, model: Estimates | None, family: Extremes | None) -> Difference:
    if a.figure.bound is not None or b.figure.bound is not None or model is None:
        return _of_bounds(a, b, margin, model)
    gap = model.gap(a.name, b.name, family)
    return Difference(a.name, b.name, *gap, margin, min(a.passes, b.passes) < 2)


def _of_bounds(a: Rung, b: Rung, margin: float, model: Estimates | None) -> Difference:
    """A difference of which a side is no more than a bound: shown only on the side that the bound leaves open none of."""
    value = a.figure.value - b.figure.value
    # What b may be at most, the difference is at least: a bound changes sides with its sign.
    sides = {a.figure.bound, _TURNED.get(b.figure.bound or "")} - {None}
    bound = sides.pop() if len(sides) == 1 else None
    one_pass = min(a.passes, b.passes) < 2
    if bound is None:
        # At most the one, at least the other: nothing can be told of what lies between.
        return Difference(a.name, b.name, value, None, None, margin, one_pass, AT_MOST)
    pairs = model.all_pairs if model is not None else None
    if pairs is None and max(a.passes, b.passes) < 2:
        # Nothing tells how a pass scatters.
        return Difference(a.name, b.name, value, None, None, margin, one_pass, bound)
    wider = pairs.critical / COVERAGE_FACTOR if pairs is not None else 1.0
    half = combine((a.figure.half_width or 0.0) * wider, (b.figure.half_width or 0.0) * wider)
    t = abs(value) / half * COVERAGE_FACTOR if half > 0.0 else math.inf
    right = value < 0.0 if bound == AT_MOST else value > 0.0
    p = math.erfc(t / math.sqrt(2.0)) if right else 1.0
    return Difference(a.name, b.name, value, half, p, margin, one_pass, bound)


def _level(found: Ladder, figure: Figure, margins: Margins) -> tuple[tuple[str, ...], ...]:
    """The longest stretches of the ladder within which every pair is shown to be practically the same."""
    names = [r.name for r in found.rungs if r.figure.bound is None]
    level: dict[str, float] = {r.name: r.figure.value for r in found.rungs}

    def same(a: str, b: str) -> bool:
        gap = found.difference(a, b, margins.of(figure, level[b]))
        return gap is not None and gap.equivalent

    out: list[tuple[str, ...]] = []
    end_before = 0
    for begin in range(len(names)):
        end = begin + 1
        while end < len(names) and all(same(names[k], names[end]) for k in range(begin, end)):
            end += 1
        if end - begin > 1 and end > end_before:
            out.append(tuple(names[begin:end]))
        end_before = max(end_before, end)
    return tuple(out)


def _source(results: Sequence[RunResult], figure: Figure) -> str:
    found = [one for r in results if r.finished and (one := figure.result_among(r.results)) is not None]
    return found[-1].source if found else MEASURED


def _left_out(cells: Mapping[str, Sequence[RunResult]], figure: Figure, ranked: set[str]) -> dict[str, str]:
    """Why setups that have runs have no rung."""
    out: dict[str, str] = {}
    for name, results in cells.items():
        if name in ranked:
            continue
        if results and not any(r.finished for r in results):
            out[name] = "did not finish"
        elif any(r.finished and (r.reading.window is None or not r.reading.window.found) for r in results):
            out[name] = (
                f"no {figure.label}: it never settled"
                if figure.statistic in ("steady", "rise")
                else f"no {figure.label} in its runs"
            )
        else:
            out[name] = f"no {figure.label} in its runs"
    return out


def joined(passes: Sequence[Measured]) -> Measured | None:
    """The mean of several values, with the larger of their own uncertainty and what they scatter; of bounds alone the one
    that all keep."""
    measured = [p for p in passes if p.bound is None]
    told = measured or list(passes)
    if not told:
        return None
    own = math.sqrt(sum((p.half_width or 0.0) ** 2 for p in told) / len(told))
    if not measured:
        # Of bounds on either side only one kind can be told at once: the one there are more of.
        bound = max(sorted({p.bound or "" for p in told}), key=lambda b: sum(p.bound == b for p in told))
        values = [p.value for p in told if p.bound == bound]
        return Measured(max(values) if bound == AT_MOST else min(values), own or None, bound)
    mean = sum(p.value for p in told) / len(told)
    if len(told) < 2:
        return Measured(mean, own or None)
    from scipy.special import stdtrit

    variance = sum((p.value - mean) ** 2 for p in told) / (len(told) - 1)
    over_passes = float(stdtrit(len(told) - 1, 0.975)) * math.sqrt(variance / len(told))
    return Measured(mean, max(own, over_passes) or None)
