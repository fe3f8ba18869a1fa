"""Pieces of sound that were asked to be kept: each once, whole, by the SHA-256 of its content."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable

from sqlalchemy import Engine, insert, select

from samovar.archive.schema import CLIP


class Clips:
    """The clips of one archive."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def keep(self, flac: bytes) -> str:
        """Keep a piece of sound; the answer names it. One that is kept already is kept once."""
        digest = hashlib.sha256(flac).hexdigest()
        with self._engine.begin() as connection:
            if connection.execute(select(CLIP.c.digest).where(CLIP.c.digest == digest)).first() is None:
                connection.execute(insert(CLIP).values(digest=digest, flac=flac))
        return digest

    def of(self, digests: Iterable[str]) -> dict[str, bytes]:
        """The pieces of these names; one that is not there, or is no longer what was kept, is left out."""
        with self._engine.connect() as connection:
            rows = connection.execute(select(CLIP).where(CLIP.c.digest.in_(set(digests)))).all()
        found = {row.digest: bytes(row.flac) for row in rows}
        return {key: data for key, data in found.items() if hashlib.sha256(data).hexdigest() == key}
