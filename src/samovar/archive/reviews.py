"""Reviews in the archive, with their setups, products, rigs and claims."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from sqlalchemy import Engine, delete, func, insert, select, update

from samovar.archive.records import Claim, Product, Review, Setup
from samovar.archive.schema import CLAIM, PRODUCT, REVIEW, RIG, SETUP, SETUP_PRODUCT
from samovar.core.facts import Facts
from samovar.core.facts_plain import facts_from_plain, facts_to_plain


def slug_of(name: str) -> str:
    """A name as files and calls carry it: `voice-booth-playout-pc`."""
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "review"


class ReviewStore:
    """The reviews of one archive, and what they are made of."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def add_product(
        self,
        name: str,
        kind: str,
        specification: dict[str, Any],
        price: float | None = None,
        currency: str | None = None,
    ) -> int:
        """Enter a product; the answer is its key."""
        return self._insert(
            PRODUCT, name=name, kind=kind, specification=specification, price=price, currency=currency
        )

    def add_rig(self, name: str, facts: Facts, conditions: dict[str, Any] | None = None) -> int:
        """Enter a rig; the answer is its key."""
        return self._insert(RIG, name=name, facts=facts_to_plain(facts), conditions=conditions or {})

    def add_review(
        self,
        name: str,
        question: str,
        loads: Sequence[str],
        *,
        passes_wanted: int = 2,
        noise_limit_dba: float | None = None,
    ) -> int:
        """Enter a review; the answer is its key."""
        return self._insert(
            REVIEW,
            slug=slug_of(name),
            name=name,
            question=question,
            loads=list(loads),
            passes_wanted=passes_wanted,
            noise_limit_dba=noise_limit_dba,
        )

    def add_setup(
        self,
        review_id: int,
        name: str,
        rig_id: int | None,
        product_ids: Sequence[int] = (),
        *,
        reference: bool = False,
        changes: dict[str, str] | None = None,
    ) -> int:
        """Enter a setup behind those the review has; the answer is its key."""
        with self._engine.begin() as connection:
            position = connection.execute(
                select(func.count()).select_from(SETUP).where(SETUP.c.review_id == review_id)
            ).scalar_one()
            key = connection.execute(
                insert(SETUP).values(
                    review_id=review_id,
                    rig_id=rig_id,
                    name=name,
                    position=position,
                    reference=int(reference),
                    changes=changes or {},
                )
            ).inserted_primary_key[0]  # type: ignore[index]
            for product_id in product_ids:
                connection.execute(insert(SETUP_PRODUCT).values(setup_id=key, product_id=product_id))
        return int(key)

    def _insert(self, table: Any, **values: Any) -> int:
        with self._engine.begin() as connection:
            key = connection.execute(insert(table).values(**values)).inserted_primary_key
            assert key is not None
            return int(key[0])

    def products(self) -> list[Product]:
        """Every product, by name."""
        with self._engine.connect() as connection:
            return [_product(r) for r in connection.execute(select(PRODUCT).order_by(PRODUCT.c.name))]

    def reviews(self) -> list[Review]:
        """Every review with its setups, in the order they were entered."""
        with self._engine.connect() as connection:
            reviews = connection.execute(select(REVIEW).order_by(REVIEW.c.id)).all()
            rigs = {r.id: r for r in connection.execute(select(RIG))}
            products = {r.id: _product(r) for r in connection.execute(select(PRODUCT))}
            fitted: dict[int, list[Product]] = {}
            for row in connection.execute(select(SETUP_PRODUCT).order_by(SETUP_PRODUCT.c.id)):
                fitted.setdefault(row.setup_id, []).append(products[row.product_id])
            setups: dict[int, list[Setup]] = {}
            for row in connection.execute(select(SETUP).order_by(SETUP.c.position, SETUP.c.id)):
                rig = rigs.get(row.rig_id)
                setups.setdefault(row.review_id, []).append(
                    Setup(
                        row.id,
                        row.review_id,
                        row.name,
                        bool(row.reference),
                        row.position,
                        dict(row.changes or {}),
                        tuple(fitted.get(row.id, ())),
                        rig.name if rig else None,
                        facts_from_plain(rig.facts if rig else None),
                    )
                )
        return [
            Review(
                r.id,
                r.slug,
                r.name,
                r.question,
                r.verdict,
                r.margin_k,
                r.margin_share,
                r.noise_limit_dba,
                r.passes_wanted,
                tuple(r.loads),
                tuple(setups.get(r.id, ())),
            )
            for r in reviews
        ]

    def review(self, name: str | int) -> Review | None:
        """The review of this key, slug or name; None where there is none."""
        for review in self.reviews():
            if name == review.id or str(name).lower() in (review.slug, review.name.lower()):
                return review
        return None

    def set_verdict(self, review_id: int, text: str) -> None:
        """Keep the reviewer's own words."""
        with self._engine.begin() as connection:
            connection.execute(update(REVIEW).where(REVIEW.c.id == review_id).values(verdict=text))

    def claims(self, review_id: int) -> list[Claim]:
        """A review's claims in order."""
        with self._engine.connect() as connection:
            rows = connection.execute(
                select(CLAIM).where(CLAIM.c.review_id == review_id).order_by(CLAIM.c.position, CLAIM.c.id)
            ).all()
        return [Claim(r.id, r.review_id, r.kind, r.setup_id, r.other_id, r.load, r.accepted) for r in rows]

    def add_claim(
        self, review_id: int, kind: str, setup_id: int | None, other_id: int | None, load: str
    ) -> int:
        """Enter a claim behind the others; the answer is its key."""
        with self._engine.begin() as connection:
            position = connection.execute(
                select(func.coalesce(func.max(CLAIM.c.position), 0)).where(CLAIM.c.review_id == review_id)
            ).scalar_one()
            return int(
                connection.execute(
                    insert(CLAIM).values(
                        review_id=review_id,
                        kind=kind,
                        setup_id=setup_id,
                        other_id=other_id,
                        load=load,
                        position=position + 1,
                    )
                ).inserted_primary_key[0]  # type: ignore[index]
            )

    def accept_claim(self, claim_id: int, text: str | None) -> None:
        """Keep the text the reviewer agrees to; None takes the agreement back."""
        with self._engine.begin() as connection:
            connection.execute(update(CLAIM).where(CLAIM.c.id == claim_id).values(accepted=text))

    def drop_claim(self, claim_id: int) -> None:
        """Take a claim out."""
        with self._engine.begin() as connection:
            connection.execute(delete(CLAIM).where(CLAIM.c.id == claim_id))

    def restore_claim(self, claim: Claim, position: int) -> None:
        """Put a dropped claim back where it was."""
        self._insert(
            CLAIM, id=claim.id, review_id=claim.review_id, position=position, kind=claim.kind,
            setup_id=claim.setup_id, other_id=claim.other_id, load=claim.load, accepted=claim.accepted,
        )  # fmt: skip


def _product(row: Any) -> Product:
    return Product(row.id, row.name, row.kind, dict(row.specification or {}), row.price, row.currency)
