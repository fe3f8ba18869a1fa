"""The claims of a review held against its runs, its demands and its shelf."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from samovar.archive.records import Claim, Product, Setup
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_on
from samovar.core.claims.heard import check_like_the_room, check_no_tone
from samovar.core.claims.judged import (
    Checked,
    check_ahead,
    check_change,
    check_demand,
    check_fits,
    check_headroom,
    check_level,
    check_not_held,
    check_quiet_enough,
    check_rated,
    check_reads,
)
from samovar.core.claims.kinds import CHANGE, KINDS, claim_words
from samovar.core.compare.rungs import Margins, joined
from samovar.core.demands import read_demand
from samovar.core.fit import check_fit
from samovar.core.measured import Measured
from samovar.core.rated import headroom_of, rated_items
from samovar.core.results.figure import Figure, as_they_ran, figure_of
from samovar.core.units import Unreadable


def check_claim(data: ReviewData, claim: Claim) -> Checked:
    """Hold a claim against the runs; `stale` where its accepted words are no longer what they say."""
    setup = data.review.setup(claim.setup_id)
    if setup is None:
        return Checked("open", "The setup of this claim is gone.", ())
    check = _CHECKS.get(claim.kind)
    if check is None:
        return Checked("open", f"{setup.name}: nothing here checks a claim of this kind.", ())
    try:
        found = check(data, claim, setup)
    except (KeyError, Unreadable):
        found = Checked("open", f"{setup.name}: what this claim is about is no longer there.", ())
    if claim.accepted is not None and claim.accepted != found.sentence and found.state != "open":
        return Checked("stale", found.sentence, (*found.evidence, f"you accepted: {claim.accepted}"))
    return found


def holding(data: ReviewData, claims: Iterable[Claim]) -> int:
    """How many of these claims hold."""
    return sum(check_claim(data, c).state == "holds" for c in claims)


def claim_made(data: ReviewData, claim: Claim) -> str:
    """A claim as it was made."""
    setup, other = data.review.setup(claim.setup_id), data.review.setup(claim.other_id)
    words = claim_words(
        claim.kind, setup.name if setup else "?", other.name if other else None, claim.load, claim.about
    )
    limit = data.review.noise_limit_dba
    if claim.kind == "quiet-enough" and limit:
        words = words.replace("asked for", f"asked for ({limit:g} dBA)")
    return f"{words}."


def _figure(claim: Claim) -> Figure:
    return figure_of(str((claim.about or {}).get("figure") or KINDS[claim.kind].figure))


def _between(check: Callable[..., Checked]) -> Callable[[ReviewData, Claim, Setup], Checked]:
    def checked(data: ReviewData, claim: Claim, setup: Setup) -> Checked:
        other = data.review.setup(claim.other_id)
        if other is None:
            return Checked("open", f"{setup.name}: the setup it is held against is gone.", ())
        found = compare_on(data, claim.load, _figure(claim), setup.rig_name, against=other.name)
        margins = Margins(data.review.margin_k, data.review.margin_share)
        return check(found.figure, setup.name, other.name, found.cells, found.ladder, claim.load, margins)

    return checked


def _runs(data: ReviewData, claim: Claim, setup: Setup) -> tuple[str, ...]:
    return tuple(r.run for r in as_they_ran(data.cell(setup, claim.load).results))


def _quiet_enough(data: ReviewData, claim: Claim, setup: Setup) -> Checked:
    rung = compare_on(data, claim.load, figure_of("noise"), setup.rig_name).ladder.rung(setup.name)
    limit = data.review.noise_limit_dba
    return check_quiet_enough(setup.name, rung, claim.load, limit, _runs(data, claim, setup))


def _by_passes(check: Callable[..., Checked]) -> Callable[[ReviewData, Claim, Setup], Checked]:
    def checked(data: ReviewData, claim: Claim, setup: Setup) -> Checked:
        results = as_they_ran(data.cell(setup, claim.load).results)
        return check(setup.name, results, claim.load, _runs(data, claim, setup))

    return checked


def _reads(data: ReviewData, claim: Claim, setup: Setup) -> Checked:
    about = claim.about or {}
    found = compare_on(data, claim.load, _figure(claim), setup.rig_name)
    rung = found.ladder.rung(setup.name)
    half, bound = about.get("half_width"), about.get("bound")
    claimed = Measured(
        float(about["read"]), float(half) if half is not None else None, str(bound) if bound else None
    )
    return check_reads(
        found.figure, setup.name, claimed, rung.figure if rung is not None else None, claim.load,
        _runs(data, claim, setup),
    )  # fmt: skip


def _meets(data: ReviewData, claim: Claim, setup: Setup) -> Checked:
    demand = read_demand(str((claim.about or {})["line"]))
    load = demand.load or claim.load
    found = compare_on(data, load, demand.figure, setup.rig_name)
    rung = found.ladder.rung(setup.name)
    if demand.currency and found.figure.counted_in and demand.currency != found.figure.counted_in:
        return Checked(
            "open", f"{setup.name}: its price is in {found.figure.counted_in}, not in {demand.currency}.", ()
        )
    text = found.figure.text(rung.figure) if rung is not None else ""
    runs = () if demand.currency else _runs(data, claim, setup)
    return check_demand(demand, setup.name, rung.figure if rung is not None else None, text, load, runs)


def _headroom(data: ReviewData, claim: Claim, setup: Setup) -> Checked:
    results = as_they_ran(data.cell(setup, claim.load).results)
    heads = [h for r in results if (h := headroom_of(r)) is not None]
    watts = float((claim.about or {})["watts"])
    found = joined(heads) if heads else None
    return check_headroom(setup.name, claim.load, watts, found, _runs(data, claim, setup))


def _product(claim: Claim, setup: Setup) -> Product:
    name = (claim.about or {}).get("product")
    found = next((p for p in setup.products if p.name == name), None)
    if found is None:
        raise KeyError(name)
    return found


def _fits(data: ReviewData, claim: Claim, setup: Setup) -> Checked:
    product = _product(claim, setup)
    items = check_fit(product, setup.rig.details) if setup.rig is not None else []
    return check_fits(product.name, setup.rig_name, items)


def _rated(data: ReviewData, claim: Claim, setup: Setup) -> Checked:
    product, label = _product(claim, setup), (claim.about or {}).get("rating")
    rung = compare_on(data, claim.load, figure_of("noise"), setup.rig_name).ladder.rung(setup.name)
    noise = None if rung is None else rung.figure
    items = rated_items(product, data.cell(setup, claim.load).results, noise)
    item = next((i for i in items if i.label == label), None)
    return check_rated(product.name, item, _runs(data, claim, setup))


def _change(data: ReviewData, claim: Claim, setup: Setup) -> Checked:
    about = claim.about or {}
    what, run = str(about.get("what", "a change")), str(about.get("run", ""))
    return check_change(setup.name, claim.load, what, run, data.effects.get(claim.id))


_CHECKS: dict[str, Callable[[ReviewData, Claim, Setup], Checked]] = {
    "cooler": _between(check_ahead), "more-work": _between(check_ahead), "quieter": _between(check_ahead),
    "ahead": _between(check_ahead), "level": _between(check_level), "reads": _reads, "quiet-enough": _quiet_enough,
    "no-tone": _by_passes(check_no_tone), "like-the-room": _by_passes(check_like_the_room), "meets": _meets, "not-held": _by_passes(check_not_held), "headroom": _headroom, "fits": _fits, "rated": _rated, CHANGE: _change,
}  # fmt: skip
"""How each kind is checked."""
