"""What stands on the shelf: products, rigs, and the exchange rates that were typed in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, replace
from typing import Any

from sqlalchemy import Engine, delete, insert, select

from samovar.archive.kept import ARCHIVED, DELETED, KEPT, KeptTable, entered, row_name
from samovar.archive.place import ArchiveError
from samovar.archive.problems import Problems
from samovar.archive.schema import PRODUCT, RATE, RIG, SETUP, SETUP_PRODUCT
from samovar.core.entered import checked, plain, visible
from samovar.core.facts import Facts
from samovar.core.framed import ProductFrame, RigFrame
from samovar.core.money import Rate
from samovar.core.product import Note, Price, Product
from samovar.core.rig import Rig, split_values


def product_of(row: Any) -> Product:
    """A row of the product table as a record. Raises Unreadable."""
    frame = checked(
        ProductFrame,
        {
            "name": row_name(row), "kind": row.kind, "specification": row.specification or {},
            "prices": row.prices or (), "notes": row.notes or (),
        },
    )  # fmt: skip
    return Product(
        row.id,
        visible(row.name),
        frame.kind,
        frame.specification,
        frame.prices,
        frame.notes,
        row.state,
        row.revision,
    )


def rig_of(row: Any) -> Rig:
    """A row of the rig table as a record. Raises Unreadable."""
    facts = checked(Facts, row.facts or {})
    frame = checked(
        RigFrame, {"name": row_name(row), "values": row.details or {}, "sensors": row.sensors or {}}
    )
    return Rig(
        row.id,
        visible(row.name),
        facts,
        split_values(frame.values)[1],
        frame.sensors,
        row.state,
        row.revision,
    )


def _product_values(
    name: str, kind: str, specification: Mapping[str, Any], prices: Sequence[Price], notes: Sequence[Note]
) -> dict[str, Any]:
    raw = {
        "name": name, "kind": kind, "specification": dict(specification),
        "prices": [asdict(p) for p in prices], "notes": [asdict(n) for n in notes],
    }  # fmt: skip
    frame = entered(ProductFrame, raw)
    return {
        "name": frame.name,
        "kind": frame.kind,
        "specification": frame.specification,
        "prices": [asdict(p) for p in frame.prices],
        "notes": [asdict(n) for n in frame.notes],
    }


def _rig_values(
    name: str, facts: Facts, details: Mapping[str, Any], sensors: Mapping[str, str]
) -> dict[str, Any]:
    known = entered(Facts, plain(facts))
    frame = entered(RigFrame, {"name": name, "values": dict(details), "sensors": dict(sensors)})
    return {"name": frame.name, "facts": plain(known), "details": frame.values, "sensors": frame.sensors}


class InUse(ArchiveError):
    """It cannot be deleted while something stands on it."""


class ShelfStore:
    """The products, rigs and rates of one archive."""

    def __init__(self, engine: Engine, problems: Problems) -> None:
        self._engine = engine
        self._problems = problems
        self._product = KeptTable(engine, PRODUCT, "product")
        self._rig = KeptTable(engine, RIG, "rig")

    def products(self, state: str = KEPT) -> list[Product]:
        """The products in this state, by name."""
        with self._engine.connect() as connection:
            query = select(PRODUCT).where(PRODUCT.c.state == state).order_by(PRODUCT.c.name)
            return self._problems.readable("product", connection.execute(query), product_of)

    def product(self, key: int) -> Product | None:
        """The product of this key."""
        with self._engine.connect() as connection:
            row = connection.execute(select(PRODUCT).where(PRODUCT.c.id == key)).first()
        return next(iter(self._problems.readable("product", [row] if row else [], product_of)), None)

    def add_product(
        self, name: str, kind: str, specification: Mapping[str, Any] | None = None, prices: Sequence[Price] = (),
        notes: Sequence[Note] = (),
    ) -> int:  # fmt: skip
        """Enter a product; the answer is its key. Raises NameTaken."""
        return self._product.add(**_product_values(name, kind, specification or {}, prices, notes))

    def save_product(self, product: Product) -> None:
        """Keep a product as it now is. Raises NameTaken."""
        self._product.change(
            product.id,
            product.revision,
            **_product_values(
                product.name, product.kind, product.specification, product.prices, product.notes
            ),
        )

    def duplicate_product(self, product: Product) -> int:
        """A second one with the same specification under a free name, without the first's prices and notes."""
        name = self._product.free_name(product.name)
        return self.add_product(name, product.kind, product.specification)

    def set_product_state(self, product: Product, state: str) -> None:
        """Put it out of sight, delete it, bring it back. Raises InUse: it is fitted in a setup."""
        if state == DELETED:
            self._refuse_if_used(
                select(SETUP.c.name).join(SETUP_PRODUCT, SETUP_PRODUCT.c.setup_id == SETUP.c.id).where(
                    SETUP_PRODUCT.c.product_id == product.id, SETUP.c.state != DELETED
                ),
                product.name,
                "take it out there first, or archive it",
            )  # fmt: skip
        self._product.set_state(product.id, state)

    def rigs(self, state: str = KEPT) -> list[Rig]:
        """The rigs in this state, by name."""
        with self._engine.connect() as connection:
            rows = connection.execute(select(RIG).where(RIG.c.state == state).order_by(RIG.c.name))
            return self._problems.readable("rig", rows, rig_of)

    def rig(self, key: int) -> Rig | None:
        """The rig of this key."""
        with self._engine.connect() as connection:
            row = connection.execute(select(RIG).where(RIG.c.id == key)).first()
        return next(iter(self._problems.readable("rig", [row] if row else [], rig_of)), None)

    def add_rig(
        self,
        name: str,
        facts: Facts,
        details: Mapping[str, Any] | None = None,
        sensors: Mapping[str, str] | None = None,
    ) -> int:
        """Enter a rig; the answer is its key. Raises NameTaken."""
        return self._rig.add(**_rig_values(name, facts, details or {}, sensors or {}))

    def save_rig(self, rig: Rig) -> None:
        """Keep a rig as it now is. Raises NameTaken."""
        self._rig.change(rig.id, rig.revision, **_rig_values(rig.name, rig.facts, rig.details, rig.sensors))

    def duplicate_rig(self, rig: Rig) -> int:
        """A second one like it under a free name."""
        return self.add_rig(self._rig.free_name(rig.name), rig.facts, rig.details, rig.sensors)

    def set_rig_state(self, rig: Rig, state: str) -> None:
        """Put it out of sight, delete it, bring it back. Raises InUse: a setup stands on it."""
        if state == DELETED:
            self._refuse_if_used(
                select(SETUP.c.name).where(SETUP.c.rig_id == rig.id, SETUP.c.state != DELETED),
                rig.name, "give these another rig first, or archive it",
            )  # fmt: skip
        self._rig.set_state(rig.id, state)

    def _refuse_if_used(self, query: Any, name: str, advice: str) -> None:
        with self._engine.connect() as connection:
            users = list(dict.fromkeys(connection.execute(query).scalars()))
        if users:
            raise InUse(f"{name}: stands in {', '.join(users[:3])}{' …' if len(users) > 3 else ''}; {advice}")

    def rates(self) -> list[tuple[int, Rate]]:
        """Every exchange rate with its key, the newest first."""
        with self._engine.connect() as connection:
            rows = connection.execute(select(RATE).order_by(RATE.c.day.desc(), RATE.c.id.desc()))
            return self._problems.readable(
                "rate",
                rows,
                lambda r: (
                    r.id,
                    checked(Rate, {"currency": r.currency, "into": r.into, "value": r.value, "day": r.day}),
                ),
            )

    def add_rate(self, rate: Rate) -> int:
        """Keep a rate; the answer is its key."""
        values = asdict(entered(Rate, asdict(rate)))
        with self._engine.begin() as connection:
            key = connection.execute(insert(RATE).values(**values)).inserted_primary_key
        assert key is not None
        return int(key[0])

    def drop_rate(self, key: int) -> None:
        """Take a rate out."""
        with self._engine.begin() as connection:
            connection.execute(delete(RATE).where(RATE.c.id == key))


def with_price(product: Product, price: Price) -> Product:
    """The product with one price more, in order of their days."""
    return replace(product, prices=tuple(sorted((*product.prices, price), key=lambda p: p.day)))


__all__ = ["ARCHIVED", "DELETED", "KEPT", "InUse", "ShelfStore", "product_of", "rig_of", "with_price"]
