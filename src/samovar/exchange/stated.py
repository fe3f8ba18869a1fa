"""What a log states above its rows: how far these are apart."""

from __future__ import annotations

import re
from collections.abc import Iterable

from samovar.exchange.units_of_logs import TIME_UNITS, tidy

_WORDS = (
    r"interval|intervall|period|periode|sampling|sample (?:time|rate)|log(?:ging)? rate|rate|polling|abtast\w*|takt|cadence|"
    r"refresh|\bevery|\balle|time ?step|spacing|(?:logged|sampled|recorded|captured) at|"
    r"between (?:samples|rows|readings|records|points)"
)
_INTERVAL = re.compile(
    rf"(?:{_WORDS})[^0-9\[(]{{0,40}}(?:[\[(]\s*(?P<before>[a-zµ]+)\s*[\])])?[^0-9]{{0,12}}"
    r"(?P<number>\d+(?:[.,]\d+)?)\s*(?P<unit>[a-zµ]*)",
    re.IGNORECASE,
)
_CLOCK = re.compile(
    r"(?:interval|intervall|rate|\bevery|\balle)\s*(?:[\[(]h+:m+:s+[\])])?[\s:=,;|\t]*(?P<h>\d\d?):(?P<m>[0-5]\d):(?P<s>[0-5]\d(?:[.,]\d+)?)(?![\d:])",
    re.IGNORECASE,
)
"""An interval as a clock would show it; a period so written may as well be the whole log's."""
_PER = re.compile(
    r"(?P<count>\d+(?:[.,]\d+)?|one|an?)\s+(?:samples?|rows?|readings?|records?|points?|values?)\s*(?:per|/|an?|every|each)\s*"
    r"(?P<unit>[a-zµ]+)",
    re.IGNORECASE,
)
"""So many rows in each unit of time."""
_RATES = {"hz": 1.0, "khz": 1e3, "sps": 1.0}
_ROW_NUMBERS = re.compile(
    r"#|n|no\.?|nr\.?|num(?:ber)?|idx|index|row|line|record|count(?:er)?|seq(?:uence)?|scan|id|zeile|nummer|"
    r"(?:sample|record|scan|row|reading|point)s?[ _]?(?:#|no\.?|nr\.?|num(?:ber)?|index|id|count)?",
    re.IGNORECASE,
)
LEAST_S, MOST_S = 1e-3, 86400.0


def stated_interval(lines: Iterable[str]) -> float | None:
    """The interval between rows that a log states, s; None where it states none, or without a unit."""
    for line in lines:
        for form, seconds_of in ((_CLOCK, _by_clock), (_PER, _by_count), (_INTERVAL, _by_unit)):
            seconds = None if (found := form.search(line)) is None else seconds_of(found)
            if seconds is not None and LEAST_S <= seconds <= MOST_S:
                return seconds
    return None


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _by_clock(found: re.Match[str]) -> float | None:
    return 3600.0 * int(found["h"]) + 60.0 * int(found["m"]) + _number(found["s"])


def _by_count(found: re.Match[str]) -> float | None:
    count = _number(found["count"]) if found["count"][0].isdigit() else 1.0
    factor = TIME_UNITS.get(tidy(found["unit"]))
    return None if factor is None or count <= 0 else factor / count


def _by_unit(found: re.Match[str]) -> float | None:
    number, unit = _number(found["number"]), tidy(found["unit"] or found["before"] or "")
    if number > 0 and unit in _RATES:
        return 1.0 / (number * _RATES[unit])
    factor = TIME_UNITS.get(unit)
    return None if factor is None else number * factor


def is_row_number_title(title: str) -> bool:
    """Whether a title names the number of a row."""
    return _ROW_NUMBERS.fullmatch(title.strip()) is not None
