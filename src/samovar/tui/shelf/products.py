"""Products on the Shelf: what their makers say, what was measured, prices, notes, and whether they fit."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date
from typing import TYPE_CHECKING, Any, ClassVar

from rich.text import Text

from samovar.archive.place import ArchiveError
from samovar.archive.records import Review
from samovar.core.fields import Field, known, value_shown
from samovar.core.fit import check_fit, summary, verdict
from samovar.core.handling import note_typed, read_note
from samovar.core.money import amount_text, convert, price_typed, read_price, without_tax
from samovar.core.product import KINDS, Price, Product
from samovar.core.rated import rated_items
from samovar.core.results.figure import RunResult
from samovar.core.rig import Rig
from samovar.core.units import shown
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.form import Line
from samovar.tui.shelf.view import ShelfView

if TYPE_CHECKING:
    from samovar.tui.screens.place import Place

NAME = Field("name", "name", example="Osprey 161", needed=True)
FIT_COLOUR = {"fits": "good", "touches": "caution", "does not fit": "bad", "not known": "faint"}


class ProductsView(ShelfView):
    """Everything that can be bought."""

    NAME: ClassVar[str] = "products"
    ONE: ClassVar[str] = "product"
    COLUMNS: ClassVar[Sequence[str]] = ("product", "kind", "price", "fit")
    EMPTY: ClassVar[str] = (
        "No product yet.\n\nPress a to add the first: the cooler, case, board or computer that is reviewed.\n"
        "Sizes and ratings are typed as the box says them: 161 mm, 6.3 in, 56 CFM, 2 lb 10 oz."
    )

    def __init__(self, place: Place) -> None:
        super().__init__(place)
        # What the fit of every row asks for, once.
        self._reviews: list[Review] = []
        self._rigs: list[Rig] = []

    def product(self, key: int) -> Product:
        """The product of this key."""
        found = self.session.archive.shelf.product(key)
        assert found is not None
        return found

    def count(self) -> int:
        """How many are on the shelf."""
        return len(self.session.archive.shelf.products())

    def rig(self, product: Product) -> Rig | None:
        """The rig the fit is checked on: the one it is fitted to, else the review's, else the only one there is."""
        review = self.session.review
        for one in [*([review] if review else []), *self._reviews]:
            for setup in one.setups:
                if setup.rig is not None and any(p.id == product.id for p in setup.products):
                    return setup.rig
        if review is not None:
            rigs = [s.rig for s in review.setups if s.rig is not None]
            if rigs:
                return rigs[0]
        return self._rigs[0] if len(self._rigs) == 1 else None

    def rows(self) -> list[tuple[int, Sequence[str | Text]]]:
        """Name, kind, price, fit."""
        palette = self.palette
        out: list[tuple[int, Sequence[str | Text]]] = []
        self._reviews = self.session.archive.reviews.reviews()
        self._rigs = self.session.archive.shelf.rigs()
        for product in self.session.archive.shelf.products(self.state):
            rig = self.rig(product)
            items = check_fit(product, rig.details) if rig else []
            state = verdict(items)
            colour = getattr(palette, FIT_COLOUR[state]) if state else palette.faint
            price = product.price
            out.append(
                (
                    product.id,
                    (
                        Text(product.name, f"bold {palette.text}"),
                        product.kind,
                        Text(amount_text(price.amount, price.currency) if price else "–", justify="right"),
                        Text(state or "–", colour),
                    ),
                )
            )
        return out

    def detail(self, key: int) -> Text:
        """Specification, claims, fit, prices, notes."""
        product = self.product(key)
        text = self.heading(product.name, product.kind)
        rated = self._rated(product)
        if rated:
            self.section(text, "the maker's claims, and what was measured")
            for item in rated:
                measured = item.measured.text(item.unit, finest=1) if item.measured else "not measured yet"
                self.pair(text, item.label, f"{item.claimed:g} {item.unit}  ▸  {measured}")
                if item.difference is not None:
                    good = item.verdict in ("better than claimed", "agrees within the uncertainty")
                    words = f"{item.difference.text(item.unit, signed=True, finest=1)}: {item.verdict}"
                    self.pair(text, "", words, self.palette.good if good else self.palette.bad)
                    self.pair(text, "", item.what, self.palette.soft)
        self._fit(text, product)
        rows = known(product.fields, product.specification)
        section = ""
        for f, value in rows:
            if f.section != section:
                section = f.section
                self.section(text, section)
            self.pair(text, f.label, value_shown(f, value))
        if not rows:
            self.section(text, "specification")
            text.append("Nothing yet: Enter fills it in.\n", self.palette.soft)
        self._prices(text, product)
        self.section(text, "handling")
        for note in product.notes:
            rating = f" {note.rating:g}/10" if note.rating is not None else ""
            self.pair(text, f"{note.kind}{rating}", note.text)
        if not product.notes:
            text.append(
                "Nothing noted: n writes down ratings, quirks, faults, what is in the box.\n",
                self.palette.soft,
            )
        return text

    def _rated(self, product: Product) -> list[Any]:
        review, data, load = self.session.review, self.session.data, self.session.load
        if review is None or data is None or load is None:
            return rated_items(product, [])
        results: list[RunResult] = []
        for setup in review.setups:
            if any(p.id == product.id for p in setup.products):
                # One setup's: a maker's figure is held against one machine at a time.
                results = results or list(data.cell(setup, load).results)
        return rated_items(product, results)

    def _fit(self, text: Text, product: Product) -> None:
        rig = self.rig(product)
        if rig is None:
            if check_fit(product, {}):
                self.section(text, "does it fit")
                text.append("No rig to fit it on: g shows the rigs, a adds one.\n", self.palette.soft)
            return
        items = check_fit(product, rig.details)
        if not items:
            return
        self.section(text, f"on {rig.name}: {summary(items)}")
        for item in items:
            self.pair(text, item.name, item.words, getattr(self.palette, FIT_COLOUR[item.state]))
        text.append("f draws it to scale\n", self.palette.soft)

    def _prices(self, text: Text, product: Product) -> None:
        self.section(text, "prices")
        rates = [rate for _, rate in self.session.archive.shelf.rates()]
        home = product.price.currency if product.price else ""
        for price in sorted(product.prices, key=lambda p: p.day, reverse=True):
            day = "day not known" if price.day == "1970-01-01" else price.day
            where = f" at {price.shop}" if price.shop else ""
            self.pair(text, f"{price.kind}, {day}", f"{amount_text(price.amount, price.currency)}{where}")
            self.pair(text, "", self._tax_words(price), self.palette.soft)
            if price.currency != home:
                found = convert(price.amount, price.currency, home, rates)
                words = f"no rate to {home}: e types one in"
                if found is not None and found.rate is not None:
                    words = f"≈ {amount_text(found.amount, home)} at {found.rate.value:g} of {found.rate.day}"
                self.pair(text, "", words, self.palette.soft)
        if not product.prices:
            text.append("None yet: c types one in.\n", self.palette.soft)

    @staticmethod
    def _tax_words(price: Price) -> str:
        if not price.taxed:
            return "no tax in it"
        before = without_tax(price)
        if before is None:
            return "taxed, at a rate not known"
        share = shown("share", price.tax_share or 0.0)
        return f"with {share} tax; {amount_text(before, price.currency)} without"

    def lines(self, kind: str, name: str, values: dict[str, Any]) -> list[Line]:
        """The form's lines for a product of this kind."""
        return [Line(NAME, name), *(Line(f, values.get(f.key)) for f in KINDS[kind])]

    async def add(self) -> int | None:
        """Kind first, then its fields."""
        kinds = [(kind, ", ".join(f.label for f in fields[:4])) for kind, fields in KINDS.items()]
        kind = await self.place.app.push_screen_wait(Choose("What kind of product is it?", kinds))
        if kind is None:
            return None
        added: list[int] = []

        def keep(values: dict[str, Any]) -> str | None:
            body = dict(values)
            try:
                added.append(self.session.archive.shelf.add_product(body.pop("name"), kind, body))
            except ArchiveError as problem:
                return str(problem)
            return None

        answer = await self.ask(
            f"A new {kind}", self.lines(kind, "", {}),
            "Type figures as the maker gives them. Leave empty what is not known: it is shown as not known.", keep,
        )  # fmt: skip
        if answer is None:
            return None
        self.session.remember(f"{answer['name']} added", lambda: self.set_state(added[0], "deleted"))
        return added[0]

    async def edit(self, key: int) -> None:
        """All its fields."""
        product = self.product(key)

        def changed(values: dict[str, Any]) -> Product:
            body = dict(values)
            return replace(product, name=body.pop("name"), specification={**self._unknown(product), **body})

        await self._edit(
            product,
            f"{product.name}, {product.kind}",
            self.lines(product.kind, product.name, product.specification),
            changed,
        )

    @staticmethod
    def _unknown(product: Product) -> dict[str, Any]:
        """What the specification holds beyond its kind's fields: kept as it is."""
        keys = {f.key for f in product.fields}
        return {k: v for k, v in product.specification.items() if k not in keys}

    async def _edit(
        self,
        product: Product,
        title: str,
        lines: Sequence[Line],
        changed: Callable[[dict[str, Any]], Product],
        intro: str = "",
    ) -> None:
        shelf = self.session.archive.shelf

        def keep(values: dict[str, Any]) -> str | None:
            try:
                shelf.save_product(changed(values))
            except ArchiveError as problem:
                return str(problem)
            return None

        if await self.ask(title, lines, intro, keep) is not None:
            self.session.remember(f"{product.name} changed", lambda: shelf.save_product(product))

    async def prices(self, key: int) -> None:
        """Its prices, a line each."""
        product = self.product(key)
        today = date.today().isoformat()
        lines = [
            Line(Field(f"price{n}", f"price {n + 1}", example="84.50 EUR street tax 19 % at Kaimann"), price_typed(p) if p else None,
                 read=lambda typed: read_price(typed, today))
            for n, p in enumerate([*product.prices, None, None])
        ]  # fmt: skip
        await self._edit(
            product, f"Prices of {product.name}", lines,
            lambda values: replace(product, prices=tuple(sorted(values.values(), key=lambda p: p.day))),
            f"Amount and currency, then list, street or sale, the day ({today} where none), tax 19 % or untaxed, at the shop.",
        )  # fmt: skip

    async def notes(self, key: int) -> None:
        """What was found while handling it, a line each."""
        product = self.product(key)
        lines = [
            Line(Field(f"note{n}", f"note {n + 1}", example="rating 8.5: silent at the desk"), note_typed(x) if x else None, read=read_note)
            for n, x in enumerate([*product.notes, None, None, None])
        ]  # fmt: skip
        await self._edit(
            product, f"Handling of {product.name}", lines, lambda values: replace(product, notes=tuple(values.values())),
            "rating 8.5: why   in the box: …   fault on arrival: …   quirk: …   photograph: file name   note: …",
        )  # fmt: skip

    def duplicate(self, key: int) -> int | None:
        """A second one with the same specification."""
        new = self.session.archive.shelf.duplicate_product(self.product(key))
        self.session.remember(f"{self.name_of(new)} added", lambda: self.set_state(new, "deleted"))
        return new

    def name_of(self, key: int) -> str:
        """Its name."""
        return self.product(key).name

    def set_state(self, key: int, state: str) -> None:
        """Out of sight, deleted, back. Raises InUse."""
        self.session.archive.shelf.set_product_state(self.product(key), state)
