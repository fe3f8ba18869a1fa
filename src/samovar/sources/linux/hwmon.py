"""Sensors of /sys/class/hwmon, by the kernel's documented attribute names (hwmon/sysfs-interface)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from samovar.core.quantity import UNITS, Channel, domain_of
from samovar.core.roles import role_of_fan, role_of_power, role_of_temperature
from samovar.sources.linux.files import KernelFile, RateReader, Reader, ScaledReader, text_of

_ATTRIBUTE = re.compile(r"(temp|fan|in|curr|power|energy|humidity)(\d+)_(input|average)$")
_QUANTITY = {
    "temp": ("temperature", 1e3), "fan": ("fan", 1.0), "in": ("voltage", 1e3), "curr": ("current", 1e3),
    "power": ("power", 1e6), "energy": ("power", 1e6), "humidity": ("humidity", 1e3),
}  # fmt: skip


def doubt_temperature(value: float) -> str | None:
    """Why a temperature cannot be a connected probe's."""
    if value <= -40.0 or value >= 150.0:
        return f"{value:g} °C is what a disconnected probe gives"
    return None


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


def device_of(hwmon: Path) -> str:
    """The name of the device behind a hwmon folder, which stays the same when hwmonN changes."""
    device = hwmon / "device"
    try:
        return device.resolve(strict=True).name
    except OSError:
        return hwmon.resolve().parent.name if hwmon.is_symlink() else "none"


def find_hwmon(sys: Path) -> Iterator[Reader]:
    """A reader for every input below class/hwmon, ordered by driver, device and attribute."""
    root = sys / "class/hwmon"
    if not root.is_dir():
        return
    chips = [(text_of(p / "name") or "unnamed", device_of(p), p) for p in root.iterdir()]
    for driver, device, home in sorted(chips, key=lambda c: (c[0], c[1], str(c[2]))):
        names = sorted(p.name for p in home.iterdir())
        inputs = [m for m in map(_ATTRIBUTE.match, names) if m]
        for match in sorted(inputs, key=lambda m: (m[1], int(m[2]), m[3])):
            kind, number, ending = match.groups()
            if ending == "average" and f"{kind}{number}_input" in names:
                continue
            yield _reader(home, driver, device, kind, number, match[0])


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
