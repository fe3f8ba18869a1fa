"""What the columns of the archive's tables have in common."""

from __future__ import annotations

from sqlalchemy import (
    Column,
    ForeignKey,
    Integer,
    MetaData,
    Text,
)

METADATA = MetaData()


def id_column() -> Column[int]:
    """A row's own key."""
    return Column("id", Integer, primary_key=True)


def belongs_column(name: str, to: str, nullable: bool = False) -> Column[int]:
    """The key of the row of another table that it belongs to, and goes with; where nullable, is left behind by."""
    cascade = "SET NULL" if nullable else "CASCADE"
    return Column(name, Integer, ForeignKey(f"{to}.id", ondelete=cascade), nullable=nullable, index=True)


def revision_column() -> Column[int]:
    """Counts changes, so that a second person's change on an older state is noticed; see `KeptTable.change`."""
    return Column("revision", Integer, nullable=False, default=1, server_default="1")


def changed_by_column() -> Column[str]:
    """Who changed it last, and where: `Ada on bench-2`."""
    return Column("changed_by", Text, nullable=False, default="", server_default="")


def state_column() -> Column[str]:
    """kept, archived (out of sight) or deleted (can be brought back)."""
    return Column("state", Text, nullable=False, default="kept", server_default="kept")
