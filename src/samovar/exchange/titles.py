"""Column titles understood: `CPU die (°C)` is a temperature of the die, in °C."""

from __future__ import annotations

import re
from dataclasses import dataclass

from samovar.core.quantity import QUANTITIES, UNITS, Channel, domain_of
from samovar.core.roles import GRAPHICS, role_of_fan, role_of_power, role_of_temperature, role_of_work
from samovar.exchange.encoding import mended
from samovar.exchange.units_of_logs import TIME_UNITS, UNITS_OF_LOGS, known_unit, tidy

_BRACKETS = re.compile(
    r"^(?P<name>.*?)\s*[\[({]\s*(?P<unit>[^\[\](){}]*(?:\([Aa]\))?[^\[\](){}]*)\s*[\])}]\s*(?P<more>[^\[\](){}]*)$"
)
_BEHIND = re.compile(r"^(?P<name>.+)(?<![\s,;/|:])\s*(?:[,;/|:]|\s-|\bin\b)\s*(?P<unit>[^\s,;/|:].{0,11})$")
_SNAKE = re.compile(r"^(?P<name>.+?)[_.\-](?P<unit>[A-Za-z%]{1,8})$")
_SPACED = re.compile(r"^(?P<name>.+?)\s+(?P<unit>\S{1,6}|deg C|deg F)$")
_ALONE = frozenset(
    {"c", "f", "k", "a", "v", "w", "s", "h", "y", "n", "rh", "grad", "°", "flag", "db", "min", "hz"}
)
"""Units of so few letters that behind a mere blank they would be taken for a part of the name."""


@dataclass(frozen=True, slots=True)
class Column:
    """A column understood: its channel, and how its numbers become the channel's unit."""

    channel: Channel
    factor: float
    offset: float


_STARTS_FORMULA = re.compile(r"'*(?:[=@\t\r]|[+\-](?![\d.,\s]))")


def defused(title: str) -> str:
    """A title that no spreadsheet takes for a formula: one that could begin one stands behind an apostrophe, which is
    how spreadsheets mark plain text. `armed` gives it back."""
    return f"'{title}" if _STARTS_FORMULA.match(title) else title


def armed(title: str) -> str:
    """A title as it was before `defused`."""
    return title[1:] if title.startswith("'") and _STARTS_FORMULA.match(title[1:]) else title


_TIME_WORDS = (
    r"(?:(?:elapsed|relative|run|running|sample|log|local|system|unix|epoch|utc|measurement|recording|total|test|lapse[d]?)"
    r"[\s_\-.]*)*(?:time|elapsed|seconds|secs|timestamp|time[\s_\-]?stamp|datetime|date|date[\s_\-/&+]*time|t|epoch|unix|"
    r"uptime|runtime|zeit|uhrzeit|zeitstempel|datum|datum[\s_/\-]*(?:und[\s_]*)?(?:uhr)?zeit|laufzeit|heure|temps|"
    r"hora|tiempo|ora|tempo|clock time|wall clock|ms|millis|milliseconds)"
    r"(?:[\s_\-.]*(?:elapsed|since start|stamp|utc|local|utc time))?"
)


def is_time_title(title: str) -> bool:
    """Whether a title names a time, a date or both."""
    name = split_title(title)[0].strip().lower()
    return re.fullmatch(_TIME_WORDS, name) is not None


def is_date_title(title: str) -> bool:
    """Whether a title names a date without a time."""
    return split_title(title)[0].strip().lower() in ("date", "datum", "day", "tag", "jour", "fecha", "data")


def is_elapsed_title(title: str) -> bool:
    """Whether a title names time that has passed, rather than time of day."""
    return re.search(r"elapsed|relative|run|laufzeit|duration|since", title.lower()) is not None


def time_factor(title: str) -> float | None:
    """Seconds per unit of a time column; None where its title names no unit."""
    name, unit = split_title(title)
    if unit:
        return TIME_UNITS.get(tidy(unit))
    words = name.strip().lower()
    if words in ("seconds", "secs"):
        return 1.0
    return 1e-3 if words in ("ms", "millis", "milliseconds") else None


def split_title(title: str) -> tuple[str, str]:
    """A title's name and its unit, the unit empty where none is told: in brackets, behind a comma or a stroke, at the
    end of `cpu_power_mw`, or behind a blank."""
    text = re.sub(r"\bdB ?\(A\)", "dBA", mended(title).strip(), flags=re.I)
    found = _BRACKETS.match(text)
    if found and (known_unit(found["unit"]) or not found["unit"].strip()):
        return (f"{found['name']} {found['more']}".strip(), found["unit"].strip())
    for pattern in (_BEHIND, _SNAKE, _SPACED):
        found = pattern.match(text)
        if found is None or not known_unit(found["unit"]):
            continue
        unit = tidy(found["unit"])
        # `Core A` is a name; `core_v` could be: only a longer word of the trade in front makes the letter a unit.
        if pattern is _SPACED and unit in _ALONE:
            continue
        if pattern is _SNAKE and unit in _ALONE and not _goes_with(found["name"], unit):
            continue
        return found["name"].strip(), found["unit"].strip()
    return text, ""


def _goes_with(name: str, unit: str) -> bool:
    """Whether a name's own words agree with a unit of one letter behind it."""
    if unit in TIME_UNITS:
        return re.search(r"time|elapsed|^t$|stamp", name.lower()) is not None
    quantity = UNITS_OF_LOGS[unit][0] if unit in UNITS_OF_LOGS else None
    guessed = _quantity_from_words(name)
    if guessed is not None:
        return guessed == quantity
    return unit in ("c", "w") or (unit == "v" and "vid" not in name.lower())


def understand(title: str, unit: str = "") -> Column | None:
    """What a title says, with the unit that stands under it or in its cells, if any; None where neither its unit nor
    its words tell a quantity."""
    name, own = split_title(armed(title))
    unit = own or unit
    if unit:
        known = UNITS_OF_LOGS.get(tidy(unit))
        if known is None:
            return None
        quantity, kept_unit, factor, offset = known
        if quantity == "load" and re.search(r"humid|feucht|\brh\b|moisture", name.lower()):
            quantity, kept_unit = "humidity", UNITS["humidity"]
        if quantity == "temperature" and tidy(unit) in ("c", "f", "k", "°", "grad") and _quantity_from_words(name) in (
            "clock", "power", "fan", "work",
        ):  # fmt: skip
            return None
        name = name or title.strip()
    else:
        found = _BRACKETS.match(name)
        if found and found["unit"].strip() and not found["more"] and _BRACKETED.match(found["unit"].strip()):
            # A unit that is none of ours: the words before it must not be guessed at.
            return None
        guessed = _quantity_from_words(name)
        if guessed is None:
            return None
        quantity, kept_unit, factor, offset = guessed, UNITS[guessed], 1.0, 0.0
    return Column(channel_named(name, quantity, kept_unit), factor, offset)


_BRACKETED = re.compile(r"^[a-zµ%°/²³0-9]{1,10}$", re.I)


def channel_named(name: str, quantity: str, unit: str | None = None) -> Channel:
    """A channel of this quantity, kept in this unit or its usual one, with the role and domain its name suggests."""
    text = name.lower()
    if quantity == "temperature":
        role, domain = role_of_temperature("", name)
    elif quantity == "fan":
        role, domain = role_of_fan(name)
    elif quantity == "power":
        role, domain = role_of_power("", name)
    elif quantity == "clock":
        gpu = re.search(GRAPHICS, text)
        memory = re.search(r"memory|\bram\b|dram|uncore|ring|fabric", text)
        role = "gpu" if gpu else "memory" if memory else "core"
        domain = "gpu" if gpu else "memory" if memory else "cpu"
    elif quantity == "load":
        gpu = re.search(GRAPHICS, text)
        core = re.search(r"(core|thread|cpu) ?#?\d+", text)
        role, domain = ("gpu", "gpu") if gpu else ("core" if core else "package", "cpu")
        if re.search(r"memory|\bram\b|fan|pump|duty|disk|battery|samovar itself", text):
            role, domain = "other", "board"
    elif quantity == "flag":
        # Only what speaks of throttling or of a limit says something about the processor.
        held = _quantity_from_words(name) == "flag"
        role, domain = (("package" if "package" in text else "core"), "cpu") if held else ("other", "board")
    elif quantity == "work":
        role, domain = role_of_work(name, unit or UNITS[quantity])
    elif quantity == "voltage" and re.search(r"v?core|\bcpu\b|vdd", text):
        role, domain = "other", "cpu"
    else:
        role = "other"
        domain = domain_of(role)
    return Channel(name, quantity, unit or UNITS[quantity], role, domain)


_WHERE = re.compile(
    r"\b(cpu|gpu|cores?|package|pkg|case|sys(?:tem)?|chassis|memory|dimm|ssd|vrm|board)(?=[a-z])"
)
"""What stands in front of a quantity in one word with it: `cpupower`, `casefan1`."""


def _quantity_from_words(name: str) -> str | None:
    """The quantity that a title's words speak of: words, not letters within them (`InfantMortality` is no fan)."""
    parted = re.sub(r"(?<=[a-z])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", " ", name.replace("_", " "))
    text = _WHERE.sub(r"\1 ", parted.lower())
    return next((q.key for q in QUANTITIES.values() if q.words and re.search(q.words, text)), None)
