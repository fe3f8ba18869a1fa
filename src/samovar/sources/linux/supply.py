"""Batteries, supplies and USB-C ports of /sys/class/power_supply: what flows, by power/power_supply_class of the kernel."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from samovar.core.quantity import Channel
from samovar.sources.linux.files import KernelFile, Reader, ScaledReader, entries, text_of


class FlowReader:
    """The power of a battery or a port, W: what it says itself, else current times voltage. The kernel leaves the sign to the
    driver; what is shown is the size of what flows, in or out."""

    __slots__ = ("_current", "_power", "_voltage", "channel")

    def __init__(self, channel: Channel, home: Path) -> None:
        self.channel = channel
        self._power = KernelFile(home / "power_now") if (home / "power_now").exists() else None
        self._current, self._voltage = KernelFile(home / "current_now"), KernelFile(home / "voltage_now")

    def value(self) -> float:
        if self._power is not None:
            return abs(self._power.read_int()) / 1e6
        return abs(self._current.read_int() * self._voltage.read_int()) / 1e12

    def implausible(self, value: float) -> str | None:
        return f"{value:g} W is more than a battery or a port gives" if value > 1000.0 else None

    def close(self) -> None:
        for file in (self._power, self._current, self._voltage):
            if file is not None:
                file.close()


def find_supplies(sys: Path) -> Iterator[Reader]:
    """Power of every battery of the machine itself and of every port that tells, and whether its supply is plugged in."""
    for home in sorted(entries(sys / "class/power_supply")):
        kind = text_of(home / "type")
        if kind == "Battery" and text_of(home / "scope") != "Device":
            flows = (home / "power_now").exists() or (home / "current_now").exists()
            if flows:
                channel = Channel(
                    f"{home.name} power", "power", "W", "other", "case", f"supply:{home.name}:power"
                )
                yield FlowReader(channel, home)
        elif kind in ("Mains", "USB") and (home / "online").exists():
            channel = Channel(
                f"{home.name} plugged in", "flag", "", "other", "case", f"supply:{home.name}:online"
            )
            yield ScaledReader(channel, home / "online", 1.0)
            if (home / "current_now").exists() and (home / "voltage_now").exists():
                flow = Channel(
                    f"{home.name} power", "power", "W", "other", "case", f"supply:{home.name}:power"
                )
                yield FlowReader(flow, home)
