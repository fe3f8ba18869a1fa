"""Converters and probes of the industrial I/O subsystem, by the kernel's documented names (ABI/testing/sysfs-bus-iio):
thermocouple amplifiers, analogue inputs, humidity probes, current and power monitors on a board's pins."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from samovar.core.quantity import Channel, domain_of
from samovar.core.roles import role_of_temperature
from samovar.sources.linux.files import KernelFile, Reader, doubt_temperature, entries, text_of

_KINDS = {
    "temp": ("temperature", "°C"), "voltage": ("voltage", "V"), "current": ("current", "A"), "power": ("power", "W"),
    "humidityrelative": ("humidity", "%"),
}  # fmt: skip
"""What is measured, and the unit it is kept in; the kernel gives a thousandth of each."""
_MILLI = 1e-3
_INPUT = re.compile(r"in_(temp|voltage|current|power|humidityrelative)(\d*)(_ambient|_object)?_(raw|input)$")


class ConverterReader:
    """A converter's count: (count + offset) times scale; or what the driver has worked out itself."""

    __slots__ = ("_factor", "_file", "_is_temperature", "_offset", "channel")

    def __init__(self, channel: Channel, path: Path, scale: float, offset: float) -> None:
        self.channel = channel
        self._file = KernelFile(path)
        self._factor = scale * _MILLI
        self._offset = offset
        self._is_temperature = channel.quantity == "temperature"

    def value(self) -> float:
        return (float(self._file.read()) + self._offset) * self._factor

    def implausible(self, value: float) -> str | None:
        return doubt_temperature(value) if self._is_temperature else None

    def close(self) -> None:
        self._file.close()


def find_converters(sys: Path) -> Iterator[Reader]:
    """A reader for every input of every device of the subsystem, named by its driver and the device behind it."""
    homes = [p for p in entries(sys / "bus/iio/devices") if p.name.startswith("iio:device")]
    known = [(text_of(p / "name") or "unnamed", _device(p), p) for p in homes]
    for driver, device, home in sorted(known, key=lambda one: (one[0], one[1], str(one[2]))):
        names = {p.name for p in entries(home)}
        for match in sorted(
            filter(None, map(_INPUT.match, names)), key=lambda m: (m[1], int(m[2] or 0), m[0])
        ):
            kind, number, part, ending = match[1], match[2], match[3] or "", match[4]
            sensor = f"in_{kind}{number}{part}"
            if ending == "raw" and f"{sensor}_input" in names:
                continue
            scale, offset = 1.0, 0.0
            if ending == "raw":
                scale = _number(home, kind, number, part, "scale", 1.0)
                offset = _number(home, kind, number, part, "offset", 0.0)
            label = text_of(home / f"{sensor}_label") or f"{driver} {sensor[3:]}".replace("_", " ")
            quantity, unit = _KINDS[kind]
            role = role_of_temperature(driver, label)[0] if kind == "temp" else "other"
            channel = Channel(label, quantity, unit, role, domain_of(role), f"iio:{driver}:{device}:{sensor}")
            yield ConverterReader(channel, home / match[0], scale, offset)


def _device(home: Path) -> str:
    """The device behind it, which does not change when the kernel numbers them otherwise."""
    return home.resolve().parent.name


def _number(home: Path, kind: str, number: str, part: str, what: str, otherwise: float) -> float:
    """An attribute of one input, or the one that all inputs of its kind share."""
    for name in (f"in_{kind}{number}{part}_{what}", f"in_{kind}{number}_{what}", f"in_{kind}_{what}"):
        text = text_of(home / name)
        if text is not None:
            try:
                return float(text)
            except ValueError:
                return otherwise
    return otherwise
