"""A review's setups held against each other, rig by rig: what Versus, its call, claims and publishing all look at."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from samovar.archive.damage import DAMAGED
from samovar.archive.records import NO_RIG, Review, Setup
from samovar.archive.review_data import ReviewData
from samovar.core.compare.audit import CAUTION, AuditItem, audit
from samovar.core.compare.noise_curves import NoiseCurve, curves_of
from samovar.core.compare.rungs import Difference, Ladder, Margins, Rung, best_first, climbed
from samovar.core.compare.terms import AS_THEY_RAN, Terms, under_terms
from samovar.core.elsewhere import read_elsewhere
from samovar.core.measured import Measured
from samovar.core.money import Rate
from samovar.core.price_terms import read_price_terms
from samovar.core.results.figure import PRICE, Figure, RunResult
from samovar.core.results.result import ELSEWHERE
from samovar.core.setup_price import SetupPrice, currency_of_setups, price_of
from samovar.core.units import Unreadable


@dataclass(frozen=True)
class RigComparison:
    """One rig's setups under one load by one figure.

    Attributes:
        rig: its name.
        reference: the setup the others are held against; None without setups.
        cells: setup name to its runs.
        terms: as they ran, at one level, at one heat.
        ladder: what they say.
        audit: whether it is like for like.
    """

    rig: str
    load: str
    figure: Figure
    reference: str | None
    cells: dict[str, Sequence[RunResult]]
    terms: Terms
    ladder: Ladder
    audit: list[AuditItem]


def rigs_of(review: Review) -> list[str]:
    """The rigs of a review's setups, that of the first reference first."""
    first = [s for s in review.setups if s.reference]
    return list(dict.fromkeys(s.rig_name for s in (*first, *review.setups)))


def setups_on(review: Review, rig: str) -> list[Setup]:
    """A review's setups on a rig, in the review's order."""
    return [s for s in review.setups if s.rig_name == rig]


def reference_on(review: Review, rig: str) -> Setup | None:
    """What a rig's setups are held against: the one that is named so, else the one with nothing fitted or changed, else
    the first."""
    setups = setups_on(review, rig)
    named = [s for s in setups if s.reference]
    bare = [s for s in setups if not s.products and not s.changes]
    return next(iter([*named, *bare, *setups]), None)


def compare_on(
    data: ReviewData,
    load: str,
    figure: Figure,
    rig: str | None = None,
    terms: Terms = AS_THEY_RAN,
    against: str | None = None,
) -> RigComparison:
    """The setups of one rig, the review's first where none is named, under a load; held against the rig's reference
    where no other setup is named.

    Raises:
        ValueError: the figure means nothing under these terms.
    """
    rig = rig if rig is not None else next(iter(rigs_of(data.review)), NO_RIG)
    key = load, figure.key, rig, terms, against
    found = data.kept.get(key)
    if not isinstance(found, RigComparison):
        found = data.kept[key] = _compared_on(data, load, figure, rig, terms, against)
    return found


def _compared_on(
    data: ReviewData, load: str, figure: Figure, rig: str, terms: Terms, against: str | None
) -> RigComparison:
    review = data.review
    setups = setups_on(review, rig)
    cells: dict[str, Sequence[RunResult]] = {}
    for setup in setups:
        if results := data.cell(setup, load).results:
            cells[setup.name] = results
    base = reference_on(review, rig)
    reference = against or (base.name if base is not None else None)
    if figure.quantity == PRICE.quantity:
        return _by_price(data, load, figure, rig, reference, cells)
    prior = data.prior(rig, load, figure)
    arrangements = {s.name: s.arrangement for s in setups}
    margins = Margins(review.margin_k, review.margin_share)
    ladder = under_terms(terms, cells, reference, figure, margins, prior, arrangements)
    unmeasured = {
        s.name: "; ".join(_damaged(data, s, load)) or "no run under this load"
        for s in setups
        if s.name not in cells
    }
    ladder = replace(ladder, left_out={**ladder.left_out, **unmeasured})
    if terms.heat_w is not None:
        ladder = replace(ladder, cautions=(*ladder.cautions, *_over_limit(ladder, cells, setups)))
    ladder, beside = _with_elsewhere(ladder, data, load, figure, terms)
    items = audit(cells, reference, figure, ladder, arrangements, {s.name: s.facts for s in setups}, terms)
    damaged = [words for setup in setups for words in _damaged(data, setup, load)]
    items = [*(AuditItem(CAUTION, words) for words in (*damaged, *beside)), *items]
    return RigComparison(rig, load, figure, reference, cells, terms, ladder, items)


def _damaged(data: ReviewData, setup: Setup, load: str) -> list[str]:
    """The runs of a cell that damage has reached, each with what it has of it."""
    return [
        f"{run.id} of {setup.name} does not count: {run.left_out}"
        for run, _ in data.cell(setup, load).runs
        if (run.left_out or "").startswith(DAMAGED)
    ]


def _with_elsewhere(
    ladder: Ladder, data: ReviewData, load: str, figure: Figure, terms: Terms
) -> tuple[Ladder, list[str]]:
    """The ladder with what others published of this figure, marked and without a difference; and what is to be said of it."""
    if terms != AS_THEY_RAN:
        return ladder, []
    found = []
    for line in data.review.elsewhere:
        try:
            one = read_elsewhere(line)
        except Unreadable:
            continue
        if one.figure.key == figure.key and one.load in (None, load):
            found.append(one)
    beside = [Rung(one.name, one.value, 0, None, None, ELSEWHERE) for one in found]
    rungs = best_first((*ladder.rungs, *beside), figure)
    return replace(ladder, rungs=tuple(rungs)), [one.caution for one in found]


def _over_limit(ladder: Ladder, cells: dict[str, Sequence[RunResult]], setups: Sequence[Setup]) -> list[str]:
    """Setups whose die could not be as hot as a heat would make it: there they would be held at their limit."""
    limits = {s.name: s.facts.cpu.temperature_limit_c for s in setups}
    out = []
    for rung in ladder.rungs:
        rooms = [r.reading.room.value for r in cells.get(rung.name, ()) if r.reading.room is not None]
        limit = limits.get(rung.name)
        if rooms and limit is not None and rung.figure.value + sum(rooms) / len(rooms) > limit:
            hot = rung.figure.value + sum(rooms) / len(rooms)
            out.append(f"{rung.name} would be held at its limit: {hot:.0f} °C is over {limit:g} °C")
    return out


def noise_curves_on(data: ReviewData, load: str, figure: Figure, rig: str) -> list[NoiseCurve]:
    """A figure over the level for each setup of a rig that has both, through all its fan speeds."""
    setups = setups_on(data.review, rig)
    cells = {s.name: data.cell(s, load).results for s in setups if data.cell(s, load).results}
    return curves_of(cells, figure, {s.name: s.arrangement for s in setups})


def compare_all(
    data: ReviewData, load: str, figure: Figure, terms: Terms = AS_THEY_RAN
) -> list[RigComparison]:
    """Every rig of a review that has runs under a load."""
    found = [compare_on(data, load, figure, rig, terms) for rig in rigs_of(data.review)]
    return [one for one in found if one.cells]


@dataclass(frozen=True)
class Across:
    """What one product gains over the reference of one rig."""

    product: str
    rig: str
    difference: Difference


def across(data: ReviewData, found: Sequence[RigComparison]) -> list[Across]:
    """The gain of each product that was fitted on several rigs, on each of them: two rigs are two experiments, and the
    gain is all they share. A setup that changed anything else than its reference did does not count."""
    out = []
    for one in found:
        for setup in setups_on(data.review, one.rig):
            rung = one.ladder.rung(setup.name)
            base = reference_on(data.review, one.rig)
            alike = setup.changes == (base.changes if base is not None else {})
            if rung is None or rung.difference is None or not alike:
                continue
            had = {p.name for p in base.products} if base is not None else set()
            fitted = [p.name for p in setup.products if p.name not in had]
            if len(fitted) == 1:
                out.append(Across(fitted[0], one.rig, rung.difference))
    seen = [a.product for a in out]
    return sorted((a for a in out if seen.count(a.product) > 1), key=lambda a: seen.index(a.product))


def _by_price(
    data: ReviewData,
    load: str,
    figure: Figure,
    rig: str,
    reference: str | None,
    cells: dict[str, Sequence[RunResult]],
) -> RigComparison:
    """The setups by what all they are made of costs: known without runs, and exactly."""
    prices = setup_prices(setups_on(data.review, rig), data.rates, data.review.priced)
    currency = next((p.currency for p in prices.values()), "EUR")
    plain = [
        Rung(name, Measured(p.amount), 0, None, None, "list")
        for name, p in prices.items()
        if p.amount is not None
    ]
    figure = replace(figure, counted_in=currency)
    left_out = {name: p.why_not for name, p in prices.items() if p.amount is None}
    ladder = climbed(plain, reference, figure, Margins(), None, None, left_out)
    ladder = replace(ladder, rungs=tuple(replace(r, above=None) for r in ladder.rungs), level=())
    items = [
        AuditItem("corrected", rate_text(r))
        for r in dict.fromkeys(r for p in prices.values() for r in p.rates)
    ]
    if not read_price_terms(data.review.priced).taxed:
        items.insert(0, AuditItem("corrected", "prices are without the tax"))
    days = sorted({d for p in prices.values() if p.amount is not None for d in p.days})
    if len(days) > 1:
        items.insert(0, AuditItem("caution", f"prices are of different days, {days[0]} to {days[-1]}"))
    return RigComparison(rig, load, figure, reference, cells, AS_THEY_RAN, ladder, items)


def rate_text(rate: Rate) -> str:
    """A rate in words."""
    return f"converted at 1 {rate.currency} = {rate.value:g} {rate.into} of {rate.day}"


def setup_prices(setups: Sequence[Setup], rates: Sequence[Rate], priced: str = "") -> dict[str, SetupPrice]:
    """What each setup costs on a review's terms (`priced`); where those name no currency, all in the one that most of their
    prices are in."""
    terms = read_price_terms(priced)
    fitted = {s.name: s.products for s in setups}
    currency = terms.currency or currency_of_setups(fitted)
    return {name: price_of(products, currency, rates, terms) for name, products in fitted.items()}


def gains_on(data: ReviewData, found: RigComparison) -> list[Across]:
    """What products gain on each rig, under the load and in the figure of a comparison."""
    return across(data, compare_all(data, found.load, found.figure))
