"""What the criteria and the trade of a review show: every figure's own comparison, beside facts of the shelf."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from samovar.archive.deciding import decided_on, demands_of
from samovar.archive.records import Setup
from samovar.archive.review_data import ReviewData, shown_figures
from samovar.archive.rig_comparison import RigComparison, compare_on, noise_curves_on, setups_on
from samovar.core.chosen import FAULT, JUDGED, MARKS, MEASURED, MISSING, OF_SHELF, Chosen, read_chosen
from samovar.core.compare.criteria import NO_CONTEST, OPEN, Criterion, criterion_of, plain_criterion
from samovar.core.compare.loads import SideBySide, loads_side_by_side
from samovar.core.compare.rungs import Margins
from samovar.core.compare.terms import AS_THEY_RAN, Terms
from samovar.core.compare.trade import Trade, trade
from samovar.core.fields import Field, value_shown
from samovar.core.measured import AT_MOST, Measured
from samovar.core.results.figure import PRICE, Figure, figure_of
from samovar.core.units import Unreadable

OF_THE_SHELF: tuple[tuple[str, str], ...] = (
    ("height_m", "less"), ("memory_clearance_m", "more"), ("mass_kg", "less"), ("fans", ""), ("fan_size_m", ""),
    ("rated_heat_w", ""), ("rated_noise_dba", ""), ("warranty_months", "more"),
)  # fmt: skip
"""Facts of products that are set beside what was measured, and which way is better where one is."""
PER = 100
"""Work is priced by so many units a second: one costs next to nothing."""
OUT_OF_TEN, ON_ARRIVAL = "rating", "fault on arrival"
"""Kinds of notes of the Shelf."""
OF_NOTES = "mark out of ten, by hand"


def criteria_on(data: ReviewData, load: str, rig: str, terms: Terms = AS_THEY_RAN) -> list[Criterion]:
    """The rows of the table for one rig's setups, measured figures on these terms where they mean something there: the demands, then the criteria the reviewer chose; where none were, what was
    measured, the judgement, the price, facts of the shelf that tell the setups apart, and marks."""
    decided = decided_on(data, rig)
    rows: list[Criterion] = decided.rows() if decided is not None else []
    chosen = [c for c in chosen_on(data) if c.kind not in (MISSING, FAULT)]
    for one in chosen or _usual(data):
        row = _row(data, one.load or load, rig, one, terms)
        if row is not None:
            rows.append(replace(row, weight=one.weight))
        if one.figure == PRICE:
            rows += _for_the_price(data, load, rig)
    return rows


def chosen_on(data: ReviewData) -> list[Chosen]:
    """The criteria a reviewer chose for a review, and the lists of what is missing or at fault."""
    found = []
    for line in data.review.criteria:
        try:
            found.append(read_chosen(line))
        except Unreadable:
            # An older archive's words that are none any more choose nothing.
            continue
    return found


def _usual(data: ReviewData) -> list[Chosen]:
    """What is set side by side where nobody chose."""
    figures = [Chosen(MEASURED, f.label, f.key, figure=f) for f in shown_figures(data)]
    facts = [Chosen(OF_SHELF, key, key, fact=Field(key, key), better=better) for key, better in OF_THE_SHELF]
    return [
        *figures,
        Chosen(JUDGED, JUDGED, JUDGED),
        Chosen(MEASURED, PRICE.label, PRICE.key, figure=PRICE),
        *facts,
        Chosen(MARKS, OF_NOTES, OF_NOTES, better="more"),
    ]


def _under(data: ReviewData, load: str, figure: Figure, rig: str, terms: Terms) -> RigComparison:
    """A comparison on these terms; as they ran where the figure means nothing on them."""
    try:
        return compare_on(data, load, figure, rig, terms)
    except ValueError:
        return compare_on(data, load, figure, rig)


def _row(data: ReviewData, load: str, rig: str, one: Chosen, terms: Terms) -> Criterion | None:
    """The row of one criterion; None where no setup has anything of it."""
    setups = setups_on(data.review, rig)
    if one.kind == MEASURED and one.figure is not None:
        found = _under(data, load, one.figure, rig, terms)
        row = criterion_of(found.figure, found.ladder)
        if row is not None and found.terms != AS_THEY_RAN and one.figure != PRICE:
            row = replace(row, label=f"{row.label}, {found.terms.words}")
        if row is not None and one.load:
            row = replace(row, label=f"{row.label}, {one.load}")
        return replace(row, better="", best=(), verdict=OPEN) if row and one.figure.key in NO_CONTEST else row
    if one.kind == JUDGED:
        judged = {s.name: ", ".join(told) for s in setups if (told := _judgements(data, s, load))}
        return Criterion(JUDGED, "", judged) if judged else None
    if one.kind == OF_SHELF and one.fact is not None:
        return _fact_row(data, setups, one)
    if one.told:
        cells = {s.name: one.told[s.name] for s in setups if s.name in one.told}
        label = f"{one.label}, of ten" if one.kind == MARKS else one.label
        return plain_criterion(label, one.better, {n: one.worth(n) for n in cells}, cells) if cells else None
    marks: dict[str, float | None] = {}
    for setup in setups:
        notes = [
            n.rating for p in setup.products for n in p.notes if n.kind == OUT_OF_TEN and n.rating is not None
        ]
        if notes:
            marks[setup.name] = sum(notes) / len(notes)
    if len(set(marks.values())) < 2:
        return None
    return plain_criterion(one.label, "more", marks, {n: f"{v:g}" for n, v in marks.items()})


def _judgements(data: ReviewData, setup: Setup, load: str) -> list[str]:
    results = data.cell(setup, load).results
    return sorted(
        {r.reading.judgement for r in results if r.finished and r.reading.judgement and not r.steps}
    )


def _fact_row(data: ReviewData, setups: Sequence[Setup], one: Chosen) -> Criterion | None:
    """A fact of the shelf; where nobody chose it, only if it tells the setups apart."""
    assert one.fact is not None
    key, label = one.fact.key, one.fact.label
    values: dict[str, float | None] = {}
    texts: dict[str, str] = {}
    for setup in setups:
        for product in setup.products:
            field = next((f for f in product.fields if f.key == key), None)
            value = product.specification.get(key)
            if field is not None and value is not None:
                label = field.label
                values[setup.name] = float(value) if isinstance(value, int | float) else None
                texts[setup.name] = value_shown(field, value)
                break
    if not texts or not (data.review.criteria or len(set(texts.values())) > 1 or len(texts) < len(setups)):
        return None
    better = one.better or dict(OF_THE_SHELF).get(key, "")
    return plain_criterion(label, better, values, texts)


def lacking_on(data: ReviewData, rig: str) -> dict[str, dict[str, tuple[str, ...]]]:
    """What each setup of a rig lacks and what is wrong with it, as the reviewer listed them: by setup, then `missing`, `fault`;
    faults on arrival that the Shelf notes of its products are among them."""
    found: dict[str, dict[str, tuple[str, ...]]] = {}
    chosen = [c for c in chosen_on(data) if c.kind in (MISSING, FAULT)]
    for setup in setups_on(data.review, rig):
        lists: dict[str, tuple[str, ...]] = {}
        for kind in (MISSING, FAULT):
            items = [
                item for c in chosen if c.kind == kind and c.label == setup.name for item in c.told.values()
            ]
            if kind == FAULT:
                items += [n.text for p in setup.products for n in p.notes if n.kind == ON_ARRIVAL]
            if items:
                lists[kind] = tuple(dict.fromkeys(items))
        if lists:
            found[setup.name] = lists
    return found


def _for_the_price(data: ReviewData, load: str, rig: str) -> list[Criterion]:
    """What a kelvin less than the reference costs, and a unit of work: the price over what was gained, where a gain is shown;
    and what the next better setup, in what is wished for first, would cost more."""
    price = compare_on(data, load, PRICE, rig)
    prices = {r.name: r.figure.value for r in price.ladder.rungs}
    fitted = {s.name: {p.name for p in s.products} for s in setups_on(data.review, rig)}
    rows = []
    rise = compare_on(data, load, figure_of("rise"), rig)
    gained: dict[str, str] = {}
    for rung in rise.ladder.rungs:
        gap = rung.difference
        if gap is None or rung.name not in prices or not gap.shown or gap.value >= 0.0 or not gap.half_width:
            continue
        # What is fitted besides what the reference has is what was paid for the gain.
        added = gap.other in prices and fitted[gap.other] <= fitted[rung.name]
        value = (prices[rung.name] - (prices[gap.other] if added else 0.0)) / -gap.value
        bound = AT_MOST if gap.bound == AT_MOST else None
        gained[rung.name] = Measured(value, value * gap.half_width / -gap.value, bound).text(finest=2)
    if gained:
        short = {n: t.replace(f"{AT_MOST} ", "≤") for n, t in gained.items()}
        rows.append(Criterion(f"{price.figure.unit} for each K under {rise.reference}", "less", short))
    work = compare_on(data, load, figure_of("work"), rig)
    done = {
        r.name: Measured(
            PER * prices[r.name] / r.figure.value,
            PER * prices[r.name] / r.figure.value * (r.figure.half_width or 0.0) / r.figure.value,
        ).text(finest=2)
        for r in work.ladder.rungs
        if r.name in prices and r.figure.value > 0.0
    }
    if done:
        rows.append(Criterion(f"{price.figure.unit} for {PER} {work.figure.unit} of work", "less", done))
    wished = next((d.figure for d in demands_of(data) if d.is_wish), data.subject)
    best = compare_on(data, load, wished, rig)
    more = {
        rung.name: f"{prices[better] - prices[rung.name]:+.0f} {better}".replace("-", "−", 1)
        for rung in best.ladder.own
        if rung.name in prices and (better := _next_better(best, rung.name, prices)) is not None
    }
    if more:
        rows.append(
            Criterion(
                f"{price.figure.unit} more for more {wished.label}"
                if not wished.lower_is_better
                else f"{price.figure.unit} more for less {wished.label}",
                "",
                more,
            )
        )
    return rows


def _next_better(found: RigComparison, name: str, prices: Mapping[str, float]) -> str | None:
    """The cheapest of the setups shown to be better than one; None where there is none with a price."""
    better = []
    for rung in found.ladder.own:
        gap = (
            found.ladder.difference(rung.name, name, 0.0)
            if rung.name != name and rung.name in prices
            else None
        )
        if gap is not None and gap.shown and (gap.value < 0.0) == found.figure.lower_is_better:
            better.append(rung.name)
    return min(better, key=lambda n: prices[n], default=None)


def loads_on(data: ReviewData, figure: Figure, rig: str) -> SideBySide:
    """All loads of a review side by side, for one figure."""
    found = {load: compare_on(data, load, figure, rig) for load in data.review.loads}
    measured = {load: one.ladder for load, one in found.items() if one.ladder.own}
    counted = next((one.figure for one in found.values() if one.ladder.own), figure)
    margins = Margins(data.review.margin_k, data.review.margin_share)
    highest = max((lad.own[0].figure.value for lad in measured.values()), default=0.0)
    return loads_side_by_side(counted, measured, margins.of(counted, highest))


def trade_on(data: ReviewData, found: RigComparison, across: Figure) -> Trade | None:
    """The figure of a comparison over another, for the same setups, both on its terms where they mean something there; None where
    they are one figure. Over the noise itself all is as it ran."""
    if across.key == found.figure.key:
        return None
    terms = AS_THEY_RAN if "noise" in (across.quantity, found.figure.quantity) else found.terms
    other = _under(data, found.load, across, found.rig, terms)
    own = _under(data, found.load, found.figure, found.rig, terms)
    curves = noise_curves_on(data, found.load, own.figure, found.rig) if across.quantity == "noise" else []
    return trade(other.figure, own.figure, other.ladder, own.ladder, curves)
