"""Like for like? What differs between the setups that are held against each other, what was corrected, what cannot be.

Each question is one function of `QUESTIONS`: it looks at the case and answers with items, or with none.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from samovar.core.compare.experiment import Experiment
from samovar.core.compare.rungs import Ladder
from samovar.core.compare.terms import AS_THEY_RAN, Terms
from samovar.core.facts import Facts
from samovar.core.idle import BUSY_PCT
from samovar.core.results.figure import Figure, RunResult
from samovar.core.results.result import BY_HAND
from samovar.core.setup_changes import Arrangement, differences
from samovar.core.window import BY_HAND as WINDOW_BY_HAND

SAME, CORRECTED, CAUTION = "same", "corrected", "caution"
ROOMS_ALIKE_K, ROOMS_APART_K = 1.0, 3.0
"""Rooms nearer than the first are one room; further apart than the second, leakage and fan curves differ too."""
HEAT_ALIKE = 0.03
"""Heat within this share is the same heat: a power's own half-width and a budget's tolerance."""
LENGTHS_ALIKE = 1.5
"""A load so many times as long as another gives a peak, a least value or a total more time to happen."""
NEEDS_SAME_LENGTH = ("peak", "least", "total", "mean", "spread", "droop")


@dataclass(frozen=True, slots=True)
class AuditItem:
    """One point of the audit. `level` is same, corrected, or caution."""

    level: str
    text: str


@dataclass(frozen=True)
class Case:
    """What is held against what: the ladder's own cells, figure and reference, and what is known of the setups."""

    cells: Mapping[str, Sequence[RunResult]]
    reference: str | None
    figure: Figure
    ladder: Ladder
    arrangements: Mapping[str, Arrangement] = field(default_factory=dict)
    facts: Mapping[str, Facts] = field(default_factory=dict)
    terms: Terms = AS_THEY_RAN

    @cached_property
    def runs(self) -> list[tuple[str, RunResult]]:
        """Every run with its setup."""
        return [(name, r) for name, results in self.cells.items() for r in results]

    @cached_property
    def finished(self) -> list[tuple[str, RunResult]]:
        """Those that ran their course."""
        return [(name, r) for name, r in self.runs if r.finished]

    @property
    def experiment(self) -> Experiment | None:
        """The model behind the ladder."""
        return self.ladder.experiment

    @property
    def of_heat(self) -> bool:
        """Whether the figure follows the heat and the room."""
        return self.figure.quantity == "temperature" and self.figure.statistic != "resistance"


def audit(
    cells: Mapping[str, Sequence[RunResult]],
    reference: str | None,
    figure: Figure,
    ladder: Ladder,
    arrangements: Mapping[str, Arrangement] | None = None,
    facts: Mapping[str, Facts] | None = None,
    terms: Terms = AS_THEY_RAN,
) -> list[AuditItem]:
    """All there is to say of whether these setups were measured on equal terms, cautions first."""
    case = Case(cells, reference, figure, ladder, arrangements or {}, facts or {}, terms)
    if not case.runs:
        return []
    items = [item for question in QUESTIONS for item in question(case)]
    return sorted(items, key=lambda item: item.level != CAUTION)


def listed(names: Sequence[str]) -> str:
    """Names as a sentence has them: `A, B and C`."""
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " and " + names[-1]


def _reference(case: Case) -> Iterator[AuditItem]:
    if case.reference is None or not case.cells.get(case.reference):
        yield AuditItem(CAUTION, "no run of the reference under this load yet")


def _terms(case: Case) -> Iterator[AuditItem]:
    if case.terms != AS_THEY_RAN:
        yield AuditItem(
            CORRECTED, f"{case.terms.words}: worked out from each setup's own runs, not measured there"
        )
    for caution in case.ladder.cautions:
        yield AuditItem(CAUTION, caution)


def _rooms(case: Case) -> Iterator[AuditItem]:
    rooms = [
        t.room_c for _, r in case.finished if (t := r.reading.thermal) is not None and t.room_c is not None
    ]
    if len(rooms) < len(case.finished) and case.of_heat:
        yield AuditItem(
            CAUTION, "the room was not measured in every run: rises cannot be held against each other"
        )
    if not rooms:
        return
    low, high = min(rooms), max(rooms)
    words = f"room from {low:.1f} to {high:.1f} °C"
    if high - low > ROOMS_APART_K:
        yield AuditItem(
            CAUTION, f"{words}: the rise corrects for it, but leakage and fan curves do not follow"
        )
    elif case.figure.statistic in ("rise", "resistance"):
        yield AuditItem(CORRECTED, f"{words}, taken off by the rise")
    else:
        yield AuditItem(SAME if high - low < ROOMS_ALIKE_K or not case.of_heat else CAUTION, words)


def _limit(case: Case) -> Iterator[AuditItem]:
    limited = [
        n
        for n, rs in case.cells.items()
        if any(r.reading.judgement in ("throttles", "rides-limit") for r in rs)
    ]
    if limited and case.figure.key in ("rise", "peak", "resistance"):
        yield AuditItem(
            CAUTION,
            f"{listed(limited)} at the temperature limit: there the rise tells nothing, look at power, clock or work",
        )


def _heat(case: Case) -> Iterator[AuditItem]:
    if case.terms.heat_w is not None:
        return
    powers = [
        p.value for _, r in case.finished if (p := r.reading.steady_mean("power", ("package",))) is not None
    ]
    if not powers:
        return
    low, high = min(powers), max(powers)
    if high - low <= HEAT_ALIKE * high:
        yield AuditItem(SAME, f"heat within {high - low:.1f} W")
    elif case.of_heat:
        yield AuditItem(
            CAUTION, f"heat from {low:.0f} to {high:.0f} W: compare at equal heat, or by resistance"
        )


def _budgets(case: Case) -> Iterator[AuditItem]:
    """Limits and budgets that differ between setups change what the chip is asked to do."""
    for label, unit, field_name in (
        ("temperature limit", "°C", "temperature_limit_c"),
        ("sustained budget", "W", "sustained_power_w"),
        ("burst budget", "W", "burst_power_w"),
    ):
        told = {n: getattr(f.cpu, field_name) for n, f in case.facts.items() if n in case.cells}
        known = {n: v for n, v in told.items() if v is not None}
        if len(set(known.values())) > 1:
            words = ", ".join(f"{n} {v:g} {unit}" for n, v in known.items())
            yield AuditItem(CAUTION, f"{label}s differ: {words}")


def _parts(case: Case) -> Iterator[AuditItem]:
    """A setup that differs from the reference in more than one thing does not tell which of them did it."""
    base = case.arrangements.get(case.reference or "")
    if base is None:
        return
    for name, other in case.arrangements.items():
        if name == case.reference or not case.cells.get(name):
            continue
        products = {kind for kind, _ in (*base.products, *other.products)}
        found = differences(other, base)
        # One cooler in the place of another is one thing, of whatever kind they are.
        off, on = (set(x.products) - set(y.products) for x, y in ((base, other), (other, base)))
        swaps = max(len(off), len(on))
        if swaps + sum(d.what not in products for d in found) > 1:
            yield AuditItem(
                CAUTION,
                f"{name} differs from {case.reference} in more than one thing: {listed([d.what for d in found])}",
            )


def _passes(case: Case) -> Iterator[AuditItem]:
    rungs = [r for r in case.ladder.rungs if r.figure.bound is None]
    single = [r.name for r in rungs if r.passes == 1]
    experiment = case.experiment
    if single and (experiment is None or experiment.pooled is None):
        yield AuditItem(
            CAUTION, f"one pass only: {listed(single)}; no setup has a second, so no difference is claimed"
        )
    elif single:
        yield AuditItem(
            CAUTION, f"one pass only: {listed(single)}; how a pass scatters is borrowed from the others"
        )


def _order(case: Case) -> Iterator[AuditItem]:
    experiment = case.experiment
    if experiment is None or len(experiment.setups) < 2:
        return
    if experiment.unequal:
        yield AuditItem(
            CAUTION, "the setups scatter plainly unlike each other: each counts with its own scatter (Welch)"
        )
    drift = experiment.drift
    if drift is None:
        yield AuditItem(
            CAUTION,
            "too few passes to tell a drift of the bench: run the reference first and last, all setups twice",
        )
        return
    words = f"drift of the bench {drift.text(case.figure.difference_unit, signed=True)} a run"
    if experiment.hidden:
        yield AuditItem(
            CAUTION,
            f"{words}: passes of one setup in a row hide it, and differences are wide for it; go round all setups, then again",
        )
    elif drift.half_width is not None and abs(drift.value) > drift.half_width:
        yield AuditItem(CORRECTED, f"{words}, taken off by the order of the runs")
    else:
        yield AuditItem(SAME, f"{words}: none shown")


def _bounds(case: Case) -> Iterator[AuditItem]:
    bounds = [f"{r.name} ({r.figure.bound})" for r in case.ladder.rungs if r.figure.bound is not None]
    if bounds:
        yield AuditItem(CAUTION, f"no more than a bound: {listed(bounds)}; it supports its own side alone")


def _windows(case: Case) -> Iterator[AuditItem]:
    hand = sorted(
        {
            n
            for n, r in case.finished
            if r.reading.window is not None and r.reading.window.reason == WINDOW_BY_HAND
        }
    )
    if hand and case.figure.statistic in ("steady", "rise", "resistance"):
        yield AuditItem(CAUTION, f"averaged over a window set by hand: {listed(hand)}")
    # Another channel than the die settles by itself: what has a rung has settled.
    ranked = {r.name for r in case.ladder.rungs}
    unsettled = sorted(
        {n for n, r in case.finished if r.reading.window is None or not r.reading.window.found}
        - set(hand)
        - ranked
    )
    if unsettled and case.figure.statistic in ("steady", "rise", "resistance"):
        yield AuditItem(CAUTION, f"never settled: {listed(unsettled)}; left out of steady figures")


def _readings(case: Case) -> Iterator[AuditItem]:
    """With what values were read, by hand or by an instrument whose class is known."""
    ways: dict[str, list[str]] = {}
    for name, r in case.finished:
        for one in r.results:
            if (one.source == BY_HAND or one.common_of) and case.figure.among([one]) is not None:
                ways.setdefault(one.common_of or "an instrument that was not named", []).append(name)
    if len(ways) > 1:
        words = "; ".join(f"{way}: {listed(list(dict.fromkeys(names)))}" for way, names in ways.items())
        yield AuditItem(CAUTION, f"read in different ways, so their errors do not cancel: {words}")
    elif ways:
        yield AuditItem(SAME, f"all read with {next(iter(ways))}: what it is off by cancels in a difference")


def _lengths(case: Case) -> Iterator[AuditItem]:
    if case.figure.statistic not in NEEDS_SAME_LENGTH:
        return
    loads = [p.duration_s for _, r in case.finished if (p := r.reading.load_phase()) is not None]
    if loads and max(loads) > LENGTHS_ALIKE * max(min(loads), 1.0):
        yield AuditItem(CAUTION, f"loads from {min(loads) / 60.0:.0f} to {max(loads) / 60.0:.0f} min long")


def _idle(case: Case) -> Iterator[AuditItem]:
    busy = [
        f"{n} ({r.reading.idle_load_pct:.0f} %)"
        for n, r in case.runs
        if (r.reading.idle_load_pct or 0) > BUSY_PCT
    ]
    if busy:
        yield AuditItem(CAUTION, f"busy while it was to be idle: {listed(sorted(set(busy)))}")


def _ended(case: Case) -> Iterator[AuditItem]:
    for name, r in case.runs:
        if r.state == "did-not-finish":
            yield AuditItem(CAUTION, f"{name} did not finish ({r.run}): {r.reason or 'reason not known'}")


def _rates(case: Case) -> Iterator[AuditItem]:
    rates = {round(r.reading.interval_s or 0.0, 2) for _, r in case.runs}
    if len(rates) > 1:
        unlike = case.figure.statistic in NEEDS_SAME_LENGTH
        tail = ": peaks are not on equal terms" if unlike else ""
        yield AuditItem(CAUTION if unlike else SAME, f"recorded at different rates{tail}")
    else:
        yield AuditItem(SAME, f"one sample every {rates.pop():g} s in all runs")


QUESTIONS: tuple[Callable[[Case], Iterator[AuditItem]], ...] = (
    _terms, _reference, _rooms, _limit, _heat, _budgets, _parts, _passes, _order, _bounds, _windows, _readings, _lengths, _idle,
    _ended, _rates,
)  # fmt: skip
"""Everything that is asked, in the order of the answers."""
