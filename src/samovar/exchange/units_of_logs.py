"""Units as logs of all makers write them, and how their numbers become the units that are kept."""

from __future__ import annotations

import re

UNITS_OF_LOGS: dict[str, tuple[str, float, float]] = {
    # as written, lower case: quantity, factor, offset into our unit
    **dict.fromkeys(("°c", "c", "degc", "deg c", "deg. c", "celsius", "celcius", "centigrade", "grad", "°"), ("temperature", 1.0, 0.0)),
    **dict.fromkeys(("m°c", "mdegc", "millidegree", "millidegrees"), ("temperature", 1e-3, 0.0)),
    **dict.fromkeys(("°f", "f", "degf", "deg f", "fahrenheit"), ("temperature", 5.0 / 9.0, -160.0 / 9.0)),
    **dict.fromkeys(("k", "kelvin"), ("temperature", 1.0, -273.15)),
    **dict.fromkeys(("mhz", "megahertz"), ("clock", 1.0, 0.0)),
    "ghz": ("clock", 1e3, 0.0), "khz": ("clock", 1e-3, 0.0), "hz": ("clock", 1e-6, 0.0),
    **dict.fromkeys(("w", "watt", "watts"), ("power", 1.0, 0.0)),
    "mw": ("power", 1e-3, 0.0), "milliwatt": ("power", 1e-3, 0.0), "uw": ("power", 1e-6, 0.0),
    "µw": ("power", 1e-6, 0.0), "kw": ("power", 1e3, 0.0),
    **dict.fromkeys(("rpm", "r/min", "u/min", "1/min", "min-1", "tr/min", "/min", "rev/min"), ("fan", 1.0, 0.0)),
    **dict.fromkeys(("dba", "db(a)", "db a", "db", "db spl"), ("noise", 1.0, 0.0)),
    **dict.fromkeys(("v", "volt", "volts"), ("voltage", 1.0, 0.0)),
    "mv": ("voltage", 1e-3, 0.0), "uv": ("voltage", 1e-6, 0.0), "µv": ("voltage", 1e-6, 0.0),
    **dict.fromkeys(("a", "amp", "amps", "ampere"), ("current", 1.0, 0.0)),
    "ma": ("current", 1e-3, 0.0), "ua": ("current", 1e-6, 0.0), "µa": ("current", 1e-6, 0.0),
    **dict.fromkeys(("%", "percent", "pct", "prozent"), ("load", 1.0, 0.0)),
    **dict.fromkeys(("% rh", "%rh", "rh", "% r.h."), ("humidity", 1.0, 0.0)),
    **dict.fromkeys(("1/s", "/s", "per second", "ops/s", "it/s", "items/s"), ("work", 1.0, 0.0)),
    **dict.fromkeys(("yes/no", "y/n", "true/false", "on/off", "0/1", "flag", "bool"), ("flag", 1.0, 0.0)),
}  # fmt: skip
TIME_UNITS = {
    **dict.fromkeys(("s", "sec", "secs", "second", "seconds", "sek", "sekunden"), 1.0),
    **dict.fromkeys(("ms", "msec", "millis", "millisecond", "milliseconds"), 1e-3),
    **dict.fromkeys(("us", "µs", "usec", "microseconds"), 1e-6),
    **dict.fromkeys(("ns", "nanoseconds"), 1e-9),
    **dict.fromkeys(("min", "mins", "minute", "minutes"), 60.0),
    **dict.fromkeys(("h", "hr", "hrs", "hour", "hours", "std"), 3600.0),
}  # fmt: skip
MOMENT_UNITS = frozenset(
    {"hh:mm:ss", "h:m:s", "hh:mm:ss.000", "hh:mm", "mm:ss", "yyyy-mm-dd", "dd.mm.yyyy", "date", "time", "iso", "utc", "local"}
)  # fmt: skip


_SPOILT_DEGREES = re.compile(r"(?:[^a-z0-9µ%/.\s+-]{1,4}|o|degrees?|grad) ?([cf])")
"""A degree sign that went wrong on its way stands for one: whatever sign, or its word, before the letter of a scale."""


def tidy(unit: str) -> str:
    """A unit without the brackets and blanks around it, lower case."""
    plain = re.sub(r"\s+", " ", unit.strip().strip("[](){}").strip().lower()).replace("deg.", "deg")
    scale = _SPOILT_DEGREES.fullmatch(plain)
    return f"°{scale[1]}" if scale else plain


def known_unit(text: str) -> bool:
    """Whether this is a unit of a quantity, or of time."""
    unit = tidy(text)
    return unit in UNITS_OF_LOGS or unit in TIME_UNITS or unit in MOMENT_UNITS


SIZES: dict[str, tuple[tuple[float, float, str], ...]] = {
    "temperature": ((1000.0, 1e-3, "thousandths of a degree"),),
    "clock": ((5e7, 1e-6, "Hz"), (25_000.0, 1e-3, "kHz")),
    "power": ((1e6, 1e-6, "µW"), (5001.0, 1e-3, "mW")),
    "voltage": ((100_000.0, 1e-6, "µV"), (501.0, 1e-3, "mV")),
}
"""What numbers without a unit are, by their size: from so large on (the median), the factor into our unit, its name.
The kernel writes its temperatures, clocks and powers so; none of these is a value a sensor gives in our unit."""


def by_size(quantity: str, typical: float) -> tuple[float, str]:
    """The factor for bare numbers of this size, and what they are then taken for; 1 and nothing where they are what
    they seem."""
    for least, factor, words in SIZES.get(quantity, ()):
        if abs(typical) >= least:
            return factor, words
    return 1.0, ""
