"""Times as logs write them: clock times, dates of any order, ISO 8601, epochs, counts of seconds or less."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    import polars

DAY_S = 86400.0
QUICK_ROWS = 5000
_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_CLOCK = r"(?:(?P<h>\d{1,3}):)?(?P<m>\d{1,3}):(?P<s>\d{1,2}(?:[.,:]\d{1,9})?)\s*(?P<half>[AaPp]\.?[Mm]\.?)?"
_HOURS = r"(?P<hh>\d{1,2})\s*(?P<half2>[AaPp]\.?[Mm]\.?)"
_ZONE = r"\s*(?P<zone>Z|UTC|GMT|[+\-]\d{2}:?\d{2})?"
_DATE = (
    r"(?:(?P<y>\d{4})[-/.](?P<mo>\d{1,2})[-/.](?P<d>\d{1,2})"
    r"|(?P<a>\d{1,2})(?P<mark>[-/.])(?P<b>\d{1,2})[-/.](?P<y2>\d{2,4})"
    r"|(?P<d3>\d{1,2})[ \-.](?P<word>[A-Za-z]{3,9})[ \-.,]+(?P<y3>\d{2,4})"
    r"|(?P<word2>[A-Za-z]{3,9})[ .]+(?P<d4>\d{1,2}),?[ ]+(?P<y4>\d{4}))"
)
_MOMENT = re.compile(
    rf"^\s*(?:(?:[A-Za-z]{{2,9}},?\s+)?{_DATE})?[T,\s]*(?:(?:{_CLOCK}|{_HOURS}){_ZONE})?\s*$"
)
_COMPACT = re.compile(
    r"^(?P<y>20\d{2})(?P<mo>[01]\d)(?P<d>[0-3]\d)[T_\- ]?(?P<h>[0-2]\d)(?P<m>[0-5]\d)(?P<s>[0-5]\d)$"
)

_DURATION = re.compile(
    r"^\s*(?:PT)?(?=[\d.,]+\s*[A-Za-z'′\"″])(?:(?P<h>\d+)\s*h(?:rs?|ours?)?)?[\s:]*"
    r"(?:(?P<m>\d+)\s*(?:m(?:in(?:utes?)?)?|['′]))?[\s:]*"
    r"(?:(?P<s>\d+(?:[.,]\d+)?)\s*(?:s(?:ec(?:onds?)?)?|[\"″]|''|$))?\s*$",
    re.IGNORECASE,
)
"""Time passed as people write it: 0m05s, 1 h 2 min, PT1M5S, 5'07\"."""


@dataclass(frozen=True, slots=True)
class Moments:
    """Times in seconds from any origin, shape (n,), NaN where a cell tells none, and what had to be assumed."""

    seconds: np.ndarray
    notes: tuple[str, ...] = ()


def looks_like_moment(cell: str) -> bool:
    """Whether a cell holds a date, a clock time or both."""
    cell = cell.strip().strip('"')
    if len(cell) < 4 or len(cell) > 40 or not any(c.isdigit() for c in cell):
        return False
    if is_duration(cell):
        return True
    found = _MOMENT.match(cell)
    return _COMPACT.match(cell) is not None or (
        found is not None and bool(_has_date(found) or found["m"] or found["hh"])
    )


def is_duration(cell: str) -> bool:
    """Whether a cell tells a time passed in hours, minutes and seconds by their letters or primes; seconds alone are
    a number with its unit."""
    found = _DURATION.match(cell)
    return found is not None and (found["m"] is not None or found["h"] is not None)


def read_durations(series: polars.Series) -> Moments:
    """Times passed as people write them, in seconds; NaN where a cell tells none."""
    import polars

    texts = series.cast(polars.String).str.strip_chars()
    table = {}
    for cell in texts.unique().to_list():
        found = _DURATION.match(cell) if cell else None
        if found is not None and any(found.groups()):
            seconds = float((found["s"] or "0").replace(",", "."))
            table[cell] = 3600.0 * int(found["h"] or 0) + 60.0 * int(found["m"] or 0) + seconds
    filled = texts.replace_strict(table, default=None, return_dtype=polars.Float64)
    return Moments(np.array(filled.to_numpy(), dtype=float))


def _has_date(found: re.Match[str]) -> bool:
    return bool(found["y"] or found["a"] or found["d3"] or found["word2"])


def read_moments(series: polars.Series, elapsed: bool = False) -> Moments:
    """Texts as moments. `elapsed`: the title speaks of time passed, so that two parts are minutes and seconds."""
    import polars

    texts = series.cast(polars.String)
    if len(texts) > QUICK_ROWS:
        # Most logs have nothing to be stripped: asked first as they stand.
        at_once = _fixed_width(texts, texts[0] or "")
        if at_once is not None:
            return at_once
    texts = texts.str.strip_chars()
    if len(texts) > QUICK_ROWS:
        quick = _all_of_one_form(texts)
        if quick is not None:
            return quick
    unique = texts.unique()
    cells = [c for c in unique.to_list() if c]
    parts = {
        cell: found for cell in cells if (found := _COMPACT.match(cell) or _MOMENT.match(cell)) is not None
    }
    parts = {cell: found for cell, found in parts.items() if _tells(found)}
    if not parts:
        return Moments(np.full(len(series), np.nan))
    order, notes = _order_of([f for f in parts.values() if "a" in f.re.groupindex and f["a"]])
    dated = any("y" in f.groupdict() and _dated(f) for f in parts.values())
    two = [
        f for f in parts.values() if f.groupdict().get("m") and not f["h"] and not f.groupdict().get("half")
    ]
    hours = bool(two) and not elapsed and _are_hours(texts, two, dated)
    table = {}
    for cell, found in parts.items():
        moment = _seconds(found, order, hours)
        if moment is not None:
            table[cell] = moment
    seconds_of = texts.replace_strict(table, default=None, return_dtype=polars.Float64)
    seconds = np.array(seconds_of.to_numpy(), dtype=float)
    if any(f.groupdict().get("zone") for f in parts.values()):
        return Moments(seconds, notes)
    if not dated:
        seconds, more = _past_midnight(seconds)
        notes += more
    seconds, more = _set_back(seconds)
    return Moments(seconds, notes + more)


def _all_of_one_form(texts: polars.Series) -> Moments | None:
    """Many texts of one common form, read at once; None where some are not, or where the form is in doubt."""
    import polars

    first = next((c for c in texts.head(100).to_list() if c), "")
    at_once = _fixed_width(texts, first)
    if at_once is not None:
        return at_once
    dated, zoned = not re.match(r"^\d{1,2}:", first), re.search(r"(Z|[+\-]\d{2}:?\d{2})$", first) is not None
    if not dated:
        clock = texts.str.to_time("%H:%M:%S%.f", strict=False)
        if clock.null_count() > texts.null_count():
            return None
        seconds = clock.cast(polars.Int64).cast(polars.Float64).to_numpy() / 1e9
        seconds, notes = _past_midnight(np.array(seconds))
        seconds, more = _set_back(seconds)
        return Moments(seconds, notes + more)
    for form in ("%Y-%m-%d{}%H:%M:%S%.f", "%Y/%m/%d{}%H:%M:%S%.f", "%d.%m.%Y{}%H:%M:%S%.f"):
        form = form.format("T" if "T" in first else " ") + ("%#z" if zoned else "")
        found = texts.str.to_datetime(form, time_unit="us", strict=False)
        if found.null_count() == texts.null_count():
            seconds = np.array(found.cast(polars.Int64).cast(polars.Float64).to_numpy()) / 1e6
            if zoned:
                return Moments(seconds)
            return Moments(*_set_back(seconds))
    return None


_FIXED = re.compile(
    r"^(?:(?P<date>\d{4}[-/]\d\d[-/]\d\d|\d\d\.\d\d\.\d{4})[T ])?\d\d:\d\d:\d\d(?:[.,]\d{1,9})?(?P<zone>Z?)$"
)


def _fixed_width(texts: polars.Series, first: str) -> Moments | None:
    """Texts that all have the form of the first one, digit for digit, read by their places; None where they have not,
    or where that form leaves something open."""
    from datetime import date

    found, width = _FIXED.match(first), len(first)
    if found is None or texts.null_count():
        return None
    joined = texts.str.join("").item().encode()
    if len(joined) != width * len(texts):
        return None
    # A row for each place: what is done to it runs through memory in one go.
    places = np.ascontiguousarray(np.frombuffer(joined, np.uint8).reshape(-1, width).T)
    digits: dict[int, np.ndarray] = {}
    for k, letter in enumerate(first.encode()):
        if not 48 <= letter <= 57:
            if (places[k] != letter).any():
                return None
            continue
        digits[k] = places[k] - np.uint8(48)
        if (digits[k] > 9).any():
            return None

    def whole(begin: int, count: int) -> np.ndarray:
        # Nine digits at the most: half the width is half the memory to go through.
        total = digits[begin].astype(np.int32)
        for k in range(begin + 1, begin + count):
            total *= 10
            total += digits[k]
        return total

    clock_at = 11 if found["date"] else 0
    hours, minutes, seconds = (whole(clock_at + k, 2) for k in (0, 3, 6))
    if (hours > 23).any() or (minutes > 59).any() or (seconds > 60).any():
        return None
    out = 3600.0 * hours + 60.0 * minutes + seconds
    fraction = width - clock_at - 9 - len(found["zone"])
    if fraction > 0:
        out += whole(clock_at + 9, fraction) / 10.0**fraction
    if not found["date"]:
        out, notes = _past_midnight(out)
        out, more = _set_back(out)
        return Moments(out, notes + more)
    first_day = "." in found["date"]
    parts = (whole(6, 4), whole(3, 2), whole(0, 2)) if first_day else (whole(0, 4), whole(5, 2), whole(8, 2))
    day = parts[0] * 10_000 + parts[1] * 100 + parts[2]
    # A day goes on for many rows: each stretch of one is looked at once.
    begins = np.concatenate([[0], np.flatnonzero(np.diff(day)) + 1])
    try:
        since = [
            (date(d // 10_000, d // 100 % 100, d % 100) - date(1970, 1, 1)).days for d in day[begins].tolist()
        ]
    except ValueError:
        return None
    out += np.repeat(DAY_S * np.array(since, dtype=float), np.diff(np.append(begins, len(day))))
    return Moments(out) if found["zone"] else Moments(*_set_back(out))


def _tells(found: re.Match[str]) -> bool:
    groups = found.groupdict()
    return bool(_dated(found) or groups.get("m") or groups.get("hh"))


def _dated(found: re.Match[str]) -> bool:
    groups = found.groupdict()
    return any(groups.get(k) for k in ("y", "a", "d3", "word2"))


def _order_of(found: list[re.Match[str]]) -> tuple[str, tuple[str, ...]]:
    """Day or month first, from dates that can be only one of them; dots and no telling mean day first."""
    if not found:
        return "day", ()
    if any(int(f["a"]) > 12 for f in found):
        return "day", ()
    if any(int(f["b"]) > 12 for f in found):
        return "month", ()
    if all(f["mark"] == "." for f in found):
        return "day", ()
    if any(f["half"] or f["half2"] for f in found):
        return "month", ("dates could be read either way: taken as month first, as the am and pm suggest",)
    firsts, seconds = {f["a"] for f in found}, {f["b"] for f in found}
    if len(firsts) == 1 and len(seconds) > 1:
        # Over midnight the day goes on, the month does not.
        return "month", ()
    return "day", ("dates could be read either way: taken as day first",) if len(firsts) == 1 else ()


def _are_hours(texts: polars.Series, found: list[re.Match[str]], dated: bool) -> bool:
    """Whether two parts are hours and minutes rather than minutes and seconds."""
    if any(int(f["m"]) > 23 for f in found) or any("." in f["s"] or "," in f["s"] for f in found):
        return False
    if dated:
        return True
    # A clock that shows minutes stands still for many samples; one that shows seconds does not.
    return len(texts) >= 3 * max(1, texts.n_unique()) or (
        len(found) > 2 and min(int(f["m"]) for f in found) > 3
    )


def _seconds(found: re.Match[str], order: str, hours: bool) -> float | None:
    """One moment, in seconds since 1970 where it has a date, else since midnight; None where there is no such."""
    from datetime import date

    groups = found.groupdict()
    total = 0.0
    try:
        if _dated(found):
            if groups.get("y"):
                year, month, day = int(groups["y"]), int(groups["mo"]), int(groups["d"])
            elif groups.get("a"):
                first, second = int(groups["a"]), int(groups["b"])
                day, month = (first, second) if order == "day" else (second, first)
                year = int(groups["y2"])
            else:
                word = (groups.get("word") or groups.get("word2") or "").lower()[:3]
                month = _MONTHS.index(word) + 1
                day = int(groups.get("d3") or groups.get("d4") or 0)
                year = int(groups.get("y3") or groups.get("y4") or 0)
            year += 2000 if year < 70 else 1900 if year < 100 else 0
            total = (date(year, month, day) - date(1970, 1, 1)).days * DAY_S
    except ValueError:
        return None
    half = (groups.get("half") or groups.get("half2") or "").lower()
    if groups.get("hh"):
        clock_h, clock_m, clock_s = int(groups["hh"]), 0, 0.0
    elif groups.get("m"):
        clock_h, clock_m = int(groups.get("h") or 0), int(groups["m"])
        clock_s = float(groups["s"].replace(",", ".").replace(":", "."))
        if not groups.get("h") and hours:
            clock_h, clock_m, clock_s = clock_m, int(clock_s), 0.0
    else:
        return total
    if clock_s >= 61.0 or (groups.get("h") and clock_m > 59):
        return None
    if half:
        clock_h = clock_h % 12 + (12 if half.startswith("p") else 0)
    zone = groups.get("zone") or ""
    if zone[:1] in "+-" and zone:
        digits = zone[1:].replace(":", "")
        total -= (1 if zone[0] == "+" else -1) * (3600.0 * int(digits[:2]) + 60.0 * int(digits[2:]))
    return total + 3600.0 * clock_h + 60.0 * clock_m + clock_s


def _past_midnight(seconds: np.ndarray) -> tuple[np.ndarray, tuple[str, ...]]:
    """Clock times that begin again at midnight go on into the next day."""
    known = np.flatnonzero(np.isfinite(seconds))
    if len(known) < 2:
        return seconds, ()
    days = np.cumsum(np.diff(seconds[known], prepend=seconds[known[0]]) < -0.5 * DAY_S)
    if days[-1] == 0:
        return seconds, ()
    out = seconds.copy()
    out[known] += DAY_S * days
    return out, ("the clock went past midnight",)


def _set_back(seconds: np.ndarray) -> tuple[np.ndarray, tuple[str, ...]]:
    """A clock set back by an hour in mid-run, as in autumn, is taken to have gone on."""
    known = np.flatnonzero(np.isfinite(seconds))
    if len(known) < 3:
        return seconds, ()
    steps = np.diff(seconds[known])
    usual = float(np.median(steps))
    back = np.abs(steps + 3600.0 - usual) < max(2.0, 2.0 * abs(usual))
    if usual <= 0 or not 1 <= int(back.sum()) <= 2:
        return seconds, ()
    out = seconds.copy()
    out[known] += 3600.0 * np.concatenate([[0], np.cumsum(back)])
    return out, ("the clock was set back by an hour in mid-run: the run's time goes on",)


def scaled(numbers: np.ndarray, factor: float | None) -> Moments:
    """Numbers as times: by the unit where the title names one, else by their size and their steps."""
    finite = numbers[np.isfinite(numbers)]
    if factor is not None or len(finite) == 0:
        return Moments(numbers * (factor or 1.0))
    level = float(np.median(np.abs(finite)))
    for least, per_s, words in (
        (1e17, 1e9, "nanoseconds"),
        (1e14, 1e6, "microseconds"),
        (1e11, 1e3, "milliseconds"),
    ):
        if level > least:
            return Moments(numbers / per_s, (f"times are read as {words} since 1970",))
    if level > 1e8:
        return Moments(numbers)
    steps = np.diff(finite)
    steps = steps[steps > 0]
    fractions = bool((finite % 1.0 != 0).any())
    if len(steps) and fractions and 20000 < level < 80000 and float(np.median(steps)) < 0.01:
        return Moments(numbers * DAY_S, ("times are read as days, as spreadsheets count them",))
    if len(steps) >= 3 and not fractions and float(np.median(steps)) >= 100.0:
        return Moments(numbers / 1e3, ("times without a unit are read as milliseconds, by their steps",))
    return Moments(numbers)


def spread(seconds: np.ndarray) -> tuple[np.ndarray, bool]:
    """Rows that share a time because its clock shows whole seconds or minutes only, spread evenly up to the next
    time; whether that was so."""
    if len(seconds) < 8:
        return seconds, False
    change = np.flatnonzero(np.diff(seconds) != 0) + 1
    if len(change) == 0 or len(seconds) - len(change) - 1 < 0.3 * len(seconds):
        return seconds, False
    starts = np.concatenate([[0], change])
    sizes = np.diff(np.concatenate([starts, [len(seconds)]]))
    levels = seconds[starts]
    steps = np.diff(levels)
    if (steps < 0).any():
        return seconds, False
    usual = float(np.median(steps)) if len(steps) else 1.0
    lengths = np.concatenate([np.minimum(steps, usual), [usual]])
    # The first and the last stretch are seldom whole: their rows come at the pace of the others.
    full = max(1, int(np.median(sizes)))
    within = np.arange(len(seconds)) - np.repeat(starts, sizes)
    if sizes[0] < full:
        within[: sizes[0]] += full - sizes[0]
    per = np.maximum(np.repeat(sizes, sizes), full)
    return seconds + within / per * np.repeat(lengths, sizes), True
