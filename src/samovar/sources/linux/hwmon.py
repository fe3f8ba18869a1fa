"""Sensors of /sys/class/hwmon, by the kernel's documented attribute names (hwmon/sysfs-interface)."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from pathlib import Path

from samovar.core.quantity import QUANTITIES, UNITS, Channel, domain_of
from samovar.core.roles import role_of_fan, role_of_power, role_of_temperature
from samovar.sources.linux.files import (
    KernelFile,
    RateReader,
    Reader,
    ScaledReader,
    doubt_temperature,
    entries,
    text_of,
)
from samovar.sources.linux.zones import zone_names

_ATTRIBUTE = re.compile(r"(temp|fan|in|curr|power|energy|humidity|freq)(\d+)_(input|average)$")
_ALARM = re.compile(r"temp(\d+)_crit_alarm$")
_ADDRESS = re.compile(r"[.:\-]")
"""A bus gives its devices names with such signs in them; names without, such as nvme0, are numbers given out anew."""
_QUANTITY = {prefix: (q.key, factor) for q in QUANTITIES.values() for prefix, factor in q.kernel.items()}


class FaultReader:
    """Another reader's value, with the chip's own word on whether the sensor is in order."""

    __slots__ = ("_fault", "_reader", "channel")

    def __init__(self, reader: Reader, fault: Path) -> None:
        self.channel = reader.channel
        self._reader = reader
        self._fault = KernelFile(fault)

    def value(self) -> float:
        return self._reader.value()

    def implausible(self, value: float) -> str | None:
        try:
            if self._fault.read_int() != 0:
                return "the chip reports a fault of this sensor"
        except (OSError, ValueError):
            pass
        return self._reader.implausible(value)

    def close(self) -> None:
        self._reader.close()
        self._fault.close()


class FanReader(ScaledReader):
    """A fan's speed: 0 is real for a fan that has turned, or whose drive is at 0; else no fan answers."""

    __slots__ = ("_drive", "_turned")

    def __init__(self, channel: Channel, path: Path, drive: Path) -> None:
        super().__init__(channel, path, 1.0)
        self._drive = KernelFile(drive)
        self._turned = False

    def implausible(self, value: float) -> str | None:
        if value > 0:
            self._turned = True
            return None
        if self._turned:
            return None
        try:
            if self._drive.read_int() == 0:
                return None
        except (OSError, ValueError):
            pass
        return "0 rpm: no fan answers on this header"

    def close(self) -> None:
        super().close()
        self._drive.close()


def device_of(hwmon: Path, zones: Mapping[Path, str]) -> str:
    """The device behind a hwmon folder by a name that stays the same when hwmonN, or nvmeN, changes: its bus
    address, for a thermal zone its name among `zones`."""
    device = hwmon / "device"
    try:
        path = device.resolve(strict=True)
    except OSError:
        return hwmon.resolve().parent.name if hwmon.is_symlink() else "none"
    if path.name.startswith("thermal_zone"):
        return f"zone-{zones.get(path) or text_of(path / 'type') or 'unnamed'}"
    for part in (path, *path.parents):
        if part.name in ("devices", ""):
            break
        if _ADDRESS.search(part.name):
            return part.name
    return path.name


def find_hwmon(sys: Path) -> Iterator[Reader]:
    """A reader for every input below class/hwmon, ordered by driver, device and attribute."""
    homes = entries(sys / "class/hwmon")
    zones = zone_names(sys) if homes else {}
    chips = [(text_of(p / "name") or "unnamed", device_of(p, zones), p) for p in homes]
    seen: dict[tuple[str, str], int] = {}
    for driver, device, home in sorted(chips, key=lambda c: (c[0], c[1], str(c[2]))):
        # Two of one driver on one device: only their order is left to tell them apart.
        seen[driver, device] = seen.get((driver, device), 0) + 1
        if seen[driver, device] > 1:
            device = f"{device}#{seen[driver, device]}"
        names = sorted(p.name for p in entries(home))
        inputs = [m for m in map(_ATTRIBUTE.match, names) if m]
        for match in sorted(inputs, key=lambda m: (m[1], int(m[2]), m[3])):
            kind, number, ending = match.groups()
            if ending == "average" and f"{kind}{number}_input" in names:
                continue
            reader = _reader(home, driver, device, kind, number, match[0])
            fault = f"{kind}{number}_fault"
            yield FaultReader(reader, home / fault) if fault in names else reader
        for alarm in filter(None, map(_ALARM.match, names)):
            yield _alarm(home, driver, device, alarm[1])


def _reader(home: Path, driver: str, device: str, kind: str, number: str, attribute: str) -> Reader:
    sensor = f"{kind}{number}"
    label = text_of(home / f"{sensor}_label") or f"{driver} {sensor}"
    quantity, factor = _QUANTITY[kind]
    if quantity == "temperature":
        role, domain = role_of_temperature(driver, label)
    elif quantity == "fan":
        role, domain = role_of_fan(label)
    elif quantity == "power":
        role, domain = role_of_power(driver, label)
    elif quantity == "clock":
        # Chips that give a frequency here are graphics chips: their shaders', or their memory's.
        role, domain = ("memory" if re.search(r"mclk|mem", label.lower()) else "gpu"), "gpu"
    else:
        role = "other"
        core = quantity == "voltage" and re.search(r"v?core|\bcpu\b|vdd", label.lower())
        domain = "cpu" if core else domain_of(role)
    channel = Channel(label, quantity, UNITS[quantity], role, domain, f"hwmon:{driver}:{device}:{sensor}")
    path = home / attribute
    if kind == "fan":
        return FanReader(channel, path, home / f"pwm{number}")
    if kind == "energy":
        return RateReader(channel, path, factor, None)
    return ScaledReader(channel, path, factor, doubt_temperature if kind == "temp" else None)


def _alarm(home: Path, driver: str, device: str, number: str) -> Reader:
    """The flag a chip raises when a temperature passes its critical limit."""
    label = text_of(home / f"temp{number}_label") or f"{driver} temp{number}"
    role, domain = role_of_temperature(driver, label)
    where = f"hwmon:{driver}:{device}:temp{number}_crit_alarm"
    return ScaledReader(
        Channel(f"{label} critical", "flag", "", role, domain, where), home / f"temp{number}_crit_alarm", 1.0
    )
