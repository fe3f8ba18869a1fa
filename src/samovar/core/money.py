"""Prices in one currency, by rates that were typed in with their day; never without one."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated

from samovar.core.currencies import CURRENCIES, DAY, DECIMALS, Currency, Day
from samovar.core.entered import between, strict
from samovar.core.product import PRICE_KINDS, Price
from samovar.core.units import Unreadable


@strict
@dataclass(frozen=True, slots=True)
class Rate:
    """One unit of `currency` was worth `value` units of `into` on `day`."""

    currency: Currency
    into: Currency
    value: Annotated[float, between(1e-9, 1e9)]
    day: Day


@dataclass(frozen=True, slots=True)
class Converted:
    """An amount in another currency, and the rate it went by (None: it needed none)."""

    amount: float
    currency: str
    rate: Rate | None


def currency_of(text: str) -> str:
    """A currency's code as typed. Raises Unreadable where ISO 4217 has none in this trade."""
    code = text.strip().upper()
    if code not in CURRENCIES:
        raise Unreadable(f"{text!r} is no currency code of ISO 4217; write EUR or NOK")
    return code


def amount_text(amount: float, currency: str) -> str:
    """An amount with its currency, in the decimals that currency has."""
    return f"{amount:.{DECIMALS.get(currency, 2)}f} {currency}"


def read_price(text: str, today: str) -> Price:
    """A price as typed in one line: `84.50 EUR street 2026-03-02 tax 19 % at Kaimann`.

    Amount and currency are needed. Without a day it is `today`'s, without a kind a street price; `untaxed`
    says that no tax is in it, `tax 19 %` that this much is; without either it is taxed at a rate not known.

    Raises:
        Unreadable: what is wrong with it, and an example.
    """
    example = "write 84.50 EUR street 2026-03-02 tax 19 % at Kaimann"
    found = re.match(r"\s*(\d+(?:[.,]\d{1,3})?)\s*([A-Za-z]{3})\b(.*)$", text)
    if not found:
        raise Unreadable(f"{text!r} has no amount and currency; {example}")
    amount, currency, rest = float(found[1].replace(",", ".")), currency_of(found[2]), found[3]
    shop = ""
    if (at := re.search(r"\s+at\s+(.+)$", rest)) is not None:
        shop, rest = at[1].strip(), rest[: at.start()]
    day = today
    if (dated := DAY.search(rest)) is not None:
        day, rest = dated[0], rest.replace(dated[0], " ")
    taxed, share = True, None
    if (tax := re.search(r"\btax\s+(\d+(?:[.,]\d+)?)\s*%", rest)) is not None:
        share, rest = float(tax[1].replace(",", ".")) / 100.0, rest.replace(tax[0], " ")
    if re.search(r"\b(untaxed|net)\b", rest):
        taxed, rest = False, re.sub(r"\b(untaxed|net)\b", " ", rest)
    kind = "street"
    words = rest.split()
    for word in words:
        if word.lower() not in PRICE_KINDS:
            raise Unreadable(f"{word!r} is not understood in a price; {example}")
        kind = word.lower()
    return Price(amount, currency, day, kind, taxed, share, shop)


def price_typed(price: Price) -> str:
    """A price as the line that `read_price` reads back to it."""
    tax = "" if price.tax_share is None else f" tax {100 * price.tax_share:.6g} %"
    tax = tax if price.taxed else f"{tax} untaxed"
    shop = f" at {price.shop}" if price.shop else ""
    return f"{price.amount:g} {price.currency} {price.kind} {price.day}{tax}{shop}"


def without_tax(price: Price) -> float | None:
    """The amount before tax; None where the tax's rate is not known."""
    if not price.taxed:
        return price.amount
    return None if price.tax_share is None else price.amount / (1.0 + price.tax_share)


def convert(amount: float, currency: str, into: str, rates: Iterable[Rate]) -> Converted | None:
    """An amount in another currency by the latest rate between the two, either way round.

    Returns:
        None where no rate between them is known: no price is converted without one.
    """
    if currency == into:
        return Converted(amount, into, None)
    usable = [r for r in rates if {r.currency, r.into} == {currency, into} and r.value > 0]
    if not usable:
        return None
    rate = max(usable, key=lambda r: r.day)
    return Converted(amount * rate.value if rate.currency == currency else amount / rate.value, into, rate)


def read_rate(text: str, today: str) -> Rate:
    """A rate as typed: `1 EUR = 11.45 NOK 2026-03-02`; without a day it is `today`'s.

    Raises:
        Unreadable: what is wrong with it, and an example.
    """
    found = re.fullmatch(
        rf"\s*(\d+(?:[.,]\d+)?)?\s*([A-Za-z]{{3}})\s*=\s*(\d+(?:[.,]\d+)?)\s*([A-Za-z]{{3}})\s*(?:on\s+)?({DAY.pattern})?\s*",
        text,
    )
    if not found:
        raise Unreadable(f"{text!r} is no exchange rate; write 1 EUR = 11.45 NOK 2026-03-02")
    left, right = float((found[1] or "1").replace(",", ".")), float(found[3].replace(",", "."))
    one, other = currency_of(found[2]), currency_of(found[4])
    if left <= 0 or right <= 0 or one == other:
        raise Unreadable(
            f"{text!r}: two currencies and more than nothing of each; write 1 EUR = 11.45 NOK 2026-03-02"
        )
    return Rate(one, other, right / left, found[5] or today)
