"""Opening the database: its pragmas, its schema version and the steps from older ones, clear errors."""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Callable
from pathlib import Path

from sqlalchemy import Connection, Engine, create_engine, event, inspect, select
from sqlalchemy.exc import DatabaseError, OperationalError

from samovar.archive.schema import META, METADATA
from samovar.archive.steps import (
    articles_of_reviews,
    criteria_of_reviews,
    demands_of_reviews,
    frame_in_full,
    results_of_all,
)

SCHEMA_VERSION = 6
PATIENT_MS = 1500
"""How long a call waits for an archive that another program holds."""

STEPS: dict[int, Callable[[Connection], None]] = {
    1: frame_in_full, 2: results_of_all, 3: demands_of_reviews, 4: criteria_of_reviews, 5: articles_of_reviews,
}  # fmt: skip
"""Migrations: the step of key N takes a database from version N to N + 1. A database is copied aside
before the first step and keeps its old form where a step fails."""


class ArchiveError(Exception):
    """The archive cannot be used as asked; the text is one line that says where, what, and what to do."""


def open_database(where: str | Path) -> Engine:
    """An engine on the archive, made if need be and brought to the present schema version.

    Args:
        where: a file, or a database URL such as `postgresql://bench@lab/samovar`.

    Raises:
        ArchiveError: the place cannot be written, is no archive, or is from a newer version.
    """
    url = str(where)
    path = None if "://" in url else Path(url)
    if path is not None:
        _prepare_folder(path)
        url = f"sqlite:///{path}"
    engine = create_engine(url, json_deserializer=_from_json)
    if engine.dialect.name == "sqlite":
        event.listen(engine, "connect", _set_pragmas)
    try:
        _bring_up(engine, path)
    except OperationalError as problem:
        engine.dispose()
        raise ArchiveError(f"{path or url}: {in_words(problem)}") from problem
    except DatabaseError as problem:
        engine.dispose()
        raise ArchiveError(
            f"{path or url}: this is no Samovar archive; name another file with --archive"
        ) from problem
    return engine


def _from_json(text: str) -> object:
    """A cell's content; of one that is no JSON the text itself, which fits no record: it costs its row, no more."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        return text


def _prepare_folder(path: Path) -> None:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise ArchiveError(
            f"{path.parent}: the folder cannot be made ({(problem.strerror or 'error').lower()}); "
            "name another place with --archive"
        ) from problem
    if path.is_dir():
        raise ArchiveError(f"{path}: this is a folder; name a file in it with --archive")
    target = path if path.exists() else path.parent
    if not os.access(target, os.W_OK) or not os.access(path.parent, os.W_OK):
        raise ArchiveError(
            f"{path}: cannot be written; allow writing there or name another file with --archive"
        )


def _set_pragmas(connection: object, _record: object) -> None:
    cursor = connection.cursor()  # type: ignore[attr-defined]
    # WAL with NORMAL: a killed program loses nothing committed, and a commit costs no disk flush.
    for pragma in ("journal_mode=WAL", "synchronous=NORMAL", f"busy_timeout={PATIENT_MS}", "foreign_keys=ON"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def in_words(problem: Exception) -> str:
    """Why a database cannot be used just now, and what to do."""
    text = str(getattr(problem, "orig", problem)).lower()
    if "locked" in text:
        return "another program holds the archive; close it there, then try again"
    if "readonly" in text or "read-only" in text:
        return "the archive cannot be written; allow writing there or name another file with --archive"
    if "full" in text:
        return "the disk is full; make room, then try again"
    return f"{text}; check the place, or name another file with --archive"


def _bring_up(engine: Engine, path: Path | None) -> None:
    with engine.connect() as connection:
        tables = inspect(connection).get_table_names()
        version = None
        if META.name in tables:
            row = connection.execute(select(META.c.value).where(META.c.key == "schema_version")).scalar()
            version = None if row is None else int(row)
    if version is None:
        if tables:
            raise ArchiveError(
                f"{path or engine.url}: this database holds something else; name another file with --archive"
            )
        with engine.begin() as connection:
            METADATA.create_all(connection)
            connection.execute(META.insert().values(key="schema_version", value=str(SCHEMA_VERSION)))
        return
    if version > SCHEMA_VERSION:
        raise ArchiveError(
            f"{path or engine.url}: made by a newer Samovar (schema {version}, this one knows {SCHEMA_VERSION}); "
            "update Samovar, or name another file with --archive"
        )
    if version < SCHEMA_VERSION:
        migrate(engine, path, version, SCHEMA_VERSION)


def migrate(engine: Engine, path: Path | None, version: int, wanted: int) -> None:
    """Take the database from one version to another, all steps in one transaction.

    Raises:
        ArchiveError: no step leads on from some version.
    """
    if path is not None:
        with engine.connect() as connection:
            connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
        shutil.copy2(path, path.with_name(f"{path.name}.before-{wanted}"))
    with engine.begin() as connection:
        for step in range(version, wanted):
            if step not in STEPS:
                raise ArchiveError(f"{path or engine.url}: no way leads from schema {step} to {step + 1}")
            STEPS[step](connection)
        connection.execute(META.update().where(META.c.key == "schema_version").values(value=str(wanted)))
