"""Named things of the archive: entered, renamed, put out of sight, deleted and brought back.

Nothing is deleted from the database: a deleted thing gives its name free and can be brought back under it.
"""

from __future__ import annotations

import contextlib
import re
from collections.abc import Mapping
from typing import Any, TypeVar

from sqlalchemy import Connection, Engine, Table, insert, select, update
from sqlalchemy.exc import IntegrityError

from samovar.archive.laboratory import bench_name
from samovar.archive.place import ArchiveError
from samovar.core.entered import NAME_MOST, checked, visible
from samovar.core.units import Unreadable

T = TypeVar("T")

KEPT, ARCHIVED, DELETED = "kept", "archived", "deleted"
_MARK = re.compile(r" \(deleted \d+\)$")


class NameTaken(ArchiveError):
    """Another thing of this kind has the name already."""


def row_name(row: Any) -> str:
    """The name of a row as a record can hold it: an older archive may have one that would not be taken today."""
    return visible(plain_name(row.name), NAME_MOST).strip() or "?"


class NotEntered(ArchiveError):
    """What was to be entered is not what it should be; the text says what is wrong and what to do."""


class ChangedMeanwhile(ArchiveError):
    """Someone else has changed it since it was read; their change stands, and the text says whose it is."""


def entered(kind: type[T], raw: Any) -> T:
    """A record that may be kept. Raises NotEntered."""
    try:
        return checked(kind, raw)
    except Unreadable as problem:
        name = raw.get("name") if isinstance(raw, dict) else None
        where = f"{visible(name, 60)}: " if isinstance(name, str) and name else ""
        raise NotEntered(f"{where}{problem}") from problem


def plain_name(name: str) -> str:
    """The name a deleted thing had."""
    return _MARK.sub("", name)


def _one_statement(connection: Connection) -> contextlib.AbstractContextManager[object]:
    """A statement that may fail without costing the transaction: SQLite takes it back alone, others need a savepoint."""
    return contextlib.nullcontext() if connection.dialect.name == "sqlite" else connection.begin_nested()


class KeptTable:
    """The rows of one table whose `name` is unique among those of the same `within` column."""

    def __init__(self, engine: Engine, table: Table, word: str, within: str | None = None) -> None:
        self._engine = engine
        self._table = table
        self._word = word
        self._within = within
        self._mine: dict[int, int] = {}

    def add(self, **values: Any) -> int:
        """Enter one; the answer is its key. Raises NameTaken."""
        with self._engine.begin() as connection:
            return self.add_in(connection, **values)

    def add_in(self, connection: Connection, **values: Any) -> int:
        """Enter one in a transaction under way. Raises NameTaken."""
        try:
            with _one_statement(connection):
                key = connection.execute(insert(self._table).values(**values)).inserted_primary_key
        except IntegrityError as problem:
            raise self._refused(connection, values, problem) from problem
        assert key is not None
        return int(key[0])

    def change(self, key: int, revision: int = 0, **values: Any) -> None:
        """Change some of its values; `revision` is that of the record the change was made on. Raises NameTaken,
        ChangedMeanwhile."""
        with self._engine.begin() as connection:
            self.change_in(connection, key, revision, **values)

    def change_in(self, connection: Connection, key: int, revision: int = 0, **values: Any) -> None:
        """The same in a transaction under way. 0 asks for no revision: what was never read is not changed on."""
        self._refuse_older(connection, key, revision)
        mine = self._table.c.id == key
        try:
            with _one_statement(connection):
                connection.execute(update(self._table).where(mine).values(**values, **self._signed()))
        except IntegrityError as problem:
            raise self._refused(connection, {"id": key, **values}, problem) from problem
        self._mine[key] = connection.execute(select(self._table.c.revision).where(mine)).scalar() or 0

    def _signed(self) -> dict[str, Any]:
        """What every change writes beside what it changes."""
        return {"revision": self._table.c.revision + 1, "changed_by": bench_name()}

    def _refuse_older(self, connection: Connection, key: int, revision: int) -> None:
        query = select(self._table.c.name, self._table.c.revision, self._table.c.changed_by)
        # Of two that come at once, a server lets the second wait here until the first is done.
        now = connection.execute(query.where(self._table.c.id == key).with_for_update()).first()
        # What this program wrote last is no other's change: an undo goes back behind it.
        if now is None or not revision or now.revision in (revision, self._mine.get(key)):
            return
        raise ChangedMeanwhile(
            f"{plain_name(now.name)}: {now.changed_by or 'someone else'} has changed this {self._word} meanwhile; "
            "theirs stands, and nothing of yours was kept: look at it as it is now, then change it again"
        )

    def _refused(
        self, connection: Connection, values: Mapping[str, Any], problem: IntegrityError
    ) -> ArchiveError:
        """Why the database took it not: the name, where that is so; else its own words."""
        name = str(values.get("name"))
        if self.has(name, values.get(self._within) if self._within else None, connection, values.get("id")):
            return NameTaken(f"{name}: another {self._word} has this name; choose another")
        return NotEntered(
            f"{name}: the archive cannot keep this {self._word} ({problem.orig}); check what it stands on"
        )

    def has(
        self, name: str, within: Any = None, connection: Connection | None = None, but: int | None = None
    ) -> bool:
        """Whether one of this name is there."""
        return self.free_name(name, within, connection, but) != name

    def set_state(self, key: int, state: str) -> str:
        """Put it out of sight, delete it or bring it back; the answer is its name from now on."""
        with self._engine.begin() as connection:
            row = connection.execute(select(self._table).where(self._table.c.id == key)).mappings().one()
            name = plain_name(row["name"])
            if state == DELETED:
                name = f"{name} (deleted {key})"
            elif row["state"] == DELETED:
                name = self.free_name(name, row[self._within] if self._within else None, connection, key)
            connection.execute(
                update(self._table)
                .where(self._table.c.id == key)
                .values(state=state, name=name, **self._signed())
            )
            self._mine[key] = int(row["revision"]) + 1
        return name

    def free_name(
        self, name: str, within: Any = None, connection: Connection | None = None, but: int | None = None
    ) -> str:
        """The name itself, or the first of `name (2)`, `name (3)` that is free."""
        query = select(self._table.c.name).where(self._table.c.id != (but or -1))
        if self._within and within is not None:
            query = query.where(self._table.c[self._within] == within)
        if connection is None:
            with self._engine.connect() as own:
                taken = set(own.execute(query).scalars())
        else:
            taken = set(connection.execute(query).scalars())
        number, candidate = 2, name
        while candidate in taken:
            candidate, number = f"{name} ({number})", number + 1
        return candidate
