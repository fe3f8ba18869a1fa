"""What the criteria and the trade of a review show: every figure's own comparison, beside facts of the shelf."""

from __future__ import annotations

from dataclasses import replace

from samovar.archive.deciding import decided_on
from samovar.archive.review_data import ReviewData, shown_figures
from samovar.archive.rig_comparison import RigComparison, compare_on, noise_curves_on, setups_on
from samovar.core.compare.criteria import OPEN, Criterion, criterion_of, plain_criterion
from samovar.core.compare.trade import Trade, trade
from samovar.core.fields import value_shown
from samovar.core.results.figure import PRICE, Figure, figure_of
from samovar.core.uncertainty import AT_MOST, Measured

OF_THE_SHELF: tuple[tuple[str, str], ...] = (
    ("height_m", "less"), ("memory_clearance_m", "more"), ("mass_kg", "less"), ("fans", ""), ("fan_size_m", ""),
    ("rated_heat_w", ""), ("rated_noise_dba", ""), ("warranty_months", "more"),
)  # fmt: skip
"""Facts of products that are set beside what was measured, and which way is better where one is."""
PER = 100
"""Work is priced by so many units a second: one costs next to nothing."""
OUT_OF_TEN = "rating"
NO_CONTEST = ("power", "settle")
"""Figures in which less or more is no merit by itself: they stand in the table, and nobody wins them."""


def criteria_on(data: ReviewData, load: str, rig: str) -> list[Criterion]:
    """The rows of the table for one rig's setups: measured figures, the judgement, price, facts of the shelf, marks."""
    decided = decided_on(data, rig)
    rows: list[Criterion] = decided.rows() if decided is not None else []
    for figure in shown_figures(data):
        found = criterion_of(figure, compare_on(data, load, figure, rig).ladder)
        if found is not None:
            rows.append(
                replace(found, better="", best=(), verdict=OPEN) if figure.key in NO_CONTEST else found
            )
    setups = setups_on(data.review, rig)
    judged = {}
    for setup in setups:
        told = {
            r.reading.judgement
            for r in data.cell(setup, load).results
            if r.finished and r.reading.judgement and not r.steps
        }
        if told:
            judged[setup.name] = ", ".join(sorted(told))
    if judged:
        rows.append(Criterion("judgement", "", judged))
    price = compare_on(data, load, PRICE, rig)
    if (row := criterion_of(price.figure, price.ladder)) is not None:
        rows.append(row)
    rows += _for_the_price(data, load, rig, price)
    for key, better in OF_THE_SHELF:
        values: dict[str, float | None] = {}
        texts: dict[str, str] = {}
        label = key
        for setup in setups:
            for product in setup.products:
                field = next((f for f in product.fields if f.key == key), None)
                value = product.specification.get(key)
                if field is not None and isinstance(value, int | float):
                    label = field.label
                    values[setup.name], texts[setup.name] = float(value), value_shown(field, value)
                    break
        if texts and (len(set(texts.values())) > 1 or len(texts) < len(setups)):
            rows.append(plain_criterion(label, better, values, texts))
    marks: dict[str, float | None] = {}
    for setup in setups:
        notes = [
            n.rating for p in setup.products for n in p.notes if n.kind == OUT_OF_TEN and n.rating is not None
        ]
        if notes:
            marks[setup.name] = sum(notes) / len(notes)
    if len(set(marks.values())) > 1:
        rows.append(
            plain_criterion(
                "mark out of ten, by hand", "more", marks, {n: f"{v:g}" for n, v in marks.items()}
            )
        )
    return rows


def _for_the_price(data: ReviewData, load: str, rig: str, price: RigComparison) -> list[Criterion]:
    """What a kelvin less than the reference costs, and a unit of work: the price over what was gained, where a gain is shown."""
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
    return rows


def trade_on(data: ReviewData, found: RigComparison, across: Figure) -> Trade | None:
    """The figure of a comparison over another, for the same setups; None where they are one figure."""
    if across.key == found.figure.key:
        return None
    other = compare_on(data, found.load, across, found.rig)
    own = compare_on(data, found.load, found.figure, found.rig)
    curves = noise_curves_on(data, found.load, own.figure, found.rig) if across.quantity == "noise" else []
    return trade(other.figure, own.figure, other.ladder, own.ladder, curves)
