"""The editions that were published of an archive's reviews, and under whose name and licence."""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Mapping

from sqlalchemy import Engine, delete, insert, select, update

from samovar.archive.schema import BODY, EDITION, IMPRINT
from samovar.core.edition import Edition
from samovar.core.shown_text import one_line

AUTHOR, LICENCE = "author", "licence"
"""Kept once for all publications of an archive."""


PACKED = 4
"""Of zlib: tighter takes twice the time for a tenth less room."""


class EditionStore:
    """Editions by review."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def of(self, review_id: int) -> list[Edition]:
        """A review's editions, the first one first."""
        query = select(EDITION).where(EDITION.c.review_id == review_id).order_by(EDITION.c.number)
        with self._engine.connect() as connection:
            rows = connection.execute(query).all()
        return [Edition(row.number, str(row.day), _texts(row.words), _named(row.numbers)) for row in rows]

    def keep(self, review_id: int, edition: Edition) -> None:
        """Keep an edition; one of the same number is replaced."""
        with self._engine.begin() as connection:
            connection.execute(
                delete(EDITION).where(EDITION.c.review_id == review_id, EDITION.c.number == edition.number)
            )
            connection.execute(
                insert(EDITION).values(
                    review_id=review_id, number=edition.number, day=edition.day, words=list(edition.words),
                    numbers=dict(edition.numbers),
                )
            )  # fmt: skip

    def keep_files(self, review_id: int, number: int, files: Mapping[str, bytes]) -> None:
        """Keep what an edition wrote, by where each file stood in it; what other editions wrote the same is kept once."""
        digests = {name: hashlib.sha256(body).hexdigest() for name, body in files.items()}
        with self._engine.begin() as connection:
            have = set(connection.execute(select(BODY.c.digest)).scalars())
            new = {digests[name]: body for name, body in files.items() if digests[name] not in have}
            rows = [{"digest": d, "packed": zlib.compress(body, PACKED)} for d, body in new.items()]
            if rows:
                connection.execute(insert(BODY), rows)
            mine = (EDITION.c.review_id == review_id) & (EDITION.c.number == number)
            connection.execute(update(EDITION).where(mine).values(files=digests))
            used: set[str] = set()
            for told in connection.execute(select(EDITION.c.files)).scalars():
                used.update(_named(told).values())
            # An edition that was published again left bodies behind that nothing names any more.
            connection.execute(delete(BODY).where(BODY.c.digest.not_in(used)))

    def files_of(self, review_id: int, number: int) -> dict[str, bytes]:
        """What an edition wrote, by where each file stood in it; nothing where it was not kept."""
        mine = (EDITION.c.review_id == review_id) & (EDITION.c.number == number)
        with self._engine.connect() as connection:
            digests = _named(connection.execute(select(EDITION.c.files).where(mine)).scalar())
            found = {
                str(row.digest): zlib.decompress(row.packed)
                for row in connection.execute(select(BODY).where(BODY.c.digest.in_(set(digests.values()))))
            }
        return {name: found[digest] for name, digest in digests.items() if digest in found}

    def imprint(self, key: str) -> str:
        """The author or the licence of this archive's publications; empty where nobody said."""
        with self._engine.connect() as connection:
            found = connection.execute(select(IMPRINT.c.value).where(IMPRINT.c.key == key)).scalar()
        return "" if found is None else str(found)

    def set_imprint(self, key: str, value: str) -> None:
        """Say the author or the licence, once for all publications; an empty one is taken away."""
        with self._engine.begin() as connection:
            connection.execute(delete(IMPRINT).where(IMPRINT.c.key == key))
            if value:
                connection.execute(insert(IMPRINT).values(key=key, value=one_line(value)))


def _texts(value: object) -> tuple[str, ...]:
    return tuple(x for x in value if isinstance(x, str)) if isinstance(value, list) else ()


def _named(value: object) -> dict[str, str]:
    return {k: v for k, v in value.items() if isinstance(v, str)} if isinstance(value, dict) else {}
