"""Rows read straight from a database file's pages, past whatever is damaged: what the database itself refuses as a whole.

Source: the SQLite file format (https://www.sqlite.org/fileformat2.html), sections 1.3 to 1.6 for pages, 2 for records,
4 for the write-ahead log.
"""

from __future__ import annotations

import contextlib
import mmap
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from samovar.archive.header import HEADER_BYTES, MAGIC, log_of, page_size

USUAL_PAGE = 4096
"""Of an archive that we made, where its header no longer says."""
LEAF, INTERIOR = 0x0D, 0x05
_HEADER = {LEAF: 8, INTERIOR: 12}
_LOG_HEADER, _FRAME_HEADER = 32, 24
_MOST_COLUMNS = 60
"""More columns than any table of ours has: a record that claims more is none."""
_INTEGERS = {1: 1, 2: 2, 3: 3, 4: 4, 5: 6, 6: 8}


@dataclass(frozen=True, slots=True)
class Row:
    """One row: its key, and its columns in the order in which the table has them; the key's own column is None."""

    key: int
    values: tuple[Any, ...]


class Pages:
    """The pages of a database file, those that only its log has yet among them. `seen` are those that were used."""

    def __init__(self, path: Path) -> None:
        self._file = path.open("rb")
        length = path.stat().st_size
        self._bytes: bytes | mmap.mmap = (
            mmap.mmap(self._file.fileno(), 0, access=mmap.ACCESS_READ) if length else b""
        )
        head = bytes(self._bytes[:HEADER_BYTES])
        size = page_size(head) if head.startswith(MAGIC) and len(head) == HEADER_BYTES else 0
        self.size = size if size >= 512 and size & (size - 1) == 0 else USUAL_PAGE
        self.usable = self.size - (head[20] if head.startswith(MAGIC) and head[20] < 64 else 0)
        self._logged = _committed(log_of(path), self.size)
        self.count = max([(length + self.size - 1) // self.size, *self._logged])
        self.seen: set[int] = set()
        self._skip_free(head)

    def close(self) -> None:
        """Let go of the file."""
        if isinstance(self._bytes, mmap.mmap):
            self._bytes.close()
        self._file.close()

    def page(self, number: int) -> bytes:
        """A page, counted from 1; one that is cut off, or not there, is filled up with noughts."""
        found = self._logged.get(number)
        if found is None:
            begin = (number - 1) * self.size
            found = bytes(self._bytes[begin : begin + self.size])
        return found.ljust(self.size, b"\0")

    def _skip_free(self, head: bytes) -> None:
        """Pages that hold nothing any more may hold old rows: they are not to be taken for living ones."""
        head = self.page(1)[:HEADER_BYTES] if self._logged.get(1) else head
        trunk = struct.unpack(">I", head[32:36])[0] if len(head) == HEADER_BYTES else 0
        while 0 < trunk <= self.count and trunk not in self.seen:
            self.seen.add(trunk)
            page = self.page(trunk)
            following, leaves = struct.unpack(">II", page[:8])
            for k in range(min(leaves, self.size // 4 - 2)):
                self.seen.add(struct.unpack(">I", page[8 + 4 * k : 12 + 4 * k])[0])
            trunk = following

    def rows(self, root: int) -> Iterator[Row]:
        """The rows of the tree that begins at a page; branches that lead nowhere cost what hung on them."""
        waiting = [root]
        while waiting:
            number = waiting.pop()
            if not 0 < number <= self.count or number in self.seen:
                continue
            self.seen.add(number)
            page = self.page(number)
            begin = HEADER_BYTES if number == 1 else 0
            if page[begin] == INTERIOR:
                waiting += reversed(self._children(page, begin))
            else:
                # A leaf whose kind was hit is read as one all the same: what is none gives no rows.
                yield from self._leaf(page, begin)

    def stray_leaves(self) -> Iterator[list[Row]]:
        """The rows of every leaf that no tree led to."""
        for number in range(2, self.count + 1):
            if number not in self.seen and self.page(number)[0] == LEAF:
                rows = list(self._leaf(self.page(number), 0))
                if rows:
                    self.seen.add(number)
                    yield rows

    def _cells(self, page: bytes, begin: int, header: int) -> list[int]:
        count = struct.unpack(">H", page[begin + 3 : begin + 5])[0]
        at = begin + header
        room = (self.usable - at) // 2
        cells = struct.unpack(f">{min(count, room)}H", page[at : at + 2 * min(count, room)])
        return [cell for cell in cells if at <= cell < self.usable - 3]

    def _children(self, page: bytes, begin: int) -> list[int]:
        last = struct.unpack(">I", page[begin + 8 : begin + 12])[0]
        cells = self._cells(page, begin, _HEADER[INTERIOR])
        return [*(struct.unpack(">I", page[cell : cell + 4])[0] for cell in cells), last]

    def _leaf(self, page: bytes, begin: int) -> Iterator[Row]:
        for cell in self._cells(page, begin, _HEADER[LEAF]):
            with contextlib.suppress(ValueError, IndexError, struct.error, OverflowError):
                length, at = _varint(page, cell)
                key, at = _varint(page, at)
                values = _record(self._payload(page, at, length))
                yield Row(key, values)

    def _payload(self, page: bytes, at: int, length: int) -> bytes:
        """The bytes of a record: those on its leaf, then those on the pages it overflows to."""
        if not 0 < length <= self.count * self.size:
            raise ValueError("no such length")
        local = self._local(length)
        parts, missing = [page[at : at + local]], length - local
        overflow = struct.unpack(">I", page[at + local : at + local + 4])[0] if missing > 0 else 0
        chain = []
        while missing > 0:
            if not 0 < overflow <= self.count or overflow in chain:
                raise ValueError("the chain of its pages is broken")
            chain.append(overflow)
            following = self.page(overflow)
            parts.append(following[4 : 4 + min(missing, self.usable - 4)])
            missing -= self.usable - 4
            overflow = struct.unpack(">I", following[:4])[0]
        self.seen.update(chain)
        return b"".join(parts)

    def _local(self, length: int) -> int:
        """How much of a record stands on its leaf itself."""
        most = self.usable - 35
        if length <= most:
            return length
        least = (self.usable - 12) * 32 // 255 - 23
        wanted = least + (length - least) % (self.usable - 4)
        return wanted if wanted <= most else least


def _varint(data: bytes, at: int) -> tuple[int, int]:
    """A number of one to nine bytes, and where what follows it begins."""
    value = 0
    for k in range(8):
        byte = data[at + k]
        value = value << 7 | byte & 0x7F
        if byte < 0x80:
            return value, at + k + 1
    value = value << 8 | data[at + 8]
    return value - (1 << 64) if value >= 1 << 63 else value, at + 9


def _record(payload: bytes) -> tuple[Any, ...]:
    """The columns of a record. Raises ValueError: it is none."""
    header, at = _varint(payload, 0)
    if not 0 < header <= len(payload):
        raise ValueError("no record")
    kinds = []
    while at < header:
        kind, at = _varint(payload, at)
        kinds.append(kind)
    if at != header or len(kinds) > _MOST_COLUMNS:
        raise ValueError("no record")
    values: list[Any] = []
    for kind in kinds:
        value, at = _value(payload, at, kind)
        values.append(value)
    if at != len(payload):
        raise ValueError("no record")
    return tuple(values)


def _value(payload: bytes, at: int, kind: int) -> tuple[Any, int]:
    if kind in (0, 8, 9):
        return (None if kind == 0 else kind - 8), at
    if kind in _INTEGERS:
        end = at + _INTEGERS[kind]
        return int.from_bytes(payload[at:end], "big", signed=True), end
    if kind == 7:
        return struct.unpack(">d", payload[at : at + 8])[0], at + 8
    if kind < 12:
        raise ValueError("no such kind of value")
    end = at + (kind - 12) // 2
    data = payload[at:end]
    if len(data) != end - at:
        raise ValueError("cut off")
    # Text with bytes that are none fits nothing that was kept: the row is lost.
    return (data if kind % 2 == 0 else data.decode("utf-8")), end


def _committed(log: Path, size: int) -> dict[int, bytes]:
    """The pages that a write-ahead log has of all transactions that were completed, by number."""
    try:
        data = log.read_bytes()
    except OSError:
        return {}
    if len(data) < _LOG_HEADER:
        return {}
    magic, _, own_size, _, *salts = struct.unpack(">6I", data[:24])
    if magic not in (0x377F0682, 0x377F0683) or own_size != size:
        return {}
    order = ">" if magic & 1 else "<"
    sums = _checksum(data[:24], (0, 0), order)
    pages: dict[int, bytes] = {}
    pending: dict[int, bytes] = {}
    for at in range(_LOG_HEADER, len(data) - _FRAME_HEADER - size + 1, _FRAME_HEADER + size):
        number, commit, *rest = struct.unpack(">6I", data[at : at + _FRAME_HEADER])
        page = data[at + _FRAME_HEADER : at + _FRAME_HEADER + size]
        sums = _checksum(data[at : at + 8] + page, sums, order)
        if rest != [*salts, *sums]:
            break
        pending[number] = page
        if commit:
            pages.update(pending)
            pending = {}
    return pages


def _checksum(data: bytes, sums: tuple[int, int], order: str) -> tuple[int, int]:
    """The log's running checksum, section 4.2."""
    first, second = sums
    words = struct.unpack(f"{order}{len(data) // 4}I", data)
    for k in range(0, len(words), 2):
        first = (first + words[k] + second) & 0xFFFFFFFF
        second = (second + words[k + 1] + first) & 0xFFFFFFFF
    return first, second
