"""Prices told in a currency, with the tax or without, and by the country's own price first."""

from __future__ import annotations

import unittest

from samovar.core.money import Rate, read_price
from samovar.core.price_terms import PriceTerms, read_price_terms
from samovar.core.product import Product
from samovar.core.setup_price import price_of
from samovar.core.units import Unreadable

OSPREY = Product(
    1, "Osprey 161", "air cooler",
    prices=(
        read_price("84.50 EUR street tax 19 %", "2026-02-24"), read_price("979 NOK street tax 25 %", "2026-02-20"),
        read_price("99 EUR list", "2026-01-10"),
    ),
)  # fmt: skip
RATES = [Rate("EUR", "NOK", 11.62, "2026-02-27")]


class PriceTermsTest(unittest.TestCase):
    def test_a_country_is_told_by_its_own_price(self) -> None:
        self.assertEqual(price_of([OSPREY], "NOK", RATES, PriceTerms("NOK")).amount, 979.0)
        self.assertAlmostEqual(price_of([OSPREY], "NOK", RATES).amount or 0.0, 84.5 * 11.62)
        self.assertAlmostEqual(
            price_of([OSPREY], "NOK", RATES, PriceTerms("NOK", False)).amount or 0.0, 979 / 1.25
        )

    def test_a_tax_that_nobody_knows_is_not_taken_off(self) -> None:
        found = price_of([OSPREY], "EUR", RATES, read_price_terms("EUR list without tax"))
        self.assertIsNone(found.amount)
        self.assertIn("tax", found.why_not)

    def test_lines_are_read_and_told_again(self) -> None:
        for line in ("", "EUR", "NOK list", "EUR without tax", "EUR sale without tax"):
            self.assertEqual(read_price_terms(line).line, line)
        for line in ("EURO", "EUR NOK", "EUR cheap"):
            with self.subTest(line=line), self.assertRaises(Unreadable):
                read_price_terms(line)


if __name__ == "__main__":
    unittest.main()
