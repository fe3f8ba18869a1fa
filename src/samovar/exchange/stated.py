"""What a log states above its rows: how far these are apart."""

from __future__ import annotations

import re
from collections.abc import Iterable

from samovar.exchange.units_of_logs import TIME_UNITS, tidy

_WORDS = r"interval|intervall|period|periode|sampling|sample (?:time|rate)|log(?:ging)? rate|rate|polling|abtast\w*|takt|cadence|refresh"
_INTERVAL = re.compile(
    rf"(?:{_WORDS})[^0-9\[(]{{0,40}}(?:[\[(]\s*(?P<before>[a-zµ]+)\s*[\])])?[^0-9]{{0,12}}"
    r"(?P<number>\d+(?:[.,]\d+)?)\s*(?P<unit>[a-zµ]*)",
    re.IGNORECASE,
)
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
        found = _INTERVAL.search(line)
        if found is None:
            continue
        number = float(found["number"].replace(",", "."))
        unit = tidy(found["unit"] or found["before"] or "")
        if number > 0 and unit in _RATES:
            number, unit = 1.0 / (number * _RATES[unit]), "s"
        factor = TIME_UNITS.get(unit)
        if factor is not None and LEAST_S <= number * factor <= MOST_S:
            return number * factor
    return None


def is_row_number_title(title: str) -> bool:
    """Whether a title names the number of a row."""
    return _ROW_NUMBERS.fullmatch(title.strip()) is not None
