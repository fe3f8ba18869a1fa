"""Units as people write them, read into one unit each: SI, or the trade's where SI has no everyday form.

Factors are exact by definition where one exists: the inch and the pound (international agreement of
1959), the conventional millimetre of water (ISO 80000-4, 9.80665 Pa), the cubic foot a minute from the inch.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field


class Unreadable(ValueError):
    """What was typed cannot be read; the text says why, and gives an example of what can."""


@dataclass(frozen=True)
class Dimension:
    """One kind of measure.

    `unit`: the unit it is kept in, as the keys of a specification end (`height_m`); `shown`: the unit people
    read; a bare number is taken in it. `factors`: written unit, lower case, to kept units; `offsets` are
    added before the factor (°F). `least`, `most`: bounds in kept units, for slips of the keyboard.
    """

    name: str
    unit: str
    shown: str
    factors: Mapping[str, float]
    example: str
    least: float = 0.0
    most: float = 1e6
    offsets: Mapping[str, float] = field(default_factory=dict)
    decimals: int = 1


_INCH = 0.0254
_POUND = 0.45359237
_CFM = (12 * _INCH) ** 3 / 60.0
_LENGTH = {
    "mm": 1e-3, "cm": 1e-2, "m": 1.0, "µm": 1e-6, "um": 1e-6, "in": _INCH, "inch": _INCH, "inches": _INCH,
    '"': _INCH, "″": _INCH, "''": _INCH, "ft": 12 * _INCH, "'": 12 * _INCH, "′": 12 * _INCH, "mil": _INCH / 1000,
}  # fmt: skip
_POWER = {"w": 1.0, "watt": 1.0, "watts": 1.0, "kw": 1e3, "mw": 1e-3}

DIMENSIONS: dict[str, Dimension] = {
    d.name: d
    for d in (
        Dimension("length", "m", "mm", _LENGTH, "161 mm, 16.1 cm or 6.34 in", 0.0, 5.0),
        Dimension(
            "mass", "kg", "kg",
            {"kg": 1.0, "g": 1e-3, "lb": _POUND, "lbs": _POUND, "oz": _POUND / 16.0, "t": 1e3},
            "1.18 kg, 420 g or 2 lb 10 oz", 0.0, 500.0, decimals=3,
        ),
        Dimension("power", "w", "W", _POWER, "210 W", 0.0, 20e3),
        Dimension(
            "airflow", "m3_per_s", "m³/h",
            {
                "m³/h": 1 / 3600, "m3/h": 1 / 3600, "m^3/h": 1 / 3600, "cfm": _CFM, "ft³/min": _CFM, "ft3/min": _CFM,
                "l/s": 1e-3, "l/min": 1e-3 / 60, "m³/s": 1.0, "m3/s": 1.0, "m³/min": 1 / 60, "m3/min": 1 / 60,
            },
            "95 m³/h or 56 CFM", 0.0, 2.0,
        ),
        Dimension(
            "pressure", "pa", "Pa",
            {
                "pa": 1.0, "kpa": 1e3, "hpa": 100.0, "mbar": 100.0, "mmh2o": 9.80665, "mmh₂o": 9.80665, "mmaq": 9.80665,
                "inh2o": 249.08891, "inh₂o": 249.08891,
            },
            "23 Pa or 2.35 mmH2O", 0.0, 1e5,
        ),
        Dimension("level", "dba", "dBA", {"dba": 1.0, "db(a)": 1.0, "db a": 1.0, "db": 1.0}, "24.6 dBA", -10.0, 140.0),
        Dimension("speed", "rpm", "rpm", {"rpm": 1.0, "1/min": 1.0, "u/min": 1.0, "/min": 1.0}, "1200 rpm", 0.0, 60e3, decimals=0),
        Dimension(
            "temperature", "c", "°C", {"°c": 1.0, "c": 1.0, "℃": 1.0, "degc": 1.0, "deg c": 1.0, "°f": 5 / 9, "f": 5 / 9, "℉": 5 / 9, "degf": 5 / 9, "deg f": 5 / 9, "k": 1.0},
            "34 °C or 93 °F", -273.15, 500.0, {"°f": -32.0, "f": -32.0, "℉": -32.0, "degf": -32.0, "deg f": -32.0, "k": -273.15},
        ),
        Dimension("difference", "k", "K", {"k": 1.0, "°c": 1.0, "c": 1.0, "°f": 5 / 9, "f": 5 / 9}, "0.3 K", 0.0, 500.0, decimals=2),
        Dimension("voltage", "v", "V", {"v": 1.0, "mv": 1e-3, "kv": 1e3}, "12 V or -50 mV", -1000.0, 1000.0, decimals=3),
        Dimension("current", "a", "A", {"a": 1.0, "ma": 1e-3}, "0.2 A", 0.0, 1e4, decimals=2),
        Dimension("clock", "mhz", "MHz", {"mhz": 1.0, "ghz": 1e3, "khz": 1e-3}, "3400 MHz or 3.4 GHz", 0.0, 2e4, decimals=0),
        Dimension(
            "volume", "m3", "l",
            {"l": 1e-3, "ltr": 1e-3, "litre": 1e-3, "litres": 1e-3, "liter": 1e-3, "m³": 1.0, "m3": 1.0, "cm³": 1e-6, "ml": 1e-6,
             "in³": _INCH**3, "ft³": (12 * _INCH) ** 3},
            "14.2 l", 0.0, 10.0,
        ),
        Dimension(
            "conductivity", "w_per_mk", "W/(m·K)",
            {"w/(m·k)": 1.0, "w/mk": 1.0, "w/m-k": 1.0, "w/m·k": 1.0, "w/(mk)": 1.0, "w/m k": 1.0},
            "8.5 W/mK", 0.0, 5e3,
        ),
        Dimension(
            "time", "s", "s",
            {"s": 1.0, "sec": 1.0, "min": 60.0, "m": 60.0, "h": 3600.0, "hours": 3600.0, "minutes": 60.0, "ms": 1e-3},
            "90 s, 12 min or 1:30", 0.0, 30 * 86400.0,
        ),
        Dimension(
            "term", "months", "months",
            {"months": 1.0, "month": 1.0, "mo": 1.0, "years": 12.0, "year": 12.0, "yr": 12.0, "y": 12.0, "a": 12.0},
            "6 years or 36 months", 0.0, 1200.0, decimals=0,
        ),
        Dimension(
            "data rate", "mb_per_s", "MB/s",
            {"mb/s": 1.0, "gb/s": 1e3, "kb/s": 1e-3, "tb/s": 1e6, "b/s": 1e-6, "mib/s": 1.048576, "gib/s": 1073.741824,
             "kib/s": 1.024e-3},
            "3400 MB/s or 3.4 GB/s", 0.0, 1e6, decimals=0,
        ),
        Dimension("share", "share", "%", {"%": 0.01, "percent": 0.01, "pct": 0.01}, "60 %", 0.0, 1.0),
        Dimension("data", "bytes", "GB", {"gb": 1e9, "mb": 1e6, "tb": 1e12, "gib": 2.0**30, "mib": 2.0**20, "b": 1.0}, "32 GB", 0.0, 1e16),
    )
}  # fmt: skip
"""Every dimension by name."""

_NUMBER = r"[+\-−]?(?:\d+(?:[.,]\d+)*|[.,]\d+)(?:e[+\-]?\d+)?"
_PART = re.compile(
    rf"\s*(?:(?P<whole>\d+)\s+(?=\d+/\d))?(?:(?P<top>\d+)/(?P<bottom>\d+)(?![a-z])|(?P<number>{_NUMBER}))\s*",
    re.I,
)


def number(text: str, example: str) -> float:
    """A number with a decimal point or comma, and signs that part thousands where that is plain.

    Raises:
        Unreadable: none, or one that may be two; `example` is what is said then.
    """
    plain = text.replace("−", "-")
    commas, points = plain.count(","), plain.count(".")
    if commas and points:
        # Whichever comes last is the decimal sign: 1,200.5 and 1.200,5.
        plain = (
            plain.replace(",", "")
            if plain.rfind(".") > plain.rfind(",")
            else plain.replace(".", "").replace(",", ".")
        )
    elif commas == 1:
        if re.fullmatch(r"[+\-]?[1-9]\d{0,2},\d{3}", plain):
            whole = plain.replace(",", "")
            raise Unreadable(f"{text} may be {whole} or {plain.replace(',', '.')}; write one of these")
        plain = plain.replace(",", ".")
    elif commas > 1:
        plain = plain.replace(",", "")
    elif points > 1:
        plain = plain.replace(".", "")
    try:
        return float(plain)
    except ValueError as problem:
        raise Unreadable(f"{text!r} is no number; write {example}") from problem


def _unit(rest: str, dimension: Dimension) -> tuple[str, str]:
    """The longest known unit that the text begins with, and what stands behind it."""
    low = rest.lower()
    for name in sorted(dimension.factors, key=len, reverse=True):
        if low.startswith(name) and not (name[-1].isalpha() and low[len(name) : len(name) + 1].isalpha()):
            return name, rest[len(name) :]
    return "", rest


def parse(name: str, text: str) -> float:
    """A measure as typed, in the dimension's kept unit.

    Decimal points and commas, fractions (`1 1/2 in`), compounds (`2 lb 10 oz`) and, for times, `1:30` are read;
    a bare number is in the unit shown. A comma before three digits alone is refused: it may be either.

    Args:
        name: a key of DIMENSIONS.

    Raises:
        Unreadable: no such number or unit, or out of bounds.
    """
    dimension = DIMENSIONS[name]
    typed = " ".join(text.replace("\u00a0", " ").split())
    if name == "time" and (clock := re.fullmatch(r"(?:(\d+):)?(\d+):([0-5]\d)", typed)):
        return 3600.0 * int(clock[1] or 0) + 60.0 * int(clock[2]) + int(clock[3])
    total, rest, parts = 0.0, typed, 0
    while rest:
        found = _PART.match(rest)
        if not found or (parts and (found["number"] or "")[:1] in "+-−"):
            raise Unreadable(f"{text!r} is no {dimension.name}; write {dimension.example}")
        if found["top"]:
            if int(found["bottom"]) == 0:
                raise Unreadable(f"{text!r} divides by nothing; write {dimension.example}")
            value = int(found["whole"] or 0) + int(found["top"]) / int(found["bottom"])
        else:
            value = number(found["number"], dimension.example)
        unit, rest = _unit(rest[found.end() :], dimension)
        if not unit:
            if rest.strip() or parts:
                raise Unreadable(
                    f"{rest.strip() or typed!r} is no unit of {dimension.name}; write {dimension.example}"
                )
            unit = dimension.shown.lower()
        factor = dimension.factors.get(unit, 1.0)
        total += (value + dimension.offsets.get(unit, 0.0)) * factor
        parts += 1
        rest = rest.strip()
        if parts > 2:
            raise Unreadable(f"{text!r} has too many parts; write {dimension.example}")
    if parts == 0:
        raise Unreadable(f"nothing is written; write {dimension.example}")
    # 35 % is 0.35, not the 0.35000000000000003 that the product gives.
    total = float(f"{total:.15g}")
    if not dimension.least <= total <= dimension.most:
        bounds = f"{shown(name, dimension.least)} to {shown(name, dimension.most)}"
        raise Unreadable(f"{text!r} is beyond what can be ({bounds}); write {dimension.example}")
    return total


def number_shown(name: str, value: float) -> str:
    """The number in the unit people read, without more decimals than are worth reading."""
    dimension = DIMENSIONS[name]
    unit = dimension.shown.lower()
    number = value / dimension.factors[unit] - dimension.offsets.get(unit, 0.0)
    text = f"{number:.{dimension.decimals}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def shown(name: str, value: float) -> str:
    """A kept value with its unit, as people read it: `161 mm`."""
    if name == "length" and value >= 1.0:
        return f"{value:.4g} m"
    if name == "mass" and 0 < value < 0.1:
        return f"{1000 * value:.4g} g"
    if name == "term" and value >= 24 and value % 12 == 0:
        return f"{value / 12:g} years"
    if name == "time" and value >= 60:
        whole = round(value)
        return f"{whole // 60}:{whole % 60:02d} min"
    return f"{number_shown(name, value)} {DIMENSIONS[name].shown}"


def exact(name: str, value: float) -> str:
    """A kept value as text that `parse` reads back to the same value, in the unit shown where that loses nothing."""
    text = f"{number_shown(name, value)} {DIMENSIONS[name].shown}"
    dimension = DIMENSIONS[name]
    inside = dimension.least <= value <= dimension.most
    with suppress(Unreadable):
        if inside and abs(parse(name, text) - value) <= 1e-12 * max(1.0, abs(value)):
            return text
    unit = dimension.shown.lower()
    return f"{value / dimension.factors[unit] - dimension.offsets.get(unit, 0.0)!r} {dimension.shown}"
