"""What an instrument says: a number, or nothing that counts as one and why."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from samovar.core.shown_text import visible

OVERRANGE = 9.9e37
"""What instruments say by SCPI-1999 (7.2) instead of a value that is none: 9.9E37 for infinite, 9.91E37 for no number."""
_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?")


@dataclass(frozen=True, slots=True)
class Nothing:
    """No value, and why; `implausible` where something was said that is no measurement."""

    why: str
    implausible: bool = False


Said = float | Nothing
Tell = Callable[[int, Said], None]
"""Takes what is said of a channel, by its place, in the unit the instrument speaks."""


class Silent(Exception):
    """The instrument does not answer, or cannot be reached; the text says how."""


class Wire(Protocol):
    """A connection to an instrument. All of it is used from one thread."""

    def read(self, tell: Tell) -> None:
        """Ask for every channel and tell what is said as it comes; a channel with nothing new is not told.

        Raises:
            Silent, OSError: the connection is of no use any more.
        """
        ...

    def close(self) -> None:
        """Let go of the connection."""
        ...


def number_of(text: str) -> Said:
    """A number as an instrument writes it; what is none is never taken for one."""
    words = text.strip()
    if not _NUMBER.fullmatch(words):
        if words.lower().lstrip("+-") in ("nan", "inf", "infinity"):
            return Nothing(f"it says {visible(words, 20)}: no measurement", True)
        return Nothing(f"it says {visible(words, 40)!r}, which is no number", bool(words))
    return finite(float(words))


def is_written_as_number(text: str) -> bool:
    """Whether a text is a number as an instrument writes it, be it one that stands for no measurement."""
    return _NUMBER.fullmatch(text.strip()) is not None


def finite(value: float) -> Said:
    """A number that is a measurement."""
    if not math.isfinite(value) or abs(value) >= OVERRANGE:
        return Nothing("over its range, or no measurement", True)
    return value


def number_in(payload: str, path: str | None) -> Said:
    """The number in a payload, at a path of keys and places joined by dots where it is JSON."""
    if path is None:
        found = number_of(payload)
        if isinstance(found, float):
            return found
        try:
            value = json.loads(payload)
        except (ValueError, RecursionError):
            return found
        return _number(value) if isinstance(value, str) else found
    try:
        value = json.loads(payload)
    except (ValueError, RecursionError):
        return Nothing(f"it says {visible(payload, 40)!r}, which is no JSON", True)
    for key in path.split("."):
        if isinstance(value, dict) and key in value:
            value = value[key]
        elif isinstance(value, list) and key.isdecimal() and int(key) < len(value):
            value = value[int(key)]
        else:
            return Nothing(f"there is no {visible(path, 40)} in what it says")
    return _number(value)


def _number(value: Any) -> Said:
    if isinstance(value, str):
        return number_of(value)
    if isinstance(value, bool) or not isinstance(value, int | float):
        return Nothing(f"it says {visible(json.dumps(value), 40)}, which is no number", value is not None)
    try:
        return finite(float(value))
    except OverflowError:
        return Nothing("over its range, or no measurement", True)
