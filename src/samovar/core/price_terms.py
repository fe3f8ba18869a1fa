"""How a review tells its prices: in which currency, with the tax in or out, of which kind.

One line: `EUR`, `EUR without tax`, `NOK list without tax`. A product that is sold in several countries has a price in each
one's currency, and that in the review's currency goes before any that would have to be converted.
"""

from __future__ import annotations

from dataclasses import dataclass

from samovar.core.money import currency_of
from samovar.core.product import PRICE_KINDS, Price, Product
from samovar.core.units import Unreadable

WITHOUT_TAX = "without tax"
EXAMPLE = "write EUR, EUR without tax, or NOK list"


@dataclass(frozen=True, slots=True)
class PriceTerms:
    """`currency`: ISO 4217, empty for the one most prices are in; `taxed`: with the tax; `kind`: list, street or sale, empty for the
    latest street price."""

    currency: str = ""
    taxed: bool = True
    kind: str = ""

    @property
    def line(self) -> str:
        """In plain form, as it can be typed."""
        return " ".join(x for x in (self.currency, self.kind, "" if self.taxed else WITHOUT_TAX) if x)

    def price_of(self, product: Product, currency: str) -> Price | None:
        """The price of a product that counts: of the kind asked for, in `currency` where there is one, the latest."""
        prices = [p for p in product.prices if not self.kind or p.kind == self.kind]
        if self.currency and (own := [p for p in prices if p.currency == currency]):
            prices = own
        street = [p for p in prices if p.kind == "street"] or prices
        return max(street, key=lambda p: p.day) if street else None


def read_price_terms(typed: str) -> PriceTerms:
    """Read one line.

    Raises:
        Unreadable: what is wrong with it, and an example.
    """
    text = " ".join(typed.split())
    taxed = WITHOUT_TAX not in text.lower()
    words = text.lower().replace(WITHOUT_TAX, " ").replace("with tax", " ").split()
    currency, kind = "", ""
    for word in words:
        if word in PRICE_KINDS:
            kind = word
        elif not currency:
            currency = currency_of(word)
        else:
            raise Unreadable(f"{typed!r}: {word!r} is not understood; {EXAMPLE}")
    return PriceTerms(currency, taxed, kind)
