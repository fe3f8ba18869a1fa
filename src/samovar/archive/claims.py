"""The claims of a review's verdict, in the form that can be checked."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Engine, delete, func, insert, select, update

from samovar.archive.records import Claim
from samovar.archive.schema import CLAIM


class ClaimStore:
    """The claims of all reviews of one archive."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def claims(self, review_id: int) -> list[Claim]:
        """A review's claims in order."""
        with self._engine.connect() as connection:
            rows = connection.execute(
                select(CLAIM).where(CLAIM.c.review_id == review_id).order_by(CLAIM.c.position, CLAIM.c.id)
            ).all()
        return [
            Claim(r.id, r.review_id, r.kind, r.setup_id, r.other_id, r.load, r.accepted, r.about)
            for r in rows
        ]

    def add_claim(
        self,
        review_id: int,
        kind: str,
        setup_id: int | None,
        other_id: int | None,
        load: str,
        about: dict[str, Any] | None = None,
    ) -> int:
        """Enter a claim behind the others; the answer is its key. `about`: the run, channel, moments and words that a
        claim on a change stands on."""
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
                        about=about,
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
        with self._engine.begin() as connection:
            connection.execute(insert(CLAIM).values(
                id=claim.id, review_id=claim.review_id, position=position, kind=claim.kind,
            setup_id=claim.setup_id, other_id=claim.other_id, load=claim.load, accepted=claim.accepted,
                about=claim.about,
            ))  # fmt: skip
