"""What a reviewer made of the sentences that were drafted for a review."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import Engine, delete, insert, select

from samovar.archive.schema import DRAFTED

KEPT, STRUCK = "kept", "struck"
"""What was decided; a sentence that was kept and no longer stands in the article was reworded."""


@dataclass(frozen=True, slots=True)
class Drafted:
    """A sentence that was decided on: its key in the draft, the decision, and how the draft read then."""

    key: str
    state: str
    text: str


class DraftStore:
    """Decisions by review."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def of(self, review_id: int) -> dict[str, Drafted]:
        """A review's decisions by the sentence's key."""
        query = select(DRAFTED).where(DRAFTED.c.review_id == review_id).order_by(DRAFTED.c.id)
        with self._engine.connect() as connection:
            return {r.key: Drafted(r.key, r.state, r.text) for r in connection.execute(query)}

    def decide(self, review_id: int, key: str, state: str | None, text: str) -> None:
        """Keep a decision; None takes it back."""
        with self._engine.begin() as connection:
            mine = (DRAFTED.c.review_id == review_id) & (DRAFTED.c.key == key)
            connection.execute(delete(DRAFTED).where(mine))
            if state is not None:
                connection.execute(
                    insert(DRAFTED).values(review_id=review_id, key=key, state=state, text=text)
                )
