"""Thermal zones (thermal/sysfs-api), by names that stay the same however the kernel numbers them."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator
from pathlib import Path

from samovar.core.quantity import Channel
from samovar.core.roles import role_of_temperature
from samovar.sources.linux.files import Reader, ScaledReader, doubt_temperature, entries, text_of

_TRIP = re.compile(r"trip_point_\d+_(temp|type)$")


def zone_names(sys: Path) -> dict[Path, str]:
    """Every zone's own folder, and what it is called: its type, which is enough where there is one of it.

    Several of one type are told apart by the device they belong to (a firmware's zones have one), else by their trip
    points, which the board's maker wrote down for each; only what is alike in all of that is counted in its order.
    """
    zones = [z for z in entries(sys / "class/thermal") if z.name.startswith("thermal_zone")]
    kinds = {zone: text_of(zone / "type") or "unnamed" for zone in sorted(zones, key=_number)}
    found: dict[Path, str] = {}
    taken: set[str] = set()
    for zone, kind in kinds.items():
        alike = [other for other, name in kinds.items() if name == kind]
        name = kind
        for mark in (_device, _trips) if len(alike) > 1 else ():
            marks = [mark(other) for other in alike]
            if mark(zone) and marks.count(mark(zone)) == 1:
                name = f"{kind}:{mark(zone)}"
                break
        number, free = 2, name
        while free in taken:
            free, number = f"{name}:{number}", number + 1
        taken.add(free)
        found[zone.resolve()] = free
    return found


def _number(zone: Path) -> int:
    found = re.search(r"(\d+)$", zone.name)
    return int(found[1]) if found else -1


def _device(zone: Path) -> str:
    """The device a zone belongs to, by the firmware's name for it, else the bus's; empty where it has none."""
    device = zone / "device"
    try:
        home = device.resolve(strict=True)
    except OSError:
        return ""
    return (text_of(device / "path") or home.name).strip("\\ ")


def _trips(zone: Path) -> str:
    """A zone's trip points, which do not change, in one short word; empty where it has none."""
    lines = [
        f"{entry.name} {text_of(entry)}"
        for entry in sorted(entries(zone), key=lambda e: e.name)
        if _TRIP.match(entry.name)
    ]
    return hashlib.sha256("\n".join(lines).encode()).hexdigest()[:8] if lines else ""


def find_zones(sys: Path) -> Iterator[Reader]:
    """Thermal zones that no hwmon chip shows already."""
    shown = set()
    for chip in entries(sys / "class/hwmon"):
        device = (chip / "device").resolve()
        if device.name.startswith("thermal_zone"):
            shown.add(device)
    for home, name in zone_names(sys).items():
        if home in shown:
            continue
        kind = text_of(home / "type") or "unnamed"
        role, domain = role_of_temperature(kind, "")
        channel = Channel(f"Zone {name}", "temperature", "°C", role, domain, f"thermal:{name}")
        yield ScaledReader(channel, home / "temp", 1e3, doubt_temperature)
