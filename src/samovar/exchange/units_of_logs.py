"""Units as logs of all makers write them, and how their numbers become the units that are kept."""

from __future__ import annotations

import re

from samovar.core.quantity import QUANTITIES

UNITS_OF_LOGS: dict[str, tuple[str, str, float, float]] = {
    **{
        name: (q.key, q.unit, *how)
        for q in QUANTITIES.values()
        if q.a_channel
        for name, how in q.written.items()
    },
    **{
        name: (q.key, unit, factor, 0.0)
        for q in QUANTITIES.values()
        for name, (unit, factor) in q.counted.items()
    },
}
"""As written, lower case: quantity, the unit it is kept in, factor and offset into that."""
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
