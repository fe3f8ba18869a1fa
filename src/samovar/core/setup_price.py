"""What a setup costs: all that it is made of, in one currency, at rates with their day; never a part of it for the whole."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from samovar.core.money import Rate, convert, without_tax
from samovar.core.price_terms import PriceTerms
from samovar.core.product import Product

AS_SOLD = PriceTerms()
"""With the tax, the latest street price, else the latest of any kind."""


@dataclass(frozen=True, slots=True)
class SetupPrice:
    """The price of a setup.

    Attributes:
        amount: in `currency`; None where a part of it has no price, or no rate leads to the currency.
        currency: ISO 4217.
        why_not: what is missing where the amount is None.
        rates: the rates it went by.
        days: the days its prices are of, the oldest first.
    """

    amount: float | None
    currency: str
    why_not: str = ""
    rates: tuple[Rate, ...] = ()
    days: tuple[str, ...] = ()


def price_of(
    products: Sequence[Product], currency: str, rates: Iterable[Rate], terms: PriceTerms = AS_SOLD
) -> SetupPrice:
    """The sum over all products fitted.

    Args:
        products: what the setup is made of.
        currency: what it is to be told in.
        rates: what is known of exchange.
        terms: which of its prices counts, and whether the tax is in it: without, where its rate is known.
    """
    known = list(rates)
    if not products:
        return SetupPrice(None, currency, "nothing bought is fitted")
    total, used, days = 0.0, [], []
    for product in products:
        price = terms.price_of(product, currency)
        if price is None:
            return SetupPrice(None, currency, f"{product.name} has no {terms.kind} price".replace("  ", " "))
        amount = price.amount if terms.taxed else without_tax(price)
        if amount is None:
            return SetupPrice(None, currency, f"the tax in the price of {product.name} is not known")
        converted = convert(amount, price.currency, currency, known)
        if converted is None:
            return SetupPrice(
                None, currency, f"no rate from {price.currency} to {currency} for {product.name}"
            )
        total += converted.amount
        days.append(price.day)
        if converted.rate is not None:
            used.append(converted.rate)
    return SetupPrice(total, currency, "", tuple(used), tuple(sorted(days)))


def currency_of_setups(products: Mapping[str, Sequence[Product]]) -> str:
    """The currency that most prices are in, so that least is converted; EUR without any."""
    told = [p.price.currency for fitted in products.values() for p in fitted if p.price is not None]
    return max(dict.fromkeys(told), key=told.count) if told else "EUR"
