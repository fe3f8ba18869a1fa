"""Checksums over all of a run: what damage leaves behind no longer fits them, however readable it looks."""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, TypeVar

from sqlalchemy import Connection, Table, delete, func, insert, select

from samovar.archive.schema import (
    ANNOTATION,
    CHANGE,
    CHANNEL,
    EXCLUDED,
    FINDING,
    HAND_READING,
    MARK,
    RESULT,
    RUN,
    SEAL,
    SERIES,
)

T = TypeVar("T")

ENTRY, CHANNELS, MARKS, READINGS, CHANGES = "entry", "channels", "marks", "hand readings", "changes"
ANNOTATIONS, EXCLUSIONS, FINDINGS, RESULTS = "annotations", "stretches left out", "finding", "results"

PARTS: dict[str, Table] = {
    ENTRY: RUN, CHANNELS: CHANNEL, MARKS: MARK, READINGS: HAND_READING, CHANGES: CHANGE, ANNOTATIONS: ANNOTATION,
    EXCLUSIONS: EXCLUDED, FINDINGS: FINDING, RESULTS: RESULT,
}  # fmt: skip
"""The parts of a run that have a checksum each; its samples have one in every row of theirs."""
COMPUTED = (FINDINGS, RESULTS)
"""Parts that can be had again from the others."""
_NOT_SUMMED = ("id", "run_id", "owner", "in_steps")
BATCH = 200
"""Runs looked through at a time: few statements, and little in memory."""


def sum_of_series(position: int, encoding: str, data: bytes) -> int:
    """The checksum of one series' row."""
    return zlib.crc32(data, zlib.crc32(f"{position} {encoding}".encode()))


def _run_column(table: Table) -> Any:
    return table.c.id if table is RUN else table.c.run_id


def digest_of(rows: Iterable[Any]) -> str:
    """What rows of one part of a run come to, in the order of their keys; the first column is the run's number."""
    text = repr([_summed(row) for row in rows])
    return hashlib.blake2b(text.encode("utf-8", "surrogatepass"), digest_size=8).hexdigest()


_LATER = {c.name for table in PARTS.values() for c in table.c if "since" in c.info}
"""Columns that came later than checksums did: while they hold nothing, a row comes to what it always came to."""


def _summed(row: Any) -> tuple[Any, ...]:
    found = tuple(row)[1:]
    names = getattr(row, "_fields", ("",) * (len(found) + 1))[1:]
    return tuple(v for name, v in zip(names, found, strict=True) if v is not None or name not in _LATER)


def rows_of(connection: Connection, part: str, numbers: Sequence[int]) -> dict[int, list[Any]]:
    """The rows of a part by run, in the order of their keys: the run's number, then all that has a checksum. Runs that
    have none are not named."""
    table = PARTS[part]
    run = _run_column(table)
    columns = [c for c in table.c if c.name not in _NOT_SUMMED]
    found: dict[int, list[Any]] = {}
    query = select(run.label("run_id"), *columns).where(run.in_(numbers)).order_by(run, table.c.id)
    for row in connection.execute(query):
        found.setdefault(row[0], []).append(row)
    return found


@dataclass(frozen=True)
class Parts:
    """Parts of several runs as they stand in the archive.

    Attributes:
        rows: by part and run its rows, as of `rows_of`.
        kept: by run and part the checksum that was kept.
    """

    rows: dict[str, dict[int, list[Any]]]
    kept: dict[tuple[int, str], str]
    _unlike: dict[int, list[str]] = field(default_factory=dict)

    def of(self, part: str, number: int) -> list[Any]:
        """A run's rows of a part."""
        return self.rows[part].get(number, [])

    def unlike(self, number: int) -> list[str]:
        """The parts of a run that are not what was kept of them; none where it is whole."""
        if number not in self._unlike:
            self._unlike[number] = [
                part
                for part in self.rows
                if self.kept.get((number, part))
                != (digest_of(rows) if (rows := self.of(part, number)) else None)
            ]
        return self._unlike[number]


def parts_of(connection: Connection, numbers: Sequence[int], *parts: str) -> Parts:
    """These parts of several runs, with their checksums; one statement for each part, and one more."""
    query = select(SEAL.c.run_id, SEAL.c.part, SEAL.c.digest)
    query = query.where(SEAL.c.run_id.in_(numbers), SEAL.c.part.in_(parts))
    kept = {(number, part): digest for number, part, digest in connection.execute(query)}
    return Parts({part: rows_of(connection, part, numbers) for part in parts}, kept)


def reseal(connection: Connection, number: int, *parts: str) -> None:
    """Keep what these parts of a run now come to; belongs to every transaction that changes them."""
    connection.execute(delete(SEAL).where(SEAL.c.run_id == number, SEAL.c.part.in_(parts)))
    rows = [
        {"run_id": number, "part": part, "digest": digest_of(found[number])}
        for part in parts
        if (found := rows_of(connection, part, [number]))
    ]
    if rows:
        connection.execute(insert(SEAL), rows)


def checked_series(connection: Connection, number: int, channels: int) -> str | None:
    """What is wrong with a sealed run's samples; None where every series is whole."""
    seen = set()
    query = select(SERIES.c.position, SERIES.c.encoding, SERIES.c.data, SERIES.c.sum)
    for row in connection.execute(query.where(SERIES.c.run_id == number)):
        seen.add(row.position)
        if not fits(row):
            return series_words(row.position)
    missing = set(range(-1, channels)) - seen
    return series_words(min(missing)) if missing else None


def fits(row: Any) -> bool:
    """Whether a series' row is what its checksum says."""
    # Damage may have made text of bytes, or bytes of a number.
    if not isinstance(row.data, bytes | memoryview) or not isinstance(row.sum, int):
        return False
    return sum_of_series(row.position, row.encoding, bytes(row.data)) == row.sum


def series_words(position: object) -> str:
    """Which series it is, counted from one; its place, too, may be damaged."""
    if not isinstance(position, int):
        return "no longer what was kept: the samples of a channel that can no longer be told"
    which = f"samples of channel {position + 1}" if position >= 0 else "samples' times"
    return f"no longer what was kept: its {which}"


def batches(runs: Sequence[T]) -> Iterator[Sequence[T]]:
    """Runs, so many at a time."""
    for begin in range(0, len(runs), BATCH):
        yield runs[begin : begin + BATCH]


def seal_all(connection: Connection) -> None:
    """Checksums for every run of an archive that has none yet."""
    numbers = list(connection.execute(select(RUN.c.id).order_by(RUN.c.id)).scalars())
    connection.execute(delete(SEAL))
    for some in batches(numbers):
        for part in PARTS:
            rows = [
                {"run_id": number, "part": part, "digest": digest_of(found)}
                for number, found in rows_of(connection, part, some).items()
            ]
            if rows:
                connection.execute(insert(SEAL), rows)
    for key in list(connection.execute(select(SERIES.c.id).where(SERIES.c.sum.is_(None))).scalars()):
        row = connection.execute(
            select(SERIES.c.position, SERIES.c.encoding, SERIES.c.data).where(SERIES.c.id == key)
        ).one()
        total = sum_of_series(row.position, row.encoding, bytes(row.data))
        connection.execute(SERIES.update().where(SERIES.c.id == key).values(sum=total))


def count_of(connection: Connection, table: Table) -> int:
    """How many rows a table has."""
    return int(connection.execute(select(func.count()).select_from(table)).scalar_one())
