"""The photographs of an archive's reviews."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import Engine, delete, func, insert, select, update

from samovar.archive.schema import PHOTOGRAPH
from samovar.core.entered import free_stem
from samovar.core.shown_text import one_line


@dataclass(frozen=True, slots=True)
class Photograph:
    """One photograph.

    Attributes:
        id, name: its key, and what the article and files call it.
        caption: what stands under it.
        words: what it shows, for those who do not see it.
        kind: `jpg` or `png`.
        image: the picture.
        position: its place among the others.
    """

    id: int
    name: str
    caption: str
    words: str
    kind: str
    image: bytes
    position: int = 0


class PhotographStore:
    """Photographs by review."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def of(self, review_id: int) -> list[Photograph]:
        """A review's photographs in their order."""
        query = (
            select(PHOTOGRAPH)
            .where(PHOTOGRAPH.c.review_id == review_id)
            .order_by(PHOTOGRAPH.c.position, PHOTOGRAPH.c.id)
        )
        with self._engine.connect() as connection:
            return [
                Photograph(r.id, r.name, r.caption, r.words, r.kind, bytes(r.image), r.position)
                for r in connection.execute(query)
            ]

    def add(self, review_id: int, name: str, caption: str, words: str, kind: str, image: bytes) -> str:
        """Take a photograph in behind the others; the answer is the name it got."""
        stem = free_stem(name, {p.name for p in self.of(review_id)}, "photograph")
        mine = PHOTOGRAPH.c.review_id == review_id
        with self._engine.begin() as connection:
            last = connection.execute(
                select(func.coalesce(func.max(PHOTOGRAPH.c.position), 0)).where(mine)
            ).scalar_one()
            connection.execute(
                insert(PHOTOGRAPH).values(
                    review_id=review_id, position=last + 1, name=stem, caption=one_line(caption), words=one_line(words),
                    kind=kind, image=image,
                )
            )  # fmt: skip
        return stem

    def describe(self, photograph_id: int, caption: str, words: str) -> None:
        """Say what stands under a photograph, and what it shows."""
        with self._engine.begin() as connection:
            connection.execute(
                update(PHOTOGRAPH)
                .where(PHOTOGRAPH.c.id == photograph_id)
                .values(caption=one_line(caption), words=one_line(words))
            )

    def drop(self, photograph_id: int) -> None:
        """Take a photograph out."""
        with self._engine.begin() as connection:
            connection.execute(delete(PHOTOGRAPH).where(PHOTOGRAPH.c.id == photograph_id))

    def restore(self, review_id: int, one: Photograph) -> None:
        """Put a photograph back that was taken out."""
        with self._engine.begin() as connection:
            connection.execute(
                insert(PHOTOGRAPH).values(
                    id=one.id, review_id=review_id, position=one.position, name=one.name, caption=one.caption,
                    words=one.words, kind=one.kind, image=one.image,
                )
            )  # fmt: skip
