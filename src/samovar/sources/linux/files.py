"""Kernel files: kept open, read from the start each time, and one reader per channel on top of them."""

from __future__ import annotations

import errno
import os
import stat
import time
from collections.abc import Callable
from pathlib import Path
from typing import Protocol

from samovar.core.quantity import Channel

NAN = float("nan")


class KernelFile:
    """One file of sysfs or procfs, opened at the first read and again after an error."""

    __slots__ = ("_descriptor", "path")

    def __init__(self, path: Path) -> None:
        self.path = path
        self._descriptor = -1

    def read(self, size: int = 64) -> bytes:
        """Its content now, at most `size` bytes.

        Raises:
            OSError: the kernel refused.
        """
        if self._descriptor < 0:
            self._descriptor = _open(self.path)
        try:
            return os.pread(self._descriptor, size, 0)
        except OSError:
            self.close()
            raise

    def read_int(self) -> int:
        """Its content as a whole number.

        Raises:
            OSError: the kernel refused.
            ValueError: what stands there is no number.
        """
        return int(self.read())

    def close(self) -> None:
        """Close it; the next read opens it again."""
        if self._descriptor >= 0:
            os.close(self._descriptor)
            self._descriptor = -1


def _open(path: Path) -> int:
    """A descriptor for reading, had without waiting. Raises OSError: it cannot be had, or is no plain file."""
    descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)
    mode = os.fstat(descriptor).st_mode
    if not stat.S_ISREG(mode):
        os.close(descriptor)
        kind = errno.EISDIR if stat.S_ISDIR(mode) else errno.EINVAL
        raise OSError(
            kind, os.strerror(kind) if kind == errno.EISDIR else "no plain file: it would never answer"
        )
    return descriptor


def text_of(path: Path) -> str | None:
    """A short file's text without its line end; None where it cannot be read."""
    try:
        with open(_open(path), "rb") as file:
            return file.read().decode(errors="replace").strip() or None
    except OSError:
        return None


def entries(folder: Path) -> list[Path]:
    """What lies in a folder; nothing where it is none, cannot be read, or has just gone: devices come and go."""
    try:
        return list(folder.iterdir())
    except OSError:
        return []


def doubt_temperature(value: float) -> str | None:
    """Why a temperature cannot be a connected probe's."""
    if value <= -40.0 or value >= 150.0:
        return f"{value:g} °C is what a disconnected probe gives"
    return None


class Reader(Protocol):
    """Reads one channel."""

    channel: Channel

    def value(self) -> float:
        """The value now, NaN before a first difference. Raises OSError or ValueError."""
        ...

    def implausible(self, value: float) -> str | None:
        """Why a value cannot be real; None where it can."""
        ...

    def close(self) -> None:
        """Let go of the file."""
        ...


class ScaledReader:
    """A whole number times a factor, with a test for values no sensor in order gives."""

    __slots__ = ("_doubt", "_factor", "_file", "channel")

    def __init__(
        self, channel: Channel, path: Path, factor: float, doubt: Callable[[float], str | None] | None = None
    ) -> None:
        self.channel = channel
        self._file = KernelFile(path)
        self._factor = factor
        self._doubt = doubt

    def value(self) -> float:
        return self._file.read_int() / self._factor

    def implausible(self, value: float) -> str | None:
        return self._doubt(value) if self._doubt else None

    def close(self) -> None:
        self._file.close()


class RateReader:
    """A counter's growth per second: an energy in microjoules becomes watts. A wrap is honoured where
    the counter's range is known; a counter set back otherwise gives a gap of one sample."""

    __slots__ = ("_clock", "_factor", "_file", "_last", "_range", "channel")

    def __init__(
        self,
        channel: Channel,
        path: Path,
        factor: float,
        counter_range: int | None,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self.channel = channel
        self._file = KernelFile(path)
        self._factor = factor
        self._range = counter_range
        self._clock = clock
        self._last: tuple[float, int] | None = None

    def value(self) -> float:
        count, now = self._file.read_int(), self._clock()
        last, self._last = self._last, (now, count)
        if last is None or now <= last[0]:
            return NAN
        grown = count - last[1]
        if grown < 0:
            if self._range is None:
                return NAN
            # The kernel's range is the greatest value the counter takes, so zero follows after it.
            grown += self._range + 1
        return grown / self._factor / (now - last[0])

    def implausible(self, value: float) -> str | None:
        return "more than 5 kW from one counter" if value > 5000.0 else None

    def close(self) -> None:
        self._file.close()


class CounterFlagReader:
    """1 while a counter grew since the last sample, else 0."""

    __slots__ = ("_file", "_last", "channel")

    def __init__(self, channel: Channel, path: Path) -> None:
        self.channel = channel
        self._file = KernelFile(path)
        self._last: int | None = None

    def value(self) -> float:
        count = self._file.read_int()
        last, self._last = self._last, count
        return 1.0 if last is not None and count > last else 0.0

    def implausible(self, value: float) -> str | None:
        return None

    def close(self) -> None:
        self._file.close()
