"""Currencies and days, as prices and rates carry them."""

from __future__ import annotations

import re
from typing import Annotated

from samovar.core.entered import Check

CURRENCIES = frozenset(
    [
        "AED",
        "ARS",
        "AUD",
        "BGN",
        "BHD",
        "BRL",
        "CAD",
        "CHF",
        "CLP",
        "CNY",
        "COP",
        "CZK",
        "DKK",
        "EGP",
        "EUR",
        "GBP",
        "GEL",
        "HKD",
        "HUF",
        "IDR",
        "ILS",
        "INR",
        "ISK",
        "JOD",
        "JPY",
        "KES",
        "KRW",
        "KWD",
        "KZT",
        "MAD",
        "MXN",
        "MYR",
        "NGN",
        "NOK",
        "NZD",
        "OMR",
        "PEN",
        "PHP",
        "PKR",
        "PLN",
        "QAR",
        "RON",
        "RSD",
        "SAR",
        "SEK",
        "SGD",
        "THB",
        "TND",
        "TRY",
        "TWD",
        "UAH",
        "USD",
        "UYU",
        "VND",
        "ZAR",
    ]
)
"""ISO 4217 codes of currencies in which such goods are sold."""
DECIMALS = {
    "JPY": 0,
    "KRW": 0,
    "VND": 0,
    "CLP": 0,
    "ISK": 0,
    "IDR": 0,
    "HUF": 0,
    "KWD": 3,
    "BHD": 3,
    "OMR": 3,
    "TND": 3,
    "JOD": 3,
}
"""The decimals of those that have not two."""
DAY = re.compile(r"\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])")


def _currency(code: str) -> str:
    if code not in CURRENCIES:
        raise ValueError(f"{code[:20]!r} is no currency code of ISO 4217; write EUR or NOK")
    return code


def _day(day: str) -> str:
    if not DAY.fullmatch(day):
        raise ValueError(f"{day[:20]!r} is no day; write one such as 2026-03-02")
    return day


Currency = Annotated[str, Check(_currency)]
Day = Annotated[str, Check(_day)]
