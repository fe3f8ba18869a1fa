"""Values as people write them: numbers, ranges, bounds, `±`, times as a clock shows them, each with any unit of its kind."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from samovar.core.measured import AT_LEAST, AT_MOST
from samovar.core.units import DIMENSIONS, Unreadable, number

NUMBER = r"(?:\d+(?:[.,]\d+)*|[.,]\d+)"
_SIGN = r"[-+−]?"
_AT_MOST = re.compile(
    r"^(?:<=?|≤|under|below|less than|at most|no more than|not more than|not over|up to|max(?:imum)?\.?)\s*",
    re.I,
)
_AT_LEAST = re.compile(
    r"^(?:>=?|≥|over|above|more than|at least|no less than|min(?:imum)?\.?)\s*(?=[\d.,+−-])", re.I
)
_ABOUT = re.compile(r"^(?:~|≈|about|around|roughly|approx(?:\.|imately)?|circa|ca\.?|c\.)\s*", re.I)
_TO = r"\s*(?:\bto\b|\band\b|–|—|-|\.{2,}|…)\s*"
_WITHIN = r"\s*(?:±|\+\s*/\s*-|\+-|plus[ /]minus|plus or minus)\s*"
_CLOCK = re.compile(r"^(?:(?P<h>\d+):)?(?P<m>\d{1,3}):(?P<s>[0-5]\d(?:[.,]\d+)?)(?![\d:])")
_TIME_PART = re.compile(
    rf"^\s*(?P<n>{NUMBER})\s*(?P<unit>hours?|hrs?|h|minutes?|mins?|m|seconds?|secs?|s)(?![a-z])", re.I
)
_CLOCK_WORDS = re.compile(r"^(?:min(?:utes)?|h(?:ours|rs)?|\(?(?:h{1,2}:)?mm?:ss\)?)(?![a-z])\s*", re.I)
"""What people write behind a time as a clock shows it, and what is known already."""
_SECONDS = {"h": 3600.0, "m": 60.0, "s": 1.0}
ABOUT_STEPS = 1.0
"""A number said to be about right may be off by one step of its last digit."""


@dataclass(frozen=True, slots=True)
class Amount:
    """A value as written.

    Attributes:
        value: in the unit that was asked for; the middle of a range.
        range_half: half of the range, or of `about`; 0 where one number stood there.
        stated: the half-width that was written behind `±`; None without one.
        bound: where it was written as one.
        unit: the unit as it was written; empty without one.
        rest: what stands behind it.
    """

    value: float
    range_half: float
    stated: float | None
    bound: str | None
    unit: str
    rest: str


def _last_step(text: str) -> float:
    """One step of a written number's last digit."""
    found = re.search(r"[.,](\d+)$", text)
    return 10.0 ** -len(found[1]) if found else 1.0


def units_of(dimension: str) -> Mapping[str, tuple[float, float]]:
    """The units of a dimension as they are written, lower case: factor into the unit shown, and what is added to the
    number before it."""
    kind = DIMENSIONS[dimension]
    shown = kind.factors[kind.shown.lower()]
    return {name: (factor / shown, kind.offsets.get(name, 0.0)) for name, factor in kind.factors.items()}


def _unit_pattern(units: Mapping[str, tuple[float, float]] | None) -> str:
    if units is None:
        # Any unit: a word of letters and the signs units are made of, none of those that begin what comes beside.
        return r"(?!(?:at|on|to|and|with|from|by|background|bg)\b)(?:frames (?:per|a) second|[^\W\d_][^\d\s,;±]*)|%|°\s?[CF]"
    names = sorted(units, key=len, reverse=True)
    return "|".join(
        re.escape(n).replace(r"\ ", " ?") + ("(?![a-z])" if n[-1].isalpha() else "") for n in names
    )


def clock(text: str) -> tuple[float, str] | None:
    """Seconds of a time as a clock shows it (`17:46`, `1:02:03`) or in parts (`17 min 46 s`), and what stands behind
    it; None where the text begins with neither."""
    found = _CLOCK.match(text.strip())
    if found is not None:
        seconds = 3600.0 * int(found["h"] or 0) + 60.0 * int(found["m"]) + float(found["s"].replace(",", "."))
        return seconds, text.strip()[found.end() :].strip()
    total, rest, parts = 0.0, text, 0
    while (part := _TIME_PART.match(rest)) is not None:
        total += number(part["n"], "17:46") * _SECONDS[part["unit"][0].lower()]
        rest, parts = rest[part.end() :], parts + 1
    return (total, rest.strip()) if parts else None


def read_amount(
    text: str, units: Mapping[str, tuple[float, float]] | None, example: str, time: bool = False
) -> Amount:
    """The value that a text begins with.

    Args:
        text: as typed.
        units: as `units_of` gives them; None where any may stand there.
        example: what is said where it cannot be read.
        time: read `17:46` and `17 min 46 s` too.

    Raises:
        Unreadable: what is wrong, and an example.
    """
    said, bound, about = text.strip(), None, False
    said = re.sub(r"^(?:between|from)\s+(?=[\d.,+−-])", "", said, flags=re.I)
    for pattern, kind in ((_AT_MOST, AT_MOST), (_AT_LEAST, AT_LEAST), (_ABOUT, None)):
        if (found := pattern.match(said)) is not None:
            said, bound, about = said[found.end() :], kind, kind is None
            break
    if time and (at := clock(said)) is not None:
        return _timed(at[0], _CLOCK_WORDS.sub("", at[1]), bound)
    unit = _unit_pattern(units)
    one = re.compile(
        rf"^(?P<value>{_SIGN}{NUMBER})\s*(?P<unit>{unit})?"
        rf"(?:{_TO}(?P<to>{_SIGN}{NUMBER})\s*(?P<to_unit>{unit})?|{_WITHIN}(?P<half>{NUMBER})\s*(?P<half_unit>%|{unit})?)?"
        rf"\s*(?P<rest>.*)$",
        re.I | re.S,
    )
    found = one.match(said)
    if found is None:
        raise Unreadable(f"{text.strip()!r} is no reading; write one such as {example}")
    first_unit, other_unit = found["unit"] or found["to_unit"] or found["half_unit"] or "", found["to_unit"]
    if first_unit == "%" and units is not None and "%" not in units:
        first_unit = found["unit"] or ""
    value = _converted(number(found["value"], example), first_unit, units)
    range_half, stated = 0.0, None
    if found["to"]:
        end = _converted(number(found["to"], example), other_unit or first_unit, units)
        if end < value:
            raise Unreadable(f"{text.strip()!r} runs downwards; write the lower end first, such as 33 to 36")
        value, range_half = 0.5 * (value + end), 0.5 * (end - value)
    elif found["half"]:
        half = number(found["half"], example)
        if found["half_unit"] == "%" and not (units is not None and "%" in units):
            stated = abs(value) * half / 100.0
        else:
            stated = half * _factor(found["half_unit"] or first_unit, units)
    if about:
        range_half = max(range_half, ABOUT_STEPS * _last_step(found["value"]) * _factor(first_unit, units))
    return Amount(value, range_half, stated, bound, first_unit, found["rest"].strip())


def _timed(seconds: float, rest: str, bound: str | None) -> Amount:
    """A time as a clock shows it, with the other end of its range, or its half-width, where one stands behind it."""
    if (to := re.match(_TO, rest)) is not None and (end := clock(rest[to.end() :])) is not None:
        if end[0] < seconds:
            raise Unreadable("it runs downwards; write the lower end first, such as 17:30 to 18:10")
        return Amount(0.5 * (seconds + end[0]), 0.5 * (end[0] - seconds), None, bound, "", end[1])
    if (within := re.match(_WITHIN, rest)) is not None:
        half = read_amount(rest[within.end() :], units_of("time"), "17:46 ± 2 s")
        return Amount(seconds, 0.0, half.value, bound, "", half.rest)
    return Amount(seconds, 0.0, None, bound, "", rest)


def _factor(unit: str, units: Mapping[str, tuple[float, float]] | None) -> float:
    return units[_known(unit, units)][0] if unit and units is not None else 1.0


def _converted(value: float, unit: str, units: Mapping[str, tuple[float, float]] | None) -> float:
    if not unit or units is None:
        return value
    factor, offset = units[_known(unit, units)]
    return (value + offset) * factor


def _known(unit: str, units: Mapping[str, tuple[float, float]]) -> str:
    """A unit as the table writes it; blanks within do not count."""
    plain = unit.lower().replace(" ", "")
    return next(name for name in units if name.replace(" ", "") == plain)
