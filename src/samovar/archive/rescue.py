"""A new archive of all that can still be read of a damaged one, and a list of what could not."""

from __future__ import annotations

import contextlib
import shutil
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import Table
from sqlalchemy.schema import CreateTable

from samovar.archive.archive import Archive
from samovar.archive.backup import Progress, folder_of, new_file, no_progress
from samovar.archive.check import Damaged
from samovar.archive.database import SCHEMA_VERSION
from samovar.archive.header import APPLICATION_ID
from samovar.archive.mending import mend
from samovar.archive.pages import Pages, Row
from samovar.archive.place import ArchiveError
from samovar.archive.schema import METADATA

FIRST_PAGE = 1
_KINDS: dict[str, tuple[type, ...]] = {
    "INTEGER": (int,), "BIGINT": (int,), "FLOAT": (float, int), "BLOB": (bytes,), "JSON": (str,), "TEXT": (str,),
}  # fmt: skip


@dataclass(frozen=True)
class Rescued:
    """What became of a rescue: the new archive, how many runs it holds, and what could not be read."""

    archive: str
    runs: int
    lost: tuple[Damaged, ...]


@dataclass(frozen=True)
class _Shape:
    """A table as it stands in the file: the first page of its tree (0 where that is not known), its columns, and how
    it is made."""

    root: int
    columns: tuple[str, ...]
    sql: str


def rescue(path: Path, to: Path, progress: Progress = no_progress) -> Rescued:
    """Write a new archive of all that can still be read of a file; the file itself is not touched.

    Args:
        path: the damaged archive, its log beside it.
        to: the new file; there must be none of this name.
        progress: told how many of the tables are done.

    Raises:
        ArchiveError: there is no such file, nothing of an archive in it, or the new one cannot be written.
    """
    if not path.is_file():
        raise ArchiveError(f"{path}: there is no such file; name the damaged archive with --archive")
    with new_file(to) as passing, _without_copies(passing):
        with contextlib.closing(sqlite3.connect(passing, isolation_level=None)) as fresh:
            counts = _take_over(path, fresh, progress)
        if not any(counts.values()):
            raise ArchiveError(
                f"{path}: nothing of an archive can be read in it; look for a copy in {path}.backups"
            )
        with Archive(passing) as archive:
            lost = mend(archive)
            runs = len(archive.runs.runs())
        with contextlib.closing(sqlite3.connect(passing)) as fresh:
            fresh.execute("PRAGMA journal_mode=DELETE")
    return Rescued(str(to), runs, tuple(lost))


@contextlib.contextmanager
def _without_copies(passing: Path) -> Iterator[None]:
    """Bringing an old archive up makes a copy of it; of one that is being rescued, nobody wants it."""
    try:
        yield
    finally:
        shutil.rmtree(folder_of(passing), ignore_errors=True)


def _take_over(path: Path, fresh: sqlite3.Connection, progress: Progress) -> dict[str, int]:
    """Every row that can be read, into tables made as the old ones were; the answer counts them."""
    counts: dict[str, int] = {}
    with contextlib.closing(Pages(path)) as pages:
        shapes, indices = _shapes(pages)
        fresh.execute("PRAGMA foreign_keys=OFF")
        fresh.execute("BEGIN")
        for done, (name, shape) in enumerate(shapes.items()):
            progress(done, len(shapes) + 1)
            fresh.execute(shape.sql)
            counts[name] = _insert(fresh, name, shape, pages.rows(shape.root) if shape.root else ())
        for rows in pages.stray_leaves():
            whose = _whose(rows, shapes)
            if whose is not None:
                counts[whose] += _insert(fresh, whose, shapes[whose], rows)
        progress(len(shapes), len(shapes) + 1)
        for sql in indices:
            with contextlib.suppress(sqlite3.Error):
                fresh.execute(sql)
        if "meta" in shapes:
            version = ("schema_version", str(SCHEMA_VERSION))
            fresh.execute("INSERT OR IGNORE INTO meta (key, value) VALUES (?, ?)", version)
        fresh.execute(f"PRAGMA application_id={APPLICATION_ID}")
        fresh.execute("COMMIT")
    return counts


def _shapes(pages: Pages) -> tuple[dict[str, _Shape], list[str]]:
    """The tables of the file by name, those whose entry is lost as they are made today; and what makes its indices."""
    found: dict[str, _Shape] = {}
    indices = []
    for row in pages.rows(FIRST_PAGE):
        if len(row.values) != 5 or not isinstance(row.values[4], str):
            continue
        kind, name, _, root, how = row.values
        if kind == "index":
            indices.append(how)
        if kind == "table" and name in METADATA.tables and isinstance(root, int):
            with contextlib.suppress(sqlite3.Error):
                found[name] = _as_it_was(METADATA.tables[name], root, _columns(name, how), how)
    for name, table in METADATA.tables.items():
        if name not in found:
            found[name] = _Shape(0, tuple(c.name for c in table.c), _made(table))
    return found, indices


def _as_it_was(table: Table, root: int, columns: tuple[str, ...], how: str) -> _Shape:
    """A table with its columns in the order in which the file has them. What makes it may be damaged itself: a table of
    today's columns is made as one is today, one of an older version by its own words."""
    today = {c.name for c in table.c}
    strange, missing = [c for c in columns if c not in today], today.difference(columns)
    if len(strange) == len(missing) == 1:
        # One name with a letter in it changed: it can only be the one that is missing.
        columns, missing = tuple(next(iter(missing)) if c in strange else c for c in columns), set()
    return _Shape(root, columns, _made(table) if not missing and set(columns) == today else how)


def _made(table: Table) -> str:
    return str(CreateTable(table).compile(dialect=_sqlite()))


def _sqlite() -> Any:
    from sqlalchemy.dialects import sqlite

    return sqlite.dialect()


def _columns(name: str, sql: str) -> tuple[str, ...]:
    """The columns that a statement makes, in order."""
    with contextlib.closing(sqlite3.connect(":memory:")) as memory:
        memory.execute(sql)
        return tuple(row[1] for row in memory.execute(f'PRAGMA table_info("{name}")'))


def _insert(fresh: sqlite3.Connection, name: str, shape: _Shape, rows: Iterable[Row]) -> int:
    """Enter rows of a table; what its own rules refuse is no row of it, and one that is there already stays."""
    keyed = "id" in shape.columns
    statements: dict[int, str] = {}
    count = 0
    for row in rows:
        width = len(row.values)
        if not 0 < width <= len(shape.columns):
            continue
        if width not in statements:
            # A row from before a column was added has none of it: the column's default stands for it.
            names = ", ".join(f'"{c}"' for c in shape.columns[:width])
            statements[width] = f'INSERT OR IGNORE INTO "{name}" ({names}) VALUES ({", ".join("?" * width)})'
        values = [
            row.key if keyed and c == "id" else v for c, v in zip(shape.columns, row.values, strict=False)
        ]
        with contextlib.suppress(sqlite3.Error, OverflowError):
            count += fresh.execute(statements[width], values).rowcount
    return count


def _whose(rows: Sequence[Row], shapes: Mapping[str, _Shape]) -> str | None:
    """The one table whose rows these can be; None where none, or several, would take them."""
    fitting = [
        name
        for name, shape in shapes.items()
        if "id" in shape.columns and all(_fits(METADATA.tables[name], shape.columns, row) for row in rows)
    ]
    return fitting[0] if len(fitting) == 1 else None


def _fits(table: Table, columns: Sequence[str], row: Row) -> bool:
    if len(row.values) != len(columns) or row.key <= 0:
        return False
    return all(
        _may_be(table.c[name], value)
        for name, value in zip(columns, row.values, strict=True)
        if name in table.c
    )


def _may_be(column: Any, value: object) -> bool:
    if column.name == "id":
        return value is None
    if value is None:
        return bool(column.nullable)
    kind = str(column.type.compile(dialect=_sqlite())).partition("(")[0]
    return isinstance(value, _KINDS.get(kind, (object,)))
