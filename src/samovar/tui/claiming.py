"""Making a claim by choosing: what is claimed, of which setup, and what else its kind is about."""

from __future__ import annotations

from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from typing import Any

from samovar.archive.field_values import setup_text
from samovar.archive.records import Setup
from samovar.archive.review_data import ReviewData, shown_figures
from samovar.archive.rig_comparison import compare_on
from samovar.core.claims.kinds import CHANGE, DEMAND, FIGURE, KINDS, OTHER, PRODUCT, RATING, WATTS, ClaimKind
from samovar.core.demands import EXAMPLE, read_demand
from samovar.core.rated import rated_items
from samovar.core.results.figure import PRICE, figure_of
from samovar.core.units import Unreadable
from samovar.tui.aside import aside
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose


@dataclass
class Made:
    """A claim in the making."""

    kind: ClaimKind
    setup: Setup
    load: str = ""
    other: Setup | None = None
    about: dict[str, Any] = field(default_factory=dict)


async def ask_claim(place: Place, data: ReviewData) -> Made | None:
    """Ask for a claim, choice by choice; None where one of them was left."""
    review = data.review
    kinds = {k.choice: k for k in KINDS.values() if k.key != CHANGE}
    chosen = await place.app.push_screen_wait(
        Choose("What do you claim?", [(choice, "") for choice in kinds])
    )
    if chosen is None:
        return None
    name = await place.app.push_screen_wait(
        Choose("Of which setup?", [(s.name, s.rig_name) for s in review.setups])
    )
    setup = next((s for s in review.setups if s.name == name), None)
    if setup is None:
        return None
    made = Made(kinds[chosen], setup)
    if made.kind.loaded:
        loads = [load for load in review.loads if data.under(load)] or list(review.loads)
        load = (
            loads[0]
            if len(loads) == 1
            else await place.app.push_screen_wait(Choose("Under which load?", [(x, "") for x in loads]))
        )
        if load is None:
            return None
        made.load = load
    for wanted in made.kind.asks:
        if not await _ASKS[wanted](place, data, made):
            return None
    return made


async def _other(place: Place, data: ReviewData, made: Made) -> bool:
    others = [s for s in data.review.setups if s.rig_name == made.setup.rig_name and s.id != made.setup.id]
    if not others:
        place.notify(f"No other setup stands on {made.setup.rig_name}.", severity="warning")
        return False
    name = await place.app.push_screen_wait(
        Choose("Against which setup?", [(s.name, "the reference" if s.reference else "") for s in others])
    )
    made.other = next((s for s in others if s.name == name), None)
    return made.other is not None


async def _figure(place: Place, data: ReviewData, made: Made) -> bool:
    figures = [*shown_figures(data), PRICE]
    name = made.setup.name
    read = aside(lambda: {f.key: setup_text(data, f, name, made.load) for f in figures})
    options = [(f.key, f"{f.label}: {read[f.key] or 'not known yet'}") for f in figures]
    key = await place.app.push_screen_wait(Choose("In which figure?", options))
    if key is None:
        return False
    made.about.update(figure=key, label=figure_of(key).label)
    if made.kind.key == "reads":
        found = aside(compare_on, data, made.load, figure_of(key), made.setup.rig_name)
        rung = found.ladder.rung(made.setup.name)
        if rung is None:
            place.notify("No run tells that yet, so there is nothing to claim.", severity="warning")
            return False
        made.about["read"], made.about["value"] = rung.figure.value, found.figure.text(rung.figure)
        if rung.figure.half_width is not None:
            made.about["half_width"] = rung.figure.half_width
        if rung.figure.bound is not None:
            made.about["bound"] = rung.figure.bound
    return True


async def _demand(place: Place, data: ReviewData, made: Made) -> bool:
    prepared = [line for line in data.review.demands if not line.startswith("wish")]
    typed = await place.app.push_screen_wait(
        Ask("Meets which demand?", hint="regulators at most 85 °C", prepared=prepared)
    )
    if not typed:
        return False
    try:
        demand = read_demand(typed)
    except Unreadable as problem:
        place.notify(str(problem), severity="error", timeout=10)
        return False
    if demand.is_wish:
        place.notify(f"A wish has no limit to be met; {EXAMPLE}", severity="error", timeout=10)
        return False
    made.about["line"] = demand.line
    return True


async def _watts(place: Place, data: ReviewData, made: Made) -> bool:
    typed = await place.app.push_screen_wait(Ask("How many watts, at least?", hint="140"))
    try:
        made.about["watts"] = float((typed or "").removesuffix("W").strip())
    except ValueError:
        if typed:
            place.notify(f"{typed!r} is no number of watts; write one such as 140", severity="error")
        return False
    return True


async def _product(place: Place, data: ReviewData, made: Made) -> bool:
    names = [p.name for p in made.setup.products]
    if not names:
        place.notify(f"Nothing is fitted in {made.setup.name}.", severity="warning")
        return False
    name = (
        names[0]
        if len(names) == 1
        else await place.app.push_screen_wait(Choose("Which product?", [(n, "") for n in names]))
    )
    if name is None:
        return False
    made.about.update(product=name, rig=made.setup.rig_name)
    return True


async def _rating(place: Place, data: ReviewData, made: Made) -> bool:
    product = next(p for p in made.setup.products if p.name == made.about["product"])
    items = rated_items(product, data.cell(made.setup, made.load).results)
    if not items:
        place.notify(f"Its maker says nothing of {product.name} that a run can answer.", severity="warning")
        return False
    options = [(i.label, f"{i.claimed:g} {i.unit}, {i.verdict}") for i in items]
    label = await place.app.push_screen_wait(Choose("Which of its maker's figures?", options))
    if label is None:
        return False
    made.about["rating"] = label
    return True


_ASKS: dict[str, Callable[[Place, ReviewData, Made], Awaitable[bool]]] = {
    OTHER: _other, FIGURE: _figure, DEMAND: _demand, WATTS: _watts, PRODUCT: _product, RATING: _rating,
}  # fmt: skip
