"""Times of a run as a person types them: `12:30`, `12:30 to 20:00`, `750 s`."""

from __future__ import annotations

import re

from samovar.bench.course_spec import clock_text
from samovar.core.units import Unreadable, parse

_BETWEEN = re.compile(r"\s*(?:\bto\b|\.\.+|–|—|-|,|;)\s*", re.I)


def times_of(typed: str, duration_s: float, least: int, most: int) -> list[float]:
    """So many moments of a run, s from its first sample, rising.

    Raises:
        Unreadable: too few or too many times, one that is none, the same one twice, or one after the run's end.
    """
    parts = [part for part in _BETWEEN.split(typed.strip()) if part]
    if not least <= len(parts) <= most:
        example = "12:30 to 20:00" if most == 2 else "12:30"
        raise Unreadable(f"{typed!r} is {len(parts)} times; write {example}")
    times = sorted(parse("time", part) for part in parts)
    if len(times) == 2 and times[0] == times[1]:
        raise Unreadable(f"{typed!r} is one moment twice; write 12:30 to 20:00")
    if times[-1] > duration_s:
        raise Unreadable(
            f"{clock_text(times[-1])} is after the run's end; it is {clock_text(duration_s)} long"
        )
    return times
