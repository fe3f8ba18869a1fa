"""Opening the database: a file or a server, its schema version and the steps from older ones, clear errors."""

from __future__ import annotations

import contextlib
import json
import os
import sqlite3
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import Connection, Engine, create_engine, event, inspect, select, text
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.pool import QueuePool

from samovar.archive import header, laboratory
from samovar.archive.backup import OWNER_ALONE, backup_before, backups_of
from samovar.archive.place import ArchiveError, Place, place_of
from samovar.archive.schema import META, METADATA, RUN
from samovar.archive.steps import (
    accuracies,
    articles_of_reviews,
    criteria_of_reviews,
    demands_of_reviews,
    frame_in_full,
    results_of_all,
    sounds,
    sums_of_all,
    surfaces,
)

SCHEMA_VERSION = 10
PATIENT_MS = 1500
"""How long a call waits for an archive that another program holds."""
OPENING_PATIENCE_S = 5.0
"""So long an archive is waited for while another program makes it, or brings it up to date."""
_AGAIN_S = 0.05

STEPS: dict[int, Callable[[Connection], None]] = {
    1: frame_in_full, 2: results_of_all, 3: demands_of_reviews, 4: criteria_of_reviews, 5: articles_of_reviews,
    6: sums_of_all, 7: accuracies, 8: sounds, 9: surfaces,
}  # fmt: skip
"""Migrations: the step of key N takes a database from version N to N + 1. A database is copied aside
before the first step and keeps its old form where a step fails."""


class BrokenArchive(ArchiveError):
    """A file of ours that can no longer be read as it stands.

    Attributes:
        path: the file.
        what: what is wrong with it.
        backups: the copies there are of it, the newest first.
    """

    def __init__(self, path: Path, what: str) -> None:
        self.path, self.what, self.backups = path, what, backups_of(path)
        copy = f"; its last whole copy is {self.backups[0]}" if self.backups else ""
        super().__init__(
            f"{path}: this archive is {what}; samovar archive rescue NEW.sqlite --archive {path} "
            f"saves all that can still be read{copy}"
        )


@dataclass(frozen=True)
class Database:
    """An open database: its engine, its place, and whether this user may only read it."""

    engine: Engine
    place: Place
    read_only: bool


def open_database(where: str | Path | Place) -> Database:
    """The archive, made if need be and brought to the present schema version.

    Args:
        where: a file, or an address such as `postgresql://bench@lab/samovar`.

    Raises:
        BrokenArchive: it is cut off or damaged, so that nothing can be read of it as it stands.
        ArchiveError: the place cannot be read, is no archive, or is from a newer version.
    """
    place = place_of(where)
    read_only = False
    if place.path is not None:
        read_only = _prepare_file(place, place.path)
        engine = (
            _for_reading(place, place.path)
            if read_only
            else create_engine(place.url, json_deserializer=_from_json)
        )
        event.listen(engine, "connect", _set_pragmas)
    else:
        engine = laboratory.engine_for(place, _from_json)
    try:
        with _in_plain_words(place):
            read_only = _bring_up(engine, place, read_only)
    except BaseException:
        engine.dispose()
        raise
    return Database(engine, place, read_only)


@contextlib.contextmanager
def _in_plain_words(place: Place) -> Iterator[None]:
    try:
        yield
    except OperationalError as problem:
        raise ArchiveError(f"{place.words}: {in_words(problem)}") from problem
    except DBAPIError as problem:
        if place.path is None:
            raise ArchiveError(f"{place.words}: {in_words(problem)}") from problem
        raise BrokenArchive(place.path, "damaged") from problem
    except UnicodeDecodeError as problem:
        # The database's own complaint quotes what damage has made of its tables' description.
        if place.path is None:
            raise
        raise BrokenArchive(place.path, "damaged") from problem


def _for_reading(place: Place, path: Path) -> Engine:
    """An engine on a file that this user may not write. In a folder that may not be written either, nothing can stand
    beside it, and nobody else writes it."""
    uri = place.read_only_uri(immutable=not os.access(path.parent, os.W_OK) and not header.has_log(path))
    return create_engine(
        "sqlite://",
        creator=lambda: sqlite3.connect(uri, uri=True, check_same_thread=False),
        poolclass=QueuePool,
        json_deserializer=_from_json,
    )


def _from_json(text: str) -> object:
    """A cell's content; of one that is no JSON the text itself, which fits no record: it costs its row, no more."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        return text


def _prepare_file(place: Place, path: Path) -> bool:
    """See to folder and file before the database layer does; True where the file may only be read."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise ArchiveError(
            f"{path.parent}: the folder cannot be made ({(problem.strerror or 'error').lower()}); "
            "name another place with --archive"
        ) from problem
    if path.is_dir():
        raise ArchiveError(f"{path}: this is a folder; name a file in it with --archive")
    try:
        kind = header.kind_of(place)
    except OSError as problem:
        raise ArchiveError(
            f"{path}: cannot be read ({(problem.strerror or 'error').lower()}); "
            "allow reading it or name another file with --archive"
        ) from problem
    if kind == header.FOREIGN:
        raise ArchiveError(
            f"{path}: this is no Samovar archive and was left as it is; name another file with --archive"
        )
    if kind in (header.CUT_OFF, header.BROKEN):
        raise BrokenArchive(path, "cut off" if kind == header.CUT_OFF else "damaged")
    if kind == header.NEW and path.exists() and backups_of(path) and not header.has_log(path):
        raise BrokenArchive(path, "empty")
    if kind == header.OURS and not os.access(path, os.W_OK):
        return True
    target = path if path.exists() else path.parent
    if not os.access(target, os.W_OK) or not os.access(path.parent, os.W_OK):
        raise ArchiveError(
            f"{path}: cannot be written; allow writing there or name another file with --archive"
        )
    with contextlib.suppress(FileExistsError):
        # Before the database layer makes it for everybody to read; its log and index take the same rights.
        os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, OWNER_ALONE))
    return False


def _set_pragmas(connection: object, _record: object) -> None:
    # Text that damage has reached is read all the same: it fits no checksum, and costs its row, no more.
    connection.text_factory = _text  # type: ignore[attr-defined]
    cursor = connection.cursor()  # type: ignore[attr-defined]
    for pragma in (f"busy_timeout={PATIENT_MS}", "foreign_keys=ON", "synchronous=NORMAL"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def _text(data: bytes) -> str:
    return data.decode("utf-8", "replace")


def archive_words(problem: BaseException) -> str | None:
    """What is to be said of a problem with an archive, in a call and in the interface alike; None where it is another
    problem."""
    if isinstance(problem, ArchiveError):
        return str(problem)
    return f"archive: {in_words(problem)}" if isinstance(problem, DBAPIError) else None


def in_words(problem: Exception) -> str:
    """Why a database cannot be used just now, and what to do."""
    text = str(getattr(problem, "orig", problem)).strip()
    low = text.lower()
    if "locked" in low:
        return "another program holds the archive; close it there, then try again"
    if "readonly" in low or "read-only" in low:
        return "the archive may only be read; allow writing there or name another with --archive"
    if "is full" in low or "no space" in low:
        return "the disk is full; make room, then try again"
    if "malformed" in low or "not a database" in low or "corrupt" in low:
        return (
            "the archive is damaged; samovar archive check says where, samovar archive rescue saves the rest"
        )
    said = laboratory.in_words(low)
    if said is not None:
        return said
    return f"{' '.join(text.split())[:200]}; check the place, or name another with --archive"


def _bring_up(engine: Engine, place: Place, read_only: bool) -> bool:
    """Make the tables where there are none, and bring older ones up; whether this user may only read them."""
    version = _version(engine, place)
    if place.path is None:
        read_only = laboratory.may_only_read(engine, version is not None)
    if version is None:
        if read_only:
            raise ArchiveError(
                f"{place.words}: holds no archive yet, and you may not make one there; ask for the right"
            )
        _create(engine, place)
        return read_only
    if version > SCHEMA_VERSION:
        raise ArchiveError(
            f"{place.words}: made by a newer Samovar (schema {version}, this one knows {SCHEMA_VERSION}); "
            "update Samovar, or name another with --archive"
        )
    if version < SCHEMA_VERSION:
        if read_only:
            raise ArchiveError(
                f"{place.words}: made by an older Samovar, and you may only read it; "
                "have it opened once by someone who may write"
            )
        migrate(engine, place, version, SCHEMA_VERSION)
    return read_only


def _version(engine: Engine, place: Place) -> int | None:
    """The schema's version; None where there are no tables at all."""
    with engine.connect() as connection:
        names = inspect(connection)
        tables = names.get_table_names()
        if META.name in tables and RUN.name in tables:
            row = connection.execute(select(META.c.value).where(META.c.key == "schema_version")).scalar()
            if row is not None and str(row).isdigit():
                return int(row)
            if place.path is not None:
                raise BrokenArchive(place.path, "damaged: it does not say of which version it is")
        if tables or names.get_view_names():
            raise ArchiveError(
                f"{place.words}: this database holds something else; name another with --archive"
            )
    return None


def _create(engine: Engine, place: Place) -> None:
    """Make the tables. Several programs may come here at the same moment: one makes them, the others wait."""
    until = time.monotonic() + OPENING_PATIENCE_S
    while True:
        try:
            with _alone(engine) as connection:
                if not inspect(connection).has_table(META.name):
                    METADATA.create_all(connection)
                    connection.execute(META.insert().values(key="schema_version", value=str(SCHEMA_VERSION)))
                    if place.path is not None:
                        connection.exec_driver_sql(f"PRAGMA application_id={header.APPLICATION_ID}")
            if place.path is not None:
                _keep_a_log(engine)
            return
        except OperationalError as problem:
            if "locked" not in str(problem.orig).lower() or time.monotonic() > until:
                raise
            time.sleep(_AGAIN_S)


@contextlib.contextmanager
def _alone(engine: Engine) -> Iterator[Connection]:
    """A transaction that no other program is in meanwhile."""
    with engine.connect() as connection:
        if engine.dialect.name == "sqlite":
            # Begun by hand: the driver would only begin with the first change.
            connection.exec_driver_sql("BEGIN IMMEDIATE")
        else:
            connection.execute(text(f"SELECT pg_advisory_xact_lock({header.APPLICATION_ID})"))
        try:
            yield connection
        except BaseException:
            connection.rollback()
            raise
        connection.commit()


def _keep_a_log(engine: Engine) -> None:
    """A write-ahead log, with NORMAL: a killed program loses nothing committed, and a commit costs no disk flush. The
    file remembers it."""
    with engine.connect() as connection:
        connection.exec_driver_sql("PRAGMA journal_mode=WAL")


def migrate(engine: Engine, place: Place, version: int, wanted: int) -> None:
    """Take the database from one version to another, all steps in one transaction, a copy of it kept beside.

    Raises:
        ArchiveError: no step leads on from some version.
    """
    if place.path is not None:
        backup_before(place.path, wanted)
    with _alone(engine) as connection:
        now = connection.execute(select(META.c.value).where(META.c.key == "schema_version")).scalar_one()
        # Tables that are new since then; those that are there stay as they are until their step.
        METADATA.create_all(connection)
        for step in range(int(now), wanted):
            if step not in STEPS:
                raise ArchiveError(f"{place.words}: no way leads from schema {step} to {step + 1}")
            STEPS[step](connection)
        connection.execute(META.update().where(META.c.key == "schema_version").values(value=str(wanted)))
        if place.path is not None:
            connection.exec_driver_sql(f"PRAGMA application_id={header.APPLICATION_ID}")
    if place.path is not None:
        with contextlib.suppress(OSError):
            place.path.chmod(OWNER_ALONE)
        _keep_a_log(engine)


__all__ = ["ArchiveError", "BrokenArchive", "Database", "in_words", "migrate", "open_database"]
