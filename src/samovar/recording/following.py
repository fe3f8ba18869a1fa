"""A log that another program writes, followed while it grows: its last whole row is what its channels say now, and the rows
that came into sight with it are handed on to the moments they were taken at.

Any maker's log is read by the code that reads a whole one: its titles and first rows, and the rows that came since, as a
small log of their own. A log that is begun anew under its name, or cut short, is followed from its beginning again.
"""

from __future__ import annotations

import io
import os
import tempfile
import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import numpy as np

from samovar.bench.clock import Clock
from samovar.core.instrument import Instrument
from samovar.core.quantity import Channel
from samovar.core.recording import Array
from samovar.exchange.logs import Log, read_log
from samovar.exchange.problems import InputError
from samovar.exchange.toml_text import read_toml
from samovar.recording.late_titles import told_at
from samovar.recording.row_clock import RowClock
from samovar.sources.protocol import Probed

NAN = float("nan")
LOOK_EVERY_S = 0.25
TITLES_WITHIN_S = 3.0
"""So long the beginning of a recording waits for a log that has no titles yet."""
HEAD_BYTES, TAIL_BYTES = 65_536, 262_144
"""Of what stands in a log already its beginning and its end are read."""
ROWS_MOST = 600
"""Of rows that come into sight together the last so many are read: a minute of ten a second."""
CONTEXT_ROWS = 20
"""Rows from the beginning that go with every new one: by several one sees how a log writes its numbers."""
LAST_BYTES = 64
"""By so many bytes it is told whether what was read last still stands in the file."""
SEPARATORS = (";", "\t", ",", "|")


@dataclass(frozen=True)
class _Head:
    """A log's titles with its first rows, as they stand, what they were understood as, and how many of these lines are
    rows."""

    lines: list[bytes]
    log: Log
    rows: int


class FollowSource:
    """A log that grows.

    Args:
        instrument: its address is the file's.
        clock: the run's clock.

    Raises:
        InputError: its map cannot be read.
    """

    def __init__(self, instrument: Instrument, clock: Clock) -> None:
        self.name = instrument.name
        self.instrument = instrument
        self.path = Path(unquote(instrument.parts.path))
        self._clock = clock
        self._map: dict[str, Any] = read_toml(Path(instrument.map)) if instrument.map else {}
        self._head: _Head | None = None
        self._file: io.BufferedReader | None = None
        self._partial = self._last = b""
        self._changed_ns = 0
        self._channels: tuple[Channel, ...] = ()
        self._late: list[tuple[float, dict[str, float]]] = []
        self._values: dict[str, float] = {}
        self._at_s = -np.inf
        self._rows_clock = RowClock()
        self._belated: list[tuple[float, list[float]]] = []
        self._lock = threading.Lock()
        self._closing = threading.Event()
        self.trouble = "it has no titles yet"
        until = time.monotonic() + TITLES_WITHIN_S
        self._look()
        while self._head is None and time.monotonic() < until:
            time.sleep(LOOK_EVERY_S)
            self._look()
        found: tuple[Channel, ...] = self._head.log.recording.channels if self._head else ()
        self._channels = self._named(found)
        threading.Thread(target=self._serve, name=f"follow-{self.name}", daemon=True).start()

    @property
    def channels(self) -> tuple[Channel, ...]:
        """The channels that its titles name; none where it had no titles when it was opened."""
        return self._channels

    def sample(self) -> list[float]:
        """What its last row says; NaN where that was seen too long ago."""
        with self._lock:
            fresh = self._clock.now() - self._at_s <= self.instrument.stale_after_s
            return [self._values.get(c.name, NAN) if fresh else NAN for c in self._channels]

    def belated(self) -> list[tuple[float, list[float]]]:
        """The rows that came into sight since the last call together with a later one, and when each was taken."""
        with self._lock:
            found, self._belated = self._belated, []
        return found

    def probed(self, patience_s: float = 0.0) -> list[Probed]:
        """What it says now; one channel without a value where it has no titles yet: they were waited for when it was
        opened."""
        if not self._channels:
            unknown = Channel(self.name, "load", "%", "other", "board", f"{self.name}:")
            return [Probed(unknown, None, "unreadable", f"{self.path}: {self.trouble}")]
        return [
            Probed(c, None, "unreadable", f"{self.path}: its last row is too old or has no number here")
            if np.isnan(v)
            else Probed(c, v, "ok")
            for c, v in zip(self.channels, self.sample(), strict=True)
        ]

    def late(self, moments_s: Array) -> tuple[tuple[Channel, ...], Array]:
        """What came after it was opened without titles: see `late_titles`."""
        with self._lock:
            rows = sorted(self._late, key=lambda row: row[0])
        if self._channels or self._head is None or not rows:
            return (), np.empty((0, len(moments_s)))
        channels = self._head.log.recording.channels
        seen_s = np.array([at_s for at_s, _ in rows])
        told = np.array([[values.get(c.name, NAN) for _, values in rows] for c in channels])
        return self._named(channels), told_at(seen_s, told, moments_s, self.instrument.stale_after_s)

    def _named(self, channels: Sequence[Channel]) -> tuple[Channel, ...]:
        return tuple(replace(one, id=f"{self.name}:{one.name}") for one in channels)

    def close(self) -> None:
        """Follow it no further."""
        self._closing.set()

    def _serve(self) -> None:
        pause = min(self.instrument.every_s, LOOK_EVERY_S) / self._clock.speed
        while not self._closing.wait(pause):
            self._look()
        if self._file is not None:
            self._file.close()

    def _look(self) -> None:
        """Whatever is new in the file."""
        try:
            self._read_on()
        except OSError as problem:
            self.trouble = (problem.strerror or "it cannot be read").lower()
        except InputError as problem:
            self.trouble = str(problem).rpartition(": ")[2]

    def _read_on(self) -> None:
        is_new = self._is_another()
        if is_new:
            self._begin()
        assert self._file is not None
        if self._head is None:
            self._begin()
            return
        new = self._file.read(TAIL_BYTES)
        self._last = (self._last + new)[-LAST_BYTES:]
        data = self._partial + new
        whole, mark, self._partial = data.rpartition(b"\n")
        if mark and whole.strip():
            self._take(whole.split(b"\n"))

    def _is_another(self) -> bool:
        """Whether the file under this name is another than the one that is open, or was cut short: what was read last
        does not stand there any more."""
        now = self.path.stat()
        if self._file is None:
            return True
        opened = os.fstat(self._file.fileno())
        if (now.st_dev, now.st_ino) != (opened.st_dev, opened.st_ino):
            return True
        if now.st_mtime_ns == self._changed_ns:
            return False
        self._changed_ns = now.st_mtime_ns
        begin = self._file.tell() - len(self._last)
        return os.pread(self._file.fileno(), len(self._last), begin) != self._last

    def _begin(self) -> None:
        """From the beginning: the titles, and the last of the rows that stand there already."""
        if self._file is not None:
            self._file.close()
        self._file, self._partial = self.path.open("rb"), b""
        size = os.fstat(self._file.fileno()).st_size
        beginning = self._file.read(HEAD_BYTES)
        lines = beginning.split(b"\n")[:-1]
        self._head = self._understood(lines)
        if self._head is None:
            return
        self._rows_clock = RowClock()
        age = time.time() - self.path.stat().st_mtime
        if size > HEAD_BYTES:
            self._file.seek(max(HEAD_BYTES, size - TAIL_BYTES))
            # In the middle of a row, most likely.
            self._file.readline()
        else:
            self._file.seek(sum(len(line) + 1 for line in lines))
        tail = self._file.read()
        self._last = tail[-LAST_BYTES:] or beginning[: self._file.tell()][-LAST_BYTES:]
        rows, _, self._partial = tail.rpartition(b"\n")
        if age <= self.instrument.stale_after_s:
            # What stood there already was not taken in this run: only its last row says how things are.
            self._take(([line for line in rows.split(b"\n") if line.strip()] or lines)[-1:])

    def _understood(self, lines: list[bytes]) -> _Head | None:
        """The titles of a log and how its columns are to be read; None where they are not there yet."""
        while lines and not lines[-1].strip():
            lines = lines[:-1]
        if not lines:
            return None
        try:
            log = self._read(lines)
        except InputError:
            invented = _invented_row(lines[-1])
            if invented is None:
                return None
            log = self._read([*lines, invented])
            return _Head(lines, log, 0) if log.recording.channels else None
        lines = lines[: _first_row(log, lines) + CONTEXT_ROWS]
        return _Head(lines, log, len(self._read(lines).recording.time_s))

    def _read(self, lines: Sequence[bytes]) -> Log:
        """A few lines as a log. Raises InputError."""
        with tempfile.NamedTemporaryFile(suffix=".csv") as file:
            file.write(b"\n".join(lines) + b"\n")
            file.flush()
            return read_log(Path(file.name), self._map)

    def _take(self, rows: list[bytes]) -> None:
        """New rows: the last of them is what the channels say now."""
        if self._head is None:
            return
        seen_s = self._clock.now()
        try:
            log = self._read([*self._head.lines, *rows[-ROWS_MOST:]])
        except InputError:
            return
        found = log.recording
        new = slice(min(self._head.rows, len(found.time_s) - 1), None)
        times_s, told = found.time_s[new], found.values[:, new]
        moments_s = (
            self._rows_clock.moments(times_s, seen_s)
            if log.time
            else self._rows_clock.spread(len(times_s), seen_s)
        )
        names = [channel.name for channel in found.channels]
        said = [dict(zip(names, map(float, row), strict=True)) for row in told.T]
        with self._lock:
            self._values, self._at_s = said[-1], seen_s
            if self._channels:
                self._belated += [
                    (float(moment_s), [values.get(c.name, NAN) for c in self._channels])
                    for moment_s, values in zip(moments_s[:-1], said[:-1], strict=True)
                ]
                del self._belated[:-ROWS_MOST]
            else:
                self._late += zip(map(float, moments_s), said, strict=True)


def _first_row(log: Log, lines: list[bytes]) -> int:
    """The number of lines before the first row, as near as it matters."""
    return max(1, len(lines) - len(log.recording.time_s))


def _invented_row(titles: bytes) -> bytes | None:
    """A row of nothings under titles that have no rows yet: it tells how the titles are understood."""
    text = titles.decode("utf-8", "replace")
    mark = max(SEPARATORS, key=text.count)
    count = text.count(mark)
    return mark.join(["0"] * (count + 1)).encode() if count else None
