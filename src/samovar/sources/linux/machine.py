"""A Linux machine as a source: all its readers together, and what each of them says now."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from pathlib import Path

from samovar.core.quantity import Channel
from samovar.sources.linux.cpu import find_clocks, find_powers, find_throttles, find_utilisation
from samovar.sources.linux.files import NAN, RateReader, Reader
from samovar.sources.linux.graphics import find_devices_with_clocks, find_graphics
from samovar.sources.linux.hwmon import find_hwmon
from samovar.sources.linux.iio import find_converters
from samovar.sources.linux.lane import Lane, Said, attempt, read_once
from samovar.sources.linux.supply import find_supplies
from samovar.sources.linux.zones import find_zones
from samovar.sources.protocol import Probed


def _readers(sysroot: Path, clock: Callable[[], float]) -> list[Reader]:
    sys, proc = sysroot / "sys", sysroot / "proc"
    return [
        *find_hwmon(sys),
        *find_zones(sys),
        *find_clocks(sys),
        *find_powers(sys, clock),
        *find_throttles(sys),
        *find_utilisation(proc),
        *find_supplies(sys),
        *find_converters(sys),
        *find_graphics(sys),
        *find_devices_with_clocks(sys),
    ]


PATIENCE_S, PROBE_PATIENCE_S = 0.2, 1.0
"""So long a device that hangs holds the others up, once: while recording, and while it is looked for."""
LOOK_AFTER, LOOK_EVERY_S = 3, 5.0
"""A sensor that failed so many samples running is looked for anew, at most so often."""


def _reason(problem: Exception) -> str:
    if isinstance(problem, PermissionError):
        return "permission denied: another user may read it, run as that user or grant reading"
    if isinstance(problem, OSError):
        return (problem.strerror or "the kernel gave an error").lower()
    return "what stands there is no number"


def _probed(reader: Reader, said: Said) -> Probed:
    if said is None:
        return Probed(
            reader.channel, None, "unreadable", f"no answer in {PROBE_PATIENCE_S:g} s: the device hangs"
        )
    if isinstance(said, Exception):
        return Probed(reader.channel, None, "unreadable", _reason(said))
    if not math.isfinite(said):
        return Probed(reader.channel, None, "ok", None)
    doubt = reader.implausible(said)
    return Probed(reader.channel, said, "implausible" if doubt else "ok", doubt)


def _probe(readers: list[Reader]) -> list[Probed]:
    """What each says now; one that hangs costs the others only this once."""
    said = read_once(readers, PROBE_PATIENCE_S)
    return [_probed(reader, words) for reader, words in zip(readers, said)]


def discover(
    sysroot: Path = Path("/"),
    settle_s: float = 0.25,
    clock: Callable[[], float] = time.monotonic,
    pause: Callable[[float], None] = time.sleep,
) -> list[Probed]:
    """All channels of a machine with their values now.

    Args:
        sysroot: the folder that holds sys and proc.
        settle_s: time between the two readings that make a rate of a counter.
        clock, pause: time itself, for machines whose time runs otherwise.
    """
    readers = _readers(sysroot, clock)
    found = _probe(readers)
    waiting = [k for k, p in enumerate(found) if p.status == "ok" and p.value is None]
    if waiting:
        pause(settle_s)
        for k, again in zip(waiting, _probe([readers[k] for k in waiting])):
            found[k] = again
    for reader in readers:
        reader.close()
    return found


FAST_QUANTITIES = ("clock", "power", "load", "work", "flag")
FAST_ROLES = ("die", "core", "package", "hotspot")


def is_fast(channel: Channel) -> bool:
    """Whether a channel can change within a second: clocks, powers, utilisation, and the chip's own temperatures.
    Board probes, fans, voltages and batteries are slower than that, and often slow to read."""
    if channel.quantity == "temperature":
        return channel.role in FAST_ROLES
    return channel.quantity in FAST_QUANTITIES and not channel.id.startswith("supply:")


class LinuxSource:
    """The kernel's sensors of one machine, those that can be used, sampled together; only those `wanted` where
    that is given.

    A channel that is unreadable or implausible when the source is opened is left out (`refused` says
    which and why); one that fails later gives NaN from then on, and comes back by itself: under its own name,
    were its device numbered otherwise by then. A device that hangs delays the others only once. Without `may_hang`
    the files are plain ones that cannot.
    """

    def __init__(
        self,
        sysroot: Path = Path("/"),
        clock: Callable[[], float] = time.monotonic,
        wanted: Callable[[Channel], bool] | None = None,
        name: str = "kernel",
        may_hang: bool = True,
    ) -> None:
        self.name = name
        self._readers: list[Reader] = []
        self.refused: list[Probed] = []
        found = _readers(sysroot, clock)
        for reader, probed in zip(found, _probe(found)):
            if probed.status == "ok":
                self._readers.append(reader)
            else:
                reader.close()
                self.refused.append(probed)
        channels = _unique([r.channel for r in self._readers])
        if wanted is not None:
            # Named among all of them first: a part's channels have the names they have in the whole.
            chosen = [wanted(c) for c in channels]
            for reader in (r for r, c in zip(self._readers, chosen) if not c):
                reader.close()
            self._readers = [r for r, c in zip(self._readers, chosen) if c]
            channels = [c for c, take in zip(channels, chosen) if take]
        self._channels = tuple(channels)
        self._lane = Lane(self._readers, PATIENCE_S) if may_hang else None
        self._sysroot, self._clock = sysroot, clock
        self._failed = [0] * len(self._readers)
        self._healed_at = clock()

    @property
    def channels(self) -> tuple[Channel, ...]:
        """The channels in use; two of one name are told apart as `name (2)`."""
        return self._channels

    def sample(self) -> list[float]:
        """One value for each channel; NaN where the kernel gave none or an implausible one."""
        out = []
        said = [attempt(r) for r in self._readers] if self._lane is None else self._lane.read()
        for index, (reader, value) in enumerate(zip(self._readers, said)):
            if isinstance(value, float):
                out.append(NAN if reader.implausible(value) else value)
                self._failed[index] = 0
            else:
                out.append(NAN)
                # One that hangs is not lost: looking for it anew would hang too.
                self._failed[index] += isinstance(value, Exception)
        if max(self._failed, default=0) >= LOOK_AFTER:
            self._look_again()
        return out

    def _look_again(self) -> None:
        """Find lost sensors by their names: a device that comes back may have another number."""
        if self._clock() - self._healed_at < LOOK_EVERY_S:
            return
        self._healed_at = self._clock()
        lost = {r.channel.id: k for k, r in enumerate(self._readers) if self._failed[k] >= LOOK_AFTER}
        again = [r for r in _readers(self._sysroot, self._clock) if r.channel.id in lost]
        for reader, probed in zip(again, _probe(again)):
            index = lost[reader.channel.id]
            if probed.status != "ok":
                reader.close()
                continue
            self._readers[index].close()
            self._readers[index] = reader
            self._failed[index] = 0

    def sample_one(self, index: int) -> float:
        """One channel alone, for the guard's quick look; NaN as above. Rates are not for this."""
        reader = self._readers[index]
        if isinstance(reader, RateReader):
            return NAN
        try:
            value = reader.value()
            return NAN if reader.implausible(value) else value
        except (OSError, ValueError):
            return NAN

    def close(self) -> None:
        """Close every file."""
        if self._lane is not None:
            self._lane.close()
        for reader in self._readers:
            reader.close()


def _unique(channels: list[Channel]) -> list[Channel]:
    from dataclasses import replace

    seen: dict[str, int] = {}
    out = []
    for channel in channels:
        seen[channel.name] = seen.get(channel.name, 0) + 1
        number = seen[channel.name]
        out.append(channel if number == 1 else replace(channel, name=f"{channel.name} ({number})"))
    return out
