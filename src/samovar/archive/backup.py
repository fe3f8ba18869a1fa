"""Copies of an archive's file: each whole as of one moment, however busily it is written; the last few are kept."""

from __future__ import annotations

import contextlib
import os
import re
import secrets
import shutil
import sqlite3
from collections.abc import Callable, Iterator
from datetime import date
from pathlib import Path

from samovar.archive.place import ArchiveError, Place, files_of

DAILY_KEPT = 5
"""Copies of so many days of use are kept; one that a migration made beside them stays until it is deleted by hand."""
PAGES_AT_ONCE = 2000
"""Copied between two words of progress: some 8 MB."""
ROOM = 1.1
"""So many times the archive's size must be free for a copy that nobody asked for."""
OWNER_ALONE = 0o600
Progress = Callable[[int, int], None]
_DAILY = re.compile(r"^\d{4}-\d\d-\d\d(-\d+)?\.sqlite$")


def no_progress(done: int, total: int) -> None:
    """For those who do not ask how far it is."""


def folder_of(path: Path) -> Path:
    """Where the copies of an archive are kept: a folder beside it, of its name."""
    return path.with_name(f"{path.name}.backups")


def backups_of(path: Path) -> list[Path]:
    """The copies there are of an archive, the newest first."""
    try:
        found = [one for one in folder_of(path).iterdir() if one.suffix == ".sqlite" and one.is_file()]
        return sorted(found, key=lambda one: one.stat().st_mtime, reverse=True)
    except OSError:
        return []


def free_path(wanted: Path) -> Path:
    """The path itself, or the first of `name-2.sqlite`, `name-3.sqlite` that is free: no copy replaces another."""
    number, path = 2, wanted
    while path.exists():
        path, number = wanted.with_name(f"{wanted.stem}-{number}{wanted.suffix}"), number + 1
    return path


@contextlib.contextmanager
def new_file(target: Path) -> Iterator[Path]:
    """A file of the owner's alone under a passing name, which gets its own once it is whole; nothing is replaced.

    Raises:
        ArchiveError: the place is taken, or cannot be written.
    """
    if target.exists() or target.is_symlink():
        raise ArchiveError(f"{target}: there is something of this name already; name a new file")
    passing = target.with_name(f".{target.name}.{secrets.token_hex(4)}")
    try:
        os.close(os.open(passing, os.O_CREAT | os.O_EXCL | os.O_WRONLY, OWNER_ALONE))
        yield passing
        with passing.open("rb") as file:
            os.fsync(file.fileno())
        os.link(passing, target)
    except FileExistsError as problem:
        raise ArchiveError(f"{target}: there is something of this name already; name a new file") from problem
    except OSError as problem:
        why = (problem.strerror or str(problem)).lower()
        raise ArchiveError(f"{target}: cannot be written ({why}); name another place") from problem
    finally:
        for left in files_of(passing):
            with contextlib.suppress(OSError):
                left.unlink()


def copy_file(path: Path, target: Path, progress: Progress = no_progress) -> None:
    """Copy a live archive as of one moment.

    Raises:
        ArchiveError: the source cannot be read, or the target not be written.
    """
    try:
        with (
            new_file(target) as passing,
            contextlib.closing(sqlite3.connect(Place(path).read_only_uri(), uri=True, timeout=5.0)) as source,
            contextlib.closing(sqlite3.connect(passing)) as copy,
        ):
            # What is read inside one transaction is of one moment, and is not begun anew when others write.
            source.isolation_level = None
            source.execute("BEGIN")
            source.execute("SELECT count(*) FROM sqlite_master").fetchone()
            source.backup(
                copy, pages=PAGES_AT_ONCE, progress=lambda _, left, total: progress(total - left, total)
            )
            # Alone, a copy needs no log beside it.
            copy.execute("PRAGMA journal_mode=DELETE")
    except sqlite3.Error as problem:
        words = str(problem)
        what = (
            "make room, then try again" if "full" in words else "samovar archive check says what is damaged"
        )
        raise ArchiveError(f"{path}: cannot be copied ({words}); {what}") from problem


def backup_before(path: Path, version: int) -> Path:
    """A copy beside the others, made before the tables change."""
    target = _in_folder(path, f"before-schema-{version}.sqlite")
    copy_file(path, target)
    return target


def backup_today(path: Path, today: date) -> Path | None:
    """The day's copy; None where there is one already, or where there is too little room for it.

    Raises:
        ArchiveError: it cannot be made.
    """
    if any(one.name.startswith(today.isoformat()) for one in backups_of(path)):
        return None
    if shutil.disk_usage(path.parent).free < ROOM * path.stat().st_size:
        return None
    target = _in_folder(path, f"{today.isoformat()}.sqlite")
    copy_file(path, target)
    return target


def keep_daily(path: Path, today: date) -> Path | None:
    """The day's copy, where there is none yet, and those of the last few days beside it: older ones go once this one is
    in order. Raises ArchiveError: it cannot be made."""
    copy = backup_today(path, today)
    if copy is not None:
        with contextlib.closing(sqlite3.connect(copy)) as looked:
            in_order = looked.execute("PRAGMA quick_check(1)").fetchone() == ("ok",)
        if in_order:
            _drop_old(path)
    return copy


def _drop_old(path: Path) -> None:
    daily = [one for one in backups_of(path) if _DAILY.match(one.name)]
    for one in sorted(daily, key=lambda p: p.name, reverse=True)[DAILY_KEPT:]:
        with contextlib.suppress(OSError):
            one.unlink()


def _in_folder(path: Path, name: str) -> Path:
    folder = folder_of(path)
    try:
        folder.mkdir(mode=0o700, exist_ok=True)
    except OSError as problem:
        raise ArchiveError(
            f"{folder}: the folder for copies cannot be made ({(problem.strerror or 'error').lower()})"
        ) from problem
    return free_path(folder / name)
