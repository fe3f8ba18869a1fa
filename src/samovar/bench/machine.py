"""The machine on the bench: what the recorder needs of it, and this very machine as one."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any, Protocol

from samovar.bench.clock import Clock, MonotonicClock
from samovar.bench.guard import Guard
from samovar.bench.loads.catalogue import KINDS, OwnLoad
from samovar.bench.loads.combined import make_load
from samovar.bench.loads.protocol import Load
from samovar.core.die import die_channels, hottest
from samovar.core.quantity import Channel
from samovar.sources.linux import LinuxSource, discover
from samovar.sources.linux.machine import is_fast
from samovar.sources.own_share import OwnShare
from samovar.sources.protocol import Probed, Source
from samovar.sources.roles import confirmed, with_roles

SLOW = "kernel, slow"
"""The name of the source of those sensors that are asked less often."""


class Machine(Protocol):
    """A machine that can be measured and loaded."""

    @property
    def clock(self) -> Clock:
        """The time it lives in."""
        ...

    def fit(self, setup: str, products: Sequence[str] = (), changes: Mapping[str, Any] | None = None) -> bool:
        """Bring it into a setup with these products fitted and these changes; False where hands must do that."""
        ...

    def set_fans(self, share: float) -> bool:
        """Set its fans to a share of their full speed; False where hands must do that."""
        ...

    def probe(self) -> list[Probed]:
        """What can be measured on it now."""
        ...

    def open_sources(
        self, roles: Mapping[str, str] | None = None, split: bool = False
    ) -> tuple[list[Source], DieWatch | None]:
        """Its sensors, and a watch on its die for the guard (None: it has no die sensor). The caller closes them
        all. `roles` are those confirmed for a rig, by channel id; they go before what is proposed. `split`: the
        slow sensors as a source of their own, `SLOW`, to be asked less often."""
        ...

    def companions(self) -> list[Source]:
        """Further sources that belong to a recording on it; the caller closes them."""
        ...

    def known_facts(self) -> dict[str, Any]:
        """What it tells of itself, by the keys of `core.rig.RIG_FIELDS`."""
        ...

    def loads(self) -> dict[str, str]:
        """The loads it can carry: name and description."""
        ...

    def guarded_by(self, guard: Guard | None) -> Guard | None:
        """Be told what stops its load; the answer is the guard that is to stand here. A machine elsewhere has the one that
        counts beside its load."""
        ...

    def lost(self) -> str | None:
        """Why it cannot be measured any more; None as long as it can."""
        ...

    def make_load(
        self, name: str, threads: int | None = None, own: Mapping[str, OwnLoad] | None = None
    ) -> Load:
        """A load, its own or one of the reviewer's `own`, not yet on. Raises LoadError where there is none of
        this name."""
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

    def fit(self, setup: str, products: Sequence[str] = (), changes: Mapping[str, Any] | None = None) -> bool:
        """Coolers are swapped by hand."""
        return False

    def set_fans(self, share: float) -> bool:
        """The kernel's fan controls are left to the machine's owner."""
        return False

    def companions(self) -> list[Source]:
        """The program's own share of a processor, since it runs on the machine it measures."""
        return [OwnShare()]

    def known_facts(self) -> dict[str, Any]:
        """What the kernel tells."""
        from samovar.sources.linux.identity import known_facts

        return known_facts(self.sysroot)

    def guarded_by(self, guard: Guard | None) -> Guard | None:
        """The guard stands here."""
        return guard

    def lost(self) -> str | None:
        """The machine the program runs on is never lost to it."""
        return None

    def probe(self) -> list[Probed]:
        """What the kernel shows now."""
        return discover(self.sysroot)

    def open_sources(
        self, roles: Mapping[str, str] | None = None, split: bool = False
    ) -> tuple[list[Source], DieWatch | None]:
        """The kernel's sensors; the guard gets files of its own."""
        return (
            kernel_sources(self.sysroot, self.clock.now, roles, split),
            die_watcher(self.sysroot, self.clock, roles),
        )

    def loads(self) -> dict[str, str]:
        """The program's loads."""
        return {name: kind.words for name, kind in KINDS.items()}

    def make_load(
        self, name: str, threads: int | None = None, own: Mapping[str, OwnLoad] | None = None
    ) -> Load:
        """One of the program's loads, or of the reviewer's own. Raises LoadError."""
        return make_load(name, threads, own or {})


def kernel_sources(
    sysroot: Path,
    now: Callable[[], float],
    roles: Mapping[str, str] | None,
    split: bool,
    may_hang: bool = True,
) -> list[Source]:
    """The kernel's sensors below `sysroot`, as one source, or as a fast and a slow one."""
    if not split:
        return [with_roles(LinuxSource(sysroot, now, may_hang=may_hang), roles)]

    def fast(channel: Channel) -> bool:
        return is_fast(confirmed(channel, roles or {}))

    parts = (
        LinuxSource(sysroot, now, fast, may_hang=may_hang),
        LinuxSource(sysroot, now, lambda c: not fast(c), SLOW, may_hang),
    )
    return [with_roles(part, roles) for part in parts if part.channels]


class DieWatch:
    """A quick look at the die through files of its own: the hottest of what stands for it, °C; NaN where all are
    silent."""

    def __init__(self, source: LinuxSource, indices: Sequence[int]) -> None:
        self._source = source
        self._indices = tuple(indices)

    def __call__(self) -> float:
        return hottest([self._source.sample_one(k) for k in self._indices])

    def close(self) -> None:
        """Let go of the files."""
        self._source.close()


def die_watcher(sysroot: Path, clock: Clock, roles: Mapping[str, str] | None = None) -> DieWatch | None:
    """A watch on the die of the machine below `sysroot`; None where nothing stands for it."""
    source = LinuxSource(sysroot, clock.now)
    found = die_channels(with_roles(source, roles).channels)
    # The files of all other sensors are not needed: they open again by themselves if ever read.
    source.close()
    return DieWatch(source, found) if found else None
