"""Units as logs of all makers write them, and how their numbers become the units that are kept."""

from __future__ import annotations

import re

UNITS_OF_LOGS: dict[str, tuple[str, float, float]] = {
    # as written, lower case: quantity, factor, offset into our unit
    **dict.fromkeys(("°c", "c", "degc", "deg c", "deg. c", "celsius", "grad", "°"), ("temperature", 1.0, 0.0)),
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


def tidy(unit: str) -> str:
    """A unit without the brackets and blanks around it, lower case."""
    return re.sub(r"\s+", " ", unit.strip().strip("[](){}").strip().lower()).replace("deg.", "deg")


def known_unit(text: str) -> bool:
    """Whether this is a unit of a quantity, or of time."""
    unit = tidy(text)
    return unit in UNITS_OF_LOGS or unit in TIME_UNITS or unit in MOMENT_UNITS
