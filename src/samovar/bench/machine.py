"""The machine on the bench: what the recorder needs of it, and this very machine as one."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from samovar.bench.clock import Clock, MonotonicClock
from samovar.bench.loads.processor import DESCRIPTION, ProcessorLoad
from samovar.bench.loads.protocol import Load
from samovar.sources.linux import LinuxSource, discover
from samovar.sources.protocol import Probed, Source


class Machine(Protocol):
    """A machine that can be measured and loaded."""

    @property
    def clock(self) -> Clock:
        """The time it lives in."""
        ...

    def fit(self, setup: str) -> bool:
        """Bring it into a setup; False where hands must do that."""
        ...

    def probe(self) -> list[Probed]:
        """What can be measured on it now."""
        ...

    def open_source(self) -> tuple[Source, DieWatch | None]:
        """Its sensors, and a watch on its die for the guard (None: it has no die sensor). The caller
        closes both."""
        ...

    def loads(self) -> dict[str, str]:
        """The loads it can carry: name and description."""
        ...

    def make_load(self, name: str, threads: int | None = None) -> Load:
        """A load, not yet on. Raises LoadError where there is none of this name."""
        ...


class ThisMachine:
    """The machine the program runs on, or the one whose kernel files lie below `sysroot`."""

    def __init__(self, sysroot: Path = Path("/")) -> None:
        self.sysroot = sysroot
        self._clock = MonotonicClock()

    @property
    def clock(self) -> Clock:
        """The machine's own monotonic clock."""
        return self._clock

    def fit(self, setup: str) -> bool:
        """Coolers are swapped by hand."""
        return False

    def probe(self) -> list[Probed]:
        """What the kernel shows now."""
        return discover(self.sysroot)

    def open_source(self) -> tuple[Source, DieWatch | None]:
        """The kernel's sensors; the guard gets files of its own."""
        return LinuxSource(self.sysroot), die_watcher(self.sysroot, self.clock)

    def loads(self) -> dict[str, str]:
        """The processor loads."""
        return dict(DESCRIPTION)

    def make_load(self, name: str, threads: int | None = None) -> Load:
        """A processor load. Raises LoadError."""
        return ProcessorLoad(name, threads)


class DieWatch:
    """A quick look at the die's temperature through a file of its own; NaN where it is silent."""

    def __init__(self, source: LinuxSource, index: int) -> None:
        self._source = source
        self._index = index

    def __call__(self) -> float:
        return self._source.sample_one(self._index)

    def close(self) -> None:
        """Let go of the file."""
        self._source.close()


def die_watcher(sysroot: Path, clock: Clock) -> DieWatch | None:
    """A watch on the die of the machine below `sysroot`; None without a die sensor."""
    source = LinuxSource(sysroot, clock.now)
    for index, channel in enumerate(source.channels):
        if channel.quantity == "temperature" and channel.role == "die":
            # The files of all other sensors are not needed: they open again by themselves if ever read.
            source.close()
            return DieWatch(source, index)
    source.close()
    return None
