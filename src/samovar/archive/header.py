"""What a file is before it is opened as an archive: new, ours, another program's, cut off, or broken.

Source: the SQLite file format, section 1.3, "The Database Header" (https://www.sqlite.org/fileformat2.html).
"""

from __future__ import annotations

import contextlib
import sqlite3
import struct
from collections.abc import Iterator
from pathlib import Path

from samovar.archive.place import Place

MAGIC = b"SQLite format 3\0"
HEADER_BYTES = 100
APPLICATION_ID = 0x53414D56
"""Stands in the header of every archive: `SAMV`."""
_APPLICATION_AT = 68
_ALIKE = 12
"""So many bytes of the sixteen at the beginning as they should be: a database whose header was hit, not another file."""
_OUR_TABLES = frozenset({"meta", "run", "review", "setup"})

NEW, OURS, FOREIGN, CUT_OFF, BROKEN = "new", "ours", "foreign", "cut off", "broken"


def kind_of(place: Place) -> str:
    """What stands at a file's place; not a byte of it is changed by the look.

    Raises:
        OSError: it cannot be read.
    """
    path = place.path
    assert path is not None
    try:
        size = path.stat().st_size
    except FileNotFoundError:
        return NEW
    if size == 0:
        return NEW
    with path.open("rb") as file:
        head = file.read(HEADER_BYTES)
    ours = head[_APPLICATION_AT : _APPLICATION_AT + 4] == struct.pack(">I", APPLICATION_ID)
    if not head.startswith(MAGIC):
        if MAGIC.startswith(head):
            return CUT_OFF
        alike = sum(a == b for a, b in zip(head, MAGIC, strict=False))
        return BROKEN if ours or (alike >= _ALIKE and _names_us(path)) else FOREIGN
    if len(head) < HEADER_BYTES:
        return CUT_OFF
    if not ours and struct.unpack(">I", head[_APPLICATION_AT : _APPLICATION_AT + 4])[0] != 0:
        return FOREIGN
    if not ours:
        told = _by_its_tables(place)
        if told != OURS:
            return told
    return CUT_OFF if size < _bytes_wanted(head) and not has_log(path) else OURS


def _bytes_wanted(head: bytes) -> int:
    """How long the file says that it is; 0 where an older program left that unsaid."""
    page = page_size(head)
    pages, changed, valid_for = (struct.unpack(">I", head[k : k + 4])[0] for k in (28, 24, 92))
    return page * pages if changed == valid_for else 0


def page_size(head: bytes) -> int:
    """The size of a page, bytes; 0 where the header names none."""
    size = int(struct.unpack(">H", head[16:18])[0])
    return 65536 if size == 1 else size


def log_of(path: Path) -> Path:
    """The write-ahead log beside a database."""
    return path.with_name(f"{path.name}-wal")


def has_log(path: Path) -> bool:
    """Whether a log with something in it stands beside: then not all of the database is in its file."""
    try:
        return log_of(path).stat().st_size > 0
    except OSError:
        return False


@contextlib.contextmanager
def looked_into(place: Place, *, immutable: bool) -> Iterator[sqlite3.Connection]:
    """The file as a database, for a look that changes nothing."""
    connection = sqlite3.connect(place.read_only_uri(immutable=immutable), uri=True, timeout=2.0)
    try:
        yield connection
    finally:
        connection.close()


def _by_its_tables(place: Place) -> str:
    """What a database without our sign is: one of an older version of ours, an empty one, or another program's."""
    assert place.path is not None
    for immutable in (True, False):
        try:
            with looked_into(place, immutable=immutable) as connection:
                names = {name for (name,) in connection.execute("SELECT name FROM sqlite_master")}
        except sqlite3.DatabaseError:
            return BROKEN if _names_us(place.path) else FOREIGN
        if names:
            return OURS if names >= _OUR_TABLES else FOREIGN
        if not has_log(place.path):
            break
    return NEW


_LOOKED_AT_BYTES = 1 << 20


def _names_us(path: Path) -> bool:
    """Whether the beginning of a file that cannot be opened still names our tables."""
    with path.open("rb") as file:
        begin = file.read(_LOOKED_AT_BYTES)
    return all(f"CREATE TABLE {name}".encode() in begin for name in ("setup", "hand_reading"))
