"""Clocks, package power, throttle counters, utilisation and thermal zones of a processor."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from pathlib import Path

from samovar.core.quantity import Channel
from samovar.core.roles import role_of_power
from samovar.sources.linux.files import (
    NAN,
    CounterFlagReader,
    KernelFile,
    RateReader,
    Reader,
    ScaledReader,
    entries,
    text_of,
)


def _number(path: Path) -> int:
    found = re.search(r"(\d+)$", path.name)
    return int(found[1]) if found else -1


def find_clocks(sys: Path) -> Iterator[Reader]:
    """The present clock of every processor that has cpufreq, MHz."""
    cpus = [p for p in (sys / "devices/system/cpu").glob("cpu[0-9]*") if (p / "cpufreq").is_dir()]
    groups = _groups(cpus)
    for cpu in sorted(cpus, key=_number):
        kind = groups.get(cpu.name, "Core")
        channel = Channel(
            f"{kind} {_number(cpu)} clock", "clock", "MHz", "core", "cpu", f"cpufreq:{cpu.name}"
        )
        yield ScaledReader(channel, cpu / "cpufreq/scaling_cur_freq", 1e3, _doubt_clock)


def _groups(cpus: list[Path]) -> dict[str, str]:
    """What the cores of a chip with unlike ones are called, by their highest clocks; empty where all are alike.
    A few per cent between favoured cores of one kind make no group."""
    tops = {p.name: int(t) for p in cpus if (t := text_of(p / "cpufreq/cpuinfo_max_freq") or "").isdigit()}
    levels: list[int] = []
    for top in sorted(set(tops.values())):
        if not levels or top > 1.12 * levels[-1]:
            levels.append(top)
    if len(levels) < 2 or len(tops) < len(cpus):
        return {}
    names = ["Slow core", *["Middle core"] * (len(levels) - 2), "Fast core"]
    return {cpu: names[max(k for k, level in enumerate(levels) if top >= level)] for cpu, top in tops.items()}


def _doubt_clock(value: float) -> str | None:
    return None if 1.0 <= value < 20000.0 else f"{value:g} MHz is no clock"


_POWER_NAMES = {"package": "Package power", "gpu": "Graphics power", "memory": "Memory power"}


def find_powers(sys: Path, clock: Callable[[], float]) -> Iterator[Reader]:
    """Every powercap zone's energy counter as power, W. A zone is named by its path of names
    (`package-0/core`), which stays the same when zones are numbered otherwise."""
    zones = [
        p
        for p in entries(sys / "class/powercap")
        if (p / "energy_uj").exists() or (p / "energy_uj").is_symlink()
    ]
    names = {p.name: text_of(p / "name") or p.name for p in zones}
    for zone in sorted(zones, key=lambda p: p.name):
        control, *numbers = zone.name.split(":")
        parents = [":".join([control, *numbers[: k + 1]]) for k in range(len(numbers))]
        path = "/".join(names.get(parent, parent) for parent in parents)
        role, domain = role_of_power("", names[zone.name])
        label = _POWER_NAMES.get(role, f"{path} power")
        limit = text_of(zone / "max_energy_range_uj")
        channel = Channel(label, "power", "W", role, domain, f"powercap:{control}:{path}")
        yield RateReader(
            channel, zone / "energy_uj", 1e6, int(limit) if limit and limit.isdigit() else None, clock
        )


def find_throttles(sys: Path) -> Iterator[Reader]:
    """The kernel's counters of thermal throttling: one for each package, one for each core."""
    seen: set[str] = set()
    for cpu in sorted((sys / "devices/system/cpu").glob("cpu[0-9]*"), key=_number):
        counters = cpu / "thermal_throttle"
        package = text_of(cpu / "topology/physical_package_id") or "0"
        core = text_of(cpu / "topology/core_id") or str(_number(cpu))
        for name, scope in (
            ("package_throttle_count", f"package {package}"),
            ("core_throttle_count", f"core {core}"),
        ):
            if (counters / name).exists() and scope not in seen:
                seen.add(scope)
                role = "package" if scope.startswith("package") else "core"
                where = f"throttle:{scope.replace(' ', '')}"
                yield CounterFlagReader(
                    Channel(f"Throttling {scope}", "flag", "", role, "cpu", where), counters / name
                )


class UtilisationReader:
    """Busy share of the whole machine's processors since the last sample, %, from proc/stat."""

    __slots__ = ("_file", "_last", "channel")

    def __init__(self, path: Path) -> None:
        self.channel = Channel("Utilisation", "load", "%", "package", "cpu", "stat:cpu")
        self._file = KernelFile(path)
        self._last: tuple[int, int] | None = None

    def value(self) -> float:
        line = self._file.read(512).split(b"\n", 1)[0].split()
        if not line or line[0] != b"cpu":
            raise ValueError("no line for the whole machine")
        ticks = [int(x) for x in line[1:9]]
        idle = ticks[3] + (ticks[4] if len(ticks) > 4 else 0)
        total = sum(ticks)
        last, self._last = self._last, (idle, total)
        if last is None or total <= last[1]:
            return NAN
        return max(0.0, min(100.0, 100.0 * (1.0 - (idle - last[0]) / (total - last[1]))))

    def implausible(self, value: float) -> str | None:
        return None

    def close(self) -> None:
        self._file.close()


def find_utilisation(proc: Path) -> Iterator[Reader]:
    """The machine's utilisation, where proc/stat exists."""
    if (proc / "stat").exists():
        yield UtilisationReader(proc / "stat")
