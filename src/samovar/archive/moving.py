"""A whole archive taken from one place to another, file or server either way, and proof that all of it arrived."""

from __future__ import annotations

import contextlib
import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Connection, LargeBinary, Table, insert, select, text

from samovar.archive.archive import Archive
from samovar.archive.backup import Progress, new_file, no_progress
from samovar.archive.laboratory import STATEMENT_MS
from samovar.archive.place import ArchiveError, Place
from samovar.archive.schema import META, METADATA, RUN
from samovar.archive.sums import count_of

ROWS_AT_ONCE = 1000
BYTES_ROWS_AT_ONCE = 20
"""Rows with samples or pictures in them are long: few at a time keep memory small."""
_OWN = "schema_version"
"""The one thing that an archive without content holds."""


@dataclass(frozen=True)
class Moved:
    """What was taken over: from where, to where, how many rows of each table, how many runs."""

    source: str
    target: str
    rows: dict[str, int]

    @property
    def runs(self) -> int:
        """How many runs."""
        return self.rows[RUN.name]


def move(source: Archive, target: Archive, progress: Progress = no_progress) -> Moved:
    """Take all of an archive over into an empty one; the source stays as it is.

    Args:
        source, target: the two archives.
        progress: told how many rows of how many are there.

    Raises:
        ArchiveError: something stands in the target, a run is being recorded, or not all arrived as it was; then the
            target is empty as before.
    """
    if target.read_only:
        raise ArchiveError(f"{target.where}: you may only read there; ask for the right to write")
    with _one_moment(source) as theirs:
        if theirs.execute(select(RUN.c.id).where(RUN.c.state == "recording")).first() is not None:
            raise ArchiveError(f"{source.where}: a run is being recorded; end it, then move the archive")
        return _copy(theirs, source.where, target, progress)


def backup_of_server(source: Archive, place: Place, progress: Progress = no_progress) -> None:
    """A server's archive as of one moment, as a file of its own.

    Raises:
        ArchiveError: there is such a file already, or it cannot be written.
    """
    assert place.path is not None
    with new_file(place.path) as passing:
        with Archive(passing) as target, _one_moment(source) as theirs:
            _copy(theirs, source.where, target, progress)
        with Archive(passing) as target, target.connect() as connection:
            connection.exec_driver_sql("PRAGMA journal_mode=DELETE")


@contextlib.contextmanager
def _one_moment(archive: Archive) -> Iterator[Connection]:
    """A connection for which nothing changes while others write."""
    with archive.connect() as connection:
        if connection.dialect.name == "sqlite":
            connection.exec_driver_sql("BEGIN")
        else:
            connection = connection.execution_options(isolation_level="REPEATABLE READ")
        yield connection
        connection.rollback()


def _copy(theirs: Connection, where: str, target: Archive, progress: Progress) -> Moved:
    tables = METADATA.sorted_tables
    total = sum(count_of(theirs, table) for table in tables)
    rows: dict[str, int] = {}
    with target.connect() as ours, ours.begin():
        if ours.dialect.name != "sqlite":
            ours.execute(text(f"SET LOCAL statement_timeout = {60 * STATEMENT_MS}"))
        for table in tables:
            if _counted(ours, table):
                raise ArchiveError(f"{target.where}: holds something already; name an empty place to move to")
        done = 0
        for table in tables:
            for some in _batches(theirs, table):
                ours.execute(insert(table), some)
                done += len(some)
                progress(done, total)
            rows[table.name] = _counted(ours, table)
            if (rows[table.name], _digest(ours, table)) != (_counted(theirs, table), _digest(theirs, table)):
                raise ArchiveError(
                    f"{target.where}: table {table.name} did not arrive as it was; nothing was moved, try again"
                )
        _count_on(ours)
    return Moved(where, target.where, rows)


def _counted(connection: Connection, table: Table) -> int:
    """How many rows a table has beside what every archive holds."""
    own = connection.execute(select(META.c.key).where(META.c.key == _OWN)).first() if table is META else None
    return count_of(connection, table) - (own is not None)


def _in_order(table: Table) -> Any:
    query = select(table).order_by(*table.primary_key.columns)
    return query.where(table.c.key != _OWN) if table is META else query


def _batches(connection: Connection, table: Table) -> Iterator[list[dict[str, Any]]]:
    size = BYTES_ROWS_AT_ONCE if any(isinstance(c.type, LargeBinary) for c in table.c) else ROWS_AT_ONCE
    found = connection.execute(_in_order(table).execution_options(yield_per=size))
    for some in found.mappings().partitions(size):
        yield [dict(row) for row in some]


def _digest(connection: Connection, table: Table) -> str:
    """What a table comes to, row by row in the order of its keys."""
    total = hashlib.blake2b(digest_size=16)
    size = BYTES_ROWS_AT_ONCE if any(isinstance(c.type, LargeBinary) for c in table.c) else ROWS_AT_ONCE
    for row in connection.execute(_in_order(table).execution_options(yield_per=size)):
        total.update(
            repr([bytes(v) if isinstance(v, memoryview) else v for v in row]).encode("utf-8", "replace")
        )
    return total.hexdigest()


def _count_on(connection: Connection) -> None:
    """A server gives the next row the next key: it has to know which ones came with their own."""
    if connection.dialect.name == "sqlite":
        return
    for table in METADATA.sorted_tables:
        if "id" in table.c:
            connection.execute(
                text(
                    f"SELECT setval(pg_get_serial_sequence('\"{table.name}\"', 'id'), "
                    f'greatest((SELECT coalesce(max(id), 0) FROM "{table.name}"), 1), '
                    f'(SELECT count(*) FROM "{table.name}") > 0)'
                )
            )
