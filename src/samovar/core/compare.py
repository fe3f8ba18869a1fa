"""Setups held against each other: intervals over passes, differences, equivalence, and the audit.

Sources: B. L. Welch, "The generalization of 'Student's' problem when several different population
variances are involved", Biometrika 34 (1947), with Satterthwaite's degrees of freedom; D. Schuirmann,
"A comparison of the two one-sided tests procedure and the power approach", J. Pharmacokinet.
Biopharm. 15 (1987); S. Holm, "A simple sequentially rejective multiple test procedure", Scand. J.
Statist. 6 (1979).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from samovar.core.idle import BUSY_PCT
from samovar.core.results.figure import Figure, RunResult
from samovar.core.uncertainty import AT_LEAST, AT_MOST, COVERAGE_FACTOR, Measured, combine

SIGNIFICANCE = 0.05


@dataclass(frozen=True, slots=True)
class Sample:
    """The passes of one cell under one figure: each pass's value with its own half-width. `bound`: none of them is
    more than a bound; the value is then the bound that holds for all of them, never a mean."""

    name: str
    passes: tuple[Measured, ...]
    bound: str | None = None

    @property
    def n(self) -> int:
        """How many passes."""
        return len(self.passes)

    @property
    def mean(self) -> float:
        """Mean over the passes; of bounds the one that all of them keep."""
        if self.bound is not None:
            values = [p.value for p in self.passes]
            return max(values) if self.bound == AT_MOST else min(values)
        return sum(p.value for p in self.passes) / self.n

    def spread(self) -> float:
        """Variance of one pass about the mean, as the passes show it; 0 for one pass."""
        if self.n < 2:
            return 0.0
        return sum((p.value - self.mean) ** 2 for p in self.passes) / (self.n - 1)

    def own(self) -> float:
        """The standard uncertainty that each pass claims for itself (root mean square). Sensor and
        meter are the same in every pass, so averaging passes does not make it smaller."""
        return math.sqrt(sum(((p.half_width or 0.0) / COVERAGE_FACTOR) ** 2 for p in self.passes) / self.n)

    def interval(self) -> Measured:
        """The mean with its 95 % half-width: Student's over the passes, but never less than a pass
        claims for itself: two passes that agree by luck do not make the bench better than its sensors."""
        own = COVERAGE_FACTOR * self.own()
        if self.bound is not None:
            return Measured(self.mean, own or None, self.bound)
        if self.n < 2:
            return Measured(self.mean, own or None)
        over_passes = student_quantile(0.975, self.n - 1) * math.sqrt(self.spread() / self.n)
        return Measured(self.mean, max(own, over_passes) or None)


@dataclass(frozen=True, slots=True)
class Difference:
    """One setup less another. `p` is two-sided, already adjusted by Holm where many were compared;
    `equivalent`: shown to lie within the margin; `one_pass`: at least one side has a single pass;
    `bound`: a side is no more than a bound, and so is the difference: it supports its own side alone."""

    name: str
    other: str
    value: float
    half_width: float | None
    p: float
    margin: float
    equivalent: bool
    one_pass: bool
    bound: str | None = None

    @property
    def shown(self) -> bool:
        """Whether a difference is shown at all."""
        return self.p < SIGNIFICANCE

    @property
    def measured(self) -> Measured:
        """The difference with its half-width, and its bound where a side is no more than one."""
        return Measured(self.value, self.half_width, self.bound)

    def words(self) -> str:
        """The finding in words."""
        if self.equivalent:
            return "no practical difference"
        return "differs" if self.shown else "not shown to differ"


@dataclass(frozen=True, slots=True)
class Rung:
    """One setup on the ladder: its figure, its passes, its difference from the reference and from the
    rung above (None for the topmost)."""

    name: str
    figure: Measured
    passes: int
    difference: Difference | None
    above: Difference | None


@dataclass(frozen=True, slots=True)
class AuditItem:
    """One point of the audit. `level` is same, corrected, or caution."""

    level: str
    text: str


def student_quantile(p: float, dof: float) -> float:
    """Quantile of Student's distribution."""
    from scipy.special import stdtrit

    return float(stdtrit(dof, p))


def _two_sided(t: float, dof: float) -> float:
    from scipy.special import stdtr

    return float(2.0 * stdtr(dof, -abs(t)))


def difference(a: Sample, b: Sample, margin: float) -> Difference:
    """Welch's interval for a less b, and the two one-sided tests against the margin.

    The passes' own uncertainty is the least that is believed: with one pass on a side there is no
    spread to learn from and it stands in alone (k = 2), and the finding says so.

    Raises:
        ValueError: a side without passes.
    """
    if not a.n or not b.n:
        raise ValueError("a difference needs at least one pass on each side")
    gap = a.mean - b.mean
    one_pass = a.n < 2 or b.n < 2
    if a.bound is not None or b.bound is not None:
        return _of_bounds(a, b, margin)
    own = combine(a.own() / math.sqrt(a.n), b.own() / math.sqrt(b.n))
    half_width, reach = COVERAGE_FACTOR * own, 1.645 * own
    p = math.erfc(abs(gap) / own / math.sqrt(2.0)) if own > 0 else float(gap == 0)
    if not one_pass:
        va, vb = a.spread() / a.n, b.spread() / b.n
        error = math.sqrt(va + vb)
        if error > 0:
            dof = (va + vb) ** 2 / (va**2 / (a.n - 1) + vb**2 / (b.n - 1))
            half_width = max(half_width, student_quantile(0.975, dof) * error)
            reach = max(reach, student_quantile(0.95, dof) * error)
            p = max(p, _two_sided(gap / error, dof))
    equivalent = not one_pass and abs(gap) + reach < margin
    return Difference(a.name, b.name, gap, half_width or None, p, margin, equivalent, one_pass)


def _of_bounds(a: Sample, b: Sample, margin: float) -> Difference:
    """A difference of which a side is no more than a bound: shown only on the side that the bound leaves open none of."""
    gap = a.mean - b.mean
    half_width = COVERAGE_FACTOR * combine(a.own(), b.own())
    # What b may be at most, the difference is at least: a bound changes sides with its sign.
    turned = {AT_MOST: AT_LEAST, AT_LEAST: AT_MOST}
    sides = {a.bound, turned.get(b.bound or "")} - {None}
    bound = sides.pop() if len(sides) == 1 else None
    shown = (bound == AT_MOST and gap + half_width < 0) or (bound == AT_LEAST and gap - half_width > 0)
    return Difference(
        a.name, b.name, gap, half_width or None, 0.0 if shown else 1.0, margin, False, a.n < 2 or b.n < 2,
        bound or (AT_MOST if a.bound == AT_MOST else AT_LEAST),
    )  # fmt: skip


def holm(values: Sequence[float]) -> list[float]:
    """Holm's adjusted p-values, in the order given."""
    order = sorted(range(len(values)), key=lambda k: values[k])
    out = [0.0] * len(values)
    running = 0.0
    for rank, k in enumerate(order):
        running = max(running, min(1.0, (len(values) - rank) * values[k]))
        out[k] = running
    return out


def sample_of(name: str, results: Sequence[RunResult], measure: Figure) -> Sample | None:
    """The passes of a cell that carry the figure; None where none does. A bound is never averaged with what was
    measured: it counts where there is nothing else."""
    every = [m for m in (measure.of(r) for r in results if r.finished) if m is not None]
    passes = tuple(m for m in every if m.bound is None)
    if passes:
        return Sample(name, passes)
    # Of bounds on either side only one kind can be told at once: the one there are more of.
    for bound in sorted({m.bound for m in every if m.bound}, key=lambda b: -sum(m.bound == b for m in every)):
        return Sample(name, tuple(m for m in every if m.bound == bound), bound)
    return None


def margin_for(measure: Figure, level: float, margin_k: float, margin_share: float) -> float:
    """What counts as a practical difference: kelvin and decibel as they are, a share of the level else."""
    return margin_share * abs(level) if measure.relative else margin_k


def ladder(
    cells: Mapping[str, Sequence[RunResult]],
    reference: str | None,
    measure: Figure,
    margin_k: float = 1.0,
    margin_share: float = 0.02,
) -> list[Rung]:
    """The setups that carry a measure, best first, each with its difference from the reference.

    Args:
        cells: setup name to its runs under one load.
        reference: the setup the others are held against.
        measure: what to rank by.
        margin_k, margin_share: the review's margins.
    """
    samples = [s for s in (sample_of(n, r, measure) for n, r in cells.items()) if s is not None]
    samples.sort(key=lambda s: s.mean if measure.lower_is_better else -s.mean)
    base = next((s for s in samples if s.name == reference), None)
    gaps: dict[str, Difference] = {}
    if base is not None:
        others = [s for s in samples if s is not base]
        raw = [difference(s, base, margin_for(measure, base.mean, margin_k, margin_share)) for s in others]
        for found, p in zip(raw, holm([d.p for d in raw]), strict=True):
            gaps[found.name] = Difference(
                found.name,
                found.other,
                found.value,
                found.half_width,
                p,
                found.margin,
                found.equivalent,
                found.one_pass,
                found.bound,
            )
    rungs: list[Rung] = []
    for k, sample in enumerate(samples):
        above = None
        if k:
            margin = margin_for(measure, sample.mean, margin_k, margin_share)
            above = difference(sample, samples[k - 1], margin)
        rungs.append(Rung(sample.name, sample.interval(), sample.n, gaps.get(sample.name), above))
    return rungs


def audit(
    cells: Mapping[str, Sequence[RunResult]], reference: str | None, measure: Figure
) -> list[AuditItem]:
    """Like for like? What differs between the cells, what was corrected, what cannot be."""
    items: list[AuditItem] = []
    everything = [(name, r) for name, results in cells.items() for r in results]
    if not everything:
        return items
    rooms = [
        (n, r.reading.thermal.room_c) for n, r in everything if r.reading.thermal and r.reading.thermal.room_c
    ]
    if len(rooms) < len([r for _, r in everything if r.finished]):
        items.append(
            AuditItem(
                "caution", "the room was not measured in every run: rises cannot be held against each other"
            )
        )
    if rooms:
        low, high = min(v for _, v in rooms), max(v for _, v in rooms)
        spread = high - low
        if spread > 3.0:
            items.append(
                AuditItem(
                    "caution",
                    f"room from {low:.1f} to {high:.1f} °C: the rise corrects for it, but leakage and fan curves do not follow",
                )
            )
        elif measure.key in ("rise", "resistance"):
            items.append(
                AuditItem("corrected", f"room from {low:.1f} to {high:.1f} °C, taken off by the rise")
            )
        else:
            items.append(
                AuditItem("same" if spread < 1.0 else "caution", f"room from {low:.1f} to {high:.1f} °C")
            )
    limited = [n for n in cells if any(r.reading.judgement in ("throttles", "rides-limit") for r in cells[n])]
    if limited and measure.key in ("rise", "peak", "resistance"):
        items.append(
            AuditItem(
                "caution",
                f"{listed(limited)} at the temperature limit: there the rise tells nothing, look at power, clock or work",
            )
        )
    powers = [
        p.value for _, r in everything if (p := r.reading.steady_mean("power", ("package",))) is not None
    ]
    if measure.key in ("rise", "peak") and powers and max(powers) - min(powers) > 0.03 * max(powers):
        items.append(
            AuditItem(
                "caution",
                f"heat from {min(powers):.0f} to {max(powers):.0f} W: compare resistance for equal heat",
            )
        )
    elif powers and max(powers) - min(powers) <= 0.03 * max(powers):
        items.append(AuditItem("same", f"heat within {max(powers) - min(powers):.1f} W"))
    single = [n for n, results in cells.items() if sum(r.finished for r in results) == 1]
    if single:
        items.append(AuditItem("caution", f"one pass only: {listed(single)}; the interval is the run's own"))
    unsettled = sorted(
        {n for n, r in everything if r.finished and (r.reading.window is None or not r.reading.window.found)}
    )
    if unsettled:
        items.append(AuditItem("caution", f"never settled: {listed(unsettled)}; left out of steady figures"))
    busy = [
        f"{n} ({r.reading.idle_load_pct:.0f} %)"
        for n, r in everything
        if (r.reading.idle_load_pct or 0) > BUSY_PCT
    ]
    if busy:
        items.append(AuditItem("caution", f"busy while it was to be idle: {listed(sorted(set(busy)))}"))
    ended = [(n, r) for n, r in everything if r.state == "did-not-finish"]
    for name, result in ended:
        items.append(
            AuditItem(
                "caution", f"{name} did not finish ({result.run}): {result.reason or 'reason not known'}"
            )
        )
    if reference is None or reference not in cells or not cells[reference]:
        items.append(AuditItem("caution", "no run of the reference under this load yet"))
    rates = {round(r.reading.interval_s or 0.0, 2) for _, r in everything}
    if len(rates) > 1:
        items.append(AuditItem("caution", "recorded at different rates: peaks are not on equal terms"))
    else:
        items.append(AuditItem("same", f"one sample every {rates.pop():g} s in all runs"))
    return items


def listed(names: Sequence[str]) -> str:
    """Names as a sentence has them: `A, B and C`."""
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " and " + names[-1]


def joined(passes: Sequence[Measured]) -> Measured | None:
    """The mean of several values, with the larger of their own uncertainty and their spread; of bounds alone the one
    that all keep."""
    measured = tuple(p for p in passes if p.bound is None)
    if measured:
        return Sample("", measured).interval()
    return Sample("", tuple(passes), passes[0].bound).interval() if passes else None
