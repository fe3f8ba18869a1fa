"""The products of a review as its page lists them: figures, claims against measures, prices, fit, handling."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from samovar.archive.archive import Archive
from samovar.archive.records import Product, Rig
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_on
from samovar.core.fields import known, value_shown
from samovar.core.fit import check_fit, summary
from samovar.core.measured import Measured
from samovar.core.money import Rate, amount_text, convert
from samovar.core.rated import rated_items
from samovar.core.results.figure import RunResult, figure_of


@dataclass(frozen=True)
class Fitted:
    """A product of the review, the rig it is fitted to, and its runs under the load that is looked at: those of one setup, for a
    maker's figure is held against one machine at a time; `noise` is their level, as the comparison tells it."""

    product: Product
    rig: Rig | None
    results: list[RunResult]
    noise: Measured | None = None


def fitted_products(data: ReviewData, load: str) -> list[Fitted]:
    """Every product of the review's setups once, in their order."""
    found: dict[int, Fitted] = {}
    for setup in data.review.setups:
        results = data.cell(setup, load).results
        for product in setup.products:
            one = found.setdefault(product.id, Fitted(product, setup.rig, []))
            if results and not one.results:
                rung = compare_on(data, load, figure_of("noise"), setup.rig_name).ladder.rung(setup.name)
                level = None if rung is None else rung.figure
                found[product.id] = Fitted(product, setup.rig, list(results), level)
    return list(found.values())


def product_entries(
    archive: Archive, fitted: list[Fitted], drawings: Mapping[int, object]
) -> list[dict[str, Any]]:
    """What the page shows of each product; `drawings` by product are figures of its fit."""
    rates = [rate for _, rate in archive.shelf.rates()]
    return [
        {
            "name": one.product.name,
            "kind": one.product.kind,
            "figures": [
                f"{f.label} {value_shown(f, value)}"
                for f, value in known(one.product.fields, one.product.specification)
            ],
            "claims": _claims(one),
            "prices": _prices(one.product, rates),
            "fit": _fit(one),
            "notes": [
                (f"{note.kind} {note.rating:g}/10" if note.rating is not None else note.kind, note.text)
                for note in one.product.notes
            ],
            "drawing": drawings.get(one.product.id),
        }
        for one in fitted
    ]


def _claims(one: Fitted) -> list[str]:
    out = []
    for item in rated_items(one.product, one.results, one.noise):
        if item.measured is None or item.difference is None:
            out.append(f"{item.label} {item.claimed:g} {item.unit}: not measured yet")
            continue
        measured, gap = (
            item.measured.text(item.unit, finest=1),
            item.difference.text(item.unit, signed=True, finest=1),
        )
        out.append(
            f"{item.label} {item.claimed:g} {item.unit}, found {measured} ({gap}, {item.verdict}); {item.what}"
        )
    return out


def _prices(product: Product, rates: list[Rate]) -> list[str]:
    home = product.price.currency if product.price else ""
    out = []
    for price in sorted(product.prices, key=lambda p: p.day, reverse=True):
        day = "" if price.day == "1970-01-01" else f", {price.day}"
        words = f"{amount_text(price.amount, price.currency)} ({price.kind}{day}{f', {price.shop}' if price.shop else ''})"
        found = convert(price.amount, price.currency, home, rates) if price.currency != home else None
        if found is not None and found.rate is not None:
            words += f", about {amount_text(found.amount, home)} at the rate of {found.rate.day}"
        out.append(words)
    return out


def _fit(one: Fitted) -> str | None:
    items = check_fit(one.product, one.rig.details) if one.rig else []
    return f"On {one.rig.name}: {summary(items)}." if items and one.rig else None
