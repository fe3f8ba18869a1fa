"""What a review's demands come to: every setup of a rig against every demand, and the pick that follows."""

from __future__ import annotations

from dataclasses import dataclass

from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_on, reference_on, rigs_of, setups_on
from samovar.core.compare.criteria import ASKED, Criterion
from samovar.core.compare.rungs import Margins
from samovar.core.demands import MET, NOT_MET, NOT_SHOWN, Decision, Demand, Wish, decide, judge, read_demand
from samovar.core.measured import Measured
from samovar.core.money import convert
from samovar.core.results.figure import PRICE, RunResult, figure_of
from samovar.core.units import Unreadable

NOT_PUSHED = "not pushed below its base clock"
"""What every review asks without saying so."""
USUAL_WISHES = ("work", "rise", "price")
"""What is wished for where nobody says: what is done, then how cool, then for how much."""


@dataclass(frozen=True)
class Decided:
    """The demands in force, what every setup makes of each, and the decision."""

    demands: tuple[Demand, ...]
    standing: dict[str, dict[str, str]]
    decision: Decision

    def rows(self) -> list[Criterion]:
        """The demands as rows of the table of criteria."""
        return [
            Criterion(line, "", of, tuple(n for n, state in of.items() if state == MET), ASKED)
            for line, of in self.standing.items()
        ]


def demands_of(data: ReviewData) -> list[Demand]:
    """The review's demands and wishes: the noise it asks for, those that were written, and where no wish is, the usual ones."""
    review = data.review
    lines = list(review.demands)
    if review.noise_limit_dba is not None and not any(line.startswith("noise ") for line in lines):
        lines.insert(0, f"noise at most {review.noise_limit_dba:g} dBA")
    found = []
    for line in lines:
        try:
            found.append(read_demand(line))
        except Unreadable:
            # An older archive's words that are none any more ask for nothing.
            continue
    if not any(d.is_wish for d in found):
        subject = data.subject.key
        keys = dict.fromkeys((*USUAL_WISHES[:1], subject, *USUAL_WISHES[1:]))
        found += [Demand(figure_of(k), "", None, None, "", f"wish {figure_of(k).label}") for k in keys]
    return found


SAME_POWER = 0.97
"""Loads that draw more than this share of the most draw alike: a budget makes them so."""


def hardest_load(data: ReviewData, rig: str | None = None) -> str | None:
    """The load that drew the most power in a review's runs, on one rig where one is named; of those that drew alike, and where no
    power was measured, the one listed last; None without a run."""
    setups = data.review.setups if rig is None else setups_on(data.review, rig)
    cells = {load: [data.cell(s, load) for s in setups] for load in data.review.loads}
    measured = [load for load, of in cells.items() if any(cell.passes for cell in of)]
    drawn = {
        load: max(
            (p.value for cell in cells[load] for r in cell.results if (p := _power(r)) is not None),
            default=0.0,
        )
        for load in measured
    }
    top = max(drawn.values(), default=0.0)
    return next((load for load in reversed(measured) if drawn[load] >= SAME_POWER * top), None)


def _power(result: RunResult) -> Measured | None:
    return result.reading.steady_mean("power", ("package",))


def decided_on(data: ReviewData, rig: str | None = None) -> Decided | None:
    """The decision for one rig's setups, the review's first where none is named; None without a run."""
    rig = rig or next(iter(rigs_of(data.review)), None)
    load = hardest_load(data, rig) if rig is not None else None
    if rig is None or load is None:
        return None
    demands = demands_of(data)
    names = [
        s.name
        for s in setups_on(data.review, rig)
        if any(data.cell(s, one).passes for one in data.review.loads)
    ]
    standing: dict[str, dict[str, str]] = {}
    wishes: list[Wish] = []
    margins = Margins(data.review.margin_k, data.review.margin_share)
    for demand in demands:
        found = compare_on(data, demand.load or load, demand.figure, rig)
        if demand.is_wish:
            best = found.ladder.rungs[0].figure.value if found.ladder.rungs else 0.0
            wishes.append(Wish(found.figure.label, found.ladder, margins.of(found.figure, best)))
            continue
        values = {r.name: r.figure for r in found.ladder.rungs}
        if demand.currency and demand.currency != found.figure.counted_in:
            values = _converted(values, found.figure.counted_in, demand.currency, data)
        standing[demand.line] = {n: judge(demand, values.get(n)) for n in names}
    pushed = {n: _not_pushed(data, n, load) for n in names}
    if any(state != NOT_SHOWN for state in pushed.values()):
        # Where no run carries a clock there is nothing to be pushed.
        standing[NOT_PUSHED] = pushed
    price = compare_on(data, load, PRICE, rig).ladder
    prices = {r.name: r.figure.value for r in price.rungs}
    base = reference_on(data.review, rig)
    order = sorted(names, key=lambda n: base is not None and n == base.name)
    return Decided(tuple(demands), standing, decide(order, standing, wishes, prices))


def proposed_conclusion(data: ReviewData) -> list[str]:
    """The lines a conclusion begins with: what the demands and wishes pick, and what comes next."""
    decided = decided_on(data)
    found = decided.decision if decided is not None else None
    lines = [f"pick: {found.pick}"] if found is not None and found.pick else []
    lines += [f"runner-up: {found.runner_up}"] if found is not None and found.pick and found.runner_up else []
    return lines


def _converted(
    values: dict[str, Measured], currency: str, into: str, data: ReviewData
) -> dict[str, Measured]:
    found = {n: convert(v.value, currency, into, data.rates) for n, v in values.items()}
    return {n: Measured(c.amount) for n, c in found.items() if c is not None}


def _not_pushed(data: ReviewData, name: str, load: str) -> str:
    setup = next(s for s in data.review.setups if s.name == name)
    told = [r.reading.judgement for r in data.cell(setup, load).results if r.finished and not r.steps]
    if any(j in ("throttles", "stopped") for j in told):
        return NOT_MET
    return MET if told and all(j is not None for j in told) else NOT_SHOWN
