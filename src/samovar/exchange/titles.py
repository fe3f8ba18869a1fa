"""Column titles understood: `CPU die (°C)` is a temperature of the die, in °C."""

from __future__ import annotations

import re
from dataclasses import dataclass

from samovar.core.quantity import UNITS, Channel, domain_of
from samovar.core.roles import role_of_fan, role_of_power, role_of_temperature

_UNITS: dict[str, tuple[str, float, float]] = {
    # as written, lower case: quantity, factor, offset into our unit
    "°c": ("temperature", 1.0, 0.0), "c": ("temperature", 1.0, 0.0), "degc": ("temperature", 1.0, 0.0),
    "celsius": ("temperature", 1.0, 0.0),
    "°f": ("temperature", 5.0 / 9.0, -160.0 / 9.0), "f": ("temperature", 5.0 / 9.0, -160.0 / 9.0),
    "k": ("temperature", 1.0, -273.15),
    "mhz": ("clock", 1.0, 0.0), "ghz": ("clock", 1e3, 0.0), "khz": ("clock", 1e-3, 0.0), "hz": ("clock", 1e-6, 0.0),
    "w": ("power", 1.0, 0.0), "mw": ("power", 1e-3, 0.0), "kw": ("power", 1e3, 0.0),
    "rpm": ("fan", 1.0, 0.0),
    "dba": ("noise", 1.0, 0.0), "db(a)": ("noise", 1.0, 0.0), "db": ("noise", 1.0, 0.0),
    "v": ("voltage", 1.0, 0.0), "mv": ("voltage", 1e-3, 0.0),
    "a": ("current", 1.0, 0.0), "ma": ("current", 1e-3, 0.0),
    "%": ("load", 1.0, 0.0), "% rh": ("humidity", 1.0, 0.0),
    "1/s": ("work", 1.0, 0.0), "/s": ("work", 1.0, 0.0),
}  # fmt: skip
_BRACKETS = re.compile(r"^(?P<name>.*?)\s*[\[(]\s*(?P<unit>[^\[\]()]+(?:\(A\))?)\s*[\])]\s*$")
_TIME_UNITS = {"s": 1.0, "sec": 1.0, "seconds": 1.0, "ms": 1e-3, "min": 60.0, "h": 3600.0}


@dataclass(frozen=True, slots=True)
class Column:
    """A column understood: its channel, and how its numbers become the channel's unit."""

    channel: Channel
    factor: float
    offset: float


def time_factor(title: str) -> float | None:
    """Seconds per unit of a time column's title; None where the title names no time."""
    found = _BRACKETS.match(title.strip())
    name = (found["name"] if found else title).strip().lower()
    unit = found["unit"].strip().lower() if found else "s"
    if re.fullmatch(r"(elapsed|relative|run)?[\s_]*(time|elapsed|seconds|timestamp|t)", name) is None:
        return None
    return _TIME_UNITS.get(unit)


def understand(title: str) -> Column | None:
    """What a title says; None where neither its unit nor its words tell a quantity."""
    found = _BRACKETS.match(title.strip())
    if found:
        name, unit = found["name"].strip(), found["unit"].strip().lower().replace("º", "°")
        known = _UNITS.get(unit)
        if known is None:
            return None
        quantity, factor, offset = known
        name = name or title
    else:
        name = title.strip()
        guessed = _quantity_from_words(name)
        if guessed is None:
            return None
        quantity, factor, offset = guessed, 1.0, 0.0
    return Column(channel_named(name, quantity), factor, offset)


def channel_named(name: str, quantity: str) -> Channel:
    """A channel of this quantity with the role and domain its name suggests."""
    text = name.lower()
    if quantity == "temperature":
        role, domain = role_of_temperature("", name)
    elif quantity == "fan":
        role, domain = role_of_fan(name)
    elif quantity == "power":
        role, domain = role_of_power("", name)
    elif quantity == "clock":
        gpu = re.search(r"gpu|graphics", text)
        memory = re.search(r"memory|\bram\b|dram|uncore|ring|fabric", text)
        role = "gpu" if gpu else "memory" if memory else "core"
        domain = "gpu" if gpu else "memory" if memory else "cpu"
    elif quantity == "load":
        gpu = re.search(r"gpu|graphics", text)
        core = re.search(r"(core|thread|cpu) ?#?\d+", text)
        role, domain = ("gpu", "gpu") if gpu else ("core" if core else "package", "cpu")
        if re.search(r"memory|\bram\b|fan|pump|duty|disk|battery|samovar itself", text):
            role, domain = "other", "board"
    elif quantity == "flag":
        role, domain = ("package" if "package" in text else "core"), "cpu"
    elif quantity == "work" or (quantity == "voltage" and re.search(r"v?core|\bcpu\b|vdd", text)):
        role, domain = "other", "cpu"
    else:
        role = "other"
        domain = domain_of(role)
    return Channel(name, quantity, UNITS[quantity], role, domain)


def _quantity_from_words(name: str) -> str | None:
    text = name.lower()
    for pattern, quantity in (
        (r"throttl", "flag"), (r"temp|°c|tdie|tctl", "temperature"), (r"clock|freq|mhz", "clock"),
        (r"power|watt", "power"), (r"fan|rpm", "fan"), (r"volt|vcore|vdd", "voltage"), (r"noise|dba", "noise"),
        (r"utili[sz]ation|usage|load", "load"), (r"\bwork\b|score rate", "work"),
    ):  # fmt: skip
        if re.search(pattern, text):
            return quantity
    return None
