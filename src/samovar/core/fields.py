"""What can be entered of a thing: its fields, each read from what people type and shown again."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from math import isfinite
from typing import Any

from samovar.core.units import DIMENSIONS, Unreadable, exact, parse, shown

NUMBER_MOST, COUNT_MOST, WORDS_MOST = 1e12, 999_999_999, 200
"""Bounds of what has none of its own: for slips of the keyboard, and for documents made to do harm."""
YES = ("yes", "y", "true", "on", "1")
NO = ("no", "n", "false", "off", "0")


@dataclass(frozen=True)
class Field:
    """One thing that can be known of something else.

    `key` ends in the unit it is kept in (`height_m`). `of`: a dimension of `core.units`, or text, words (a
    list, separated by commas), count, number, range (two speeds), choice, yes-no.
    """

    key: str
    label: str
    of: str = "text"
    choices: tuple[str, ...] = ()
    example: str = ""
    section: str = ""
    needed: bool = False

    @property
    def hint(self) -> str:
        """An example of what can be typed."""
        if self.example:
            return self.example
        if self.of in DIMENSIONS:
            return DIMENSIONS[self.of].example
        return {
            "words": "one, two, three",
            "count": "2",
            "number": "4.5",
            "range": "500 – 1500 rpm",
            "choice": " or ".join(self.choices),
            "yes-no": "yes or no",
        }.get(self.of, "")


def read_field(field: Field, typed: str) -> Any:
    """The value of what was typed; None where nothing was.

    Raises:
        Unreadable: what was typed is none, with an example of what is.
    """
    text = typed.strip()
    if not text:
        if field.needed:
            raise Unreadable(f"needed; write {field.hint}" if field.hint else "needed; write something")
        return None
    if field.of in DIMENSIONS:
        return parse(field.of, text)
    if field.of == "words":
        return [part.strip() for part in text.split(",") if part.strip()]
    if field.of == "range":
        return _range(text, field)
    if field.of == "count":
        if not re.fullmatch(r"\d{1,9}", text):
            raise Unreadable(f"{text!r} is no count; write {field.hint}")
        return int(text)
    if field.of == "number":
        if not re.fullmatch(r"[+-]?(\d+([.,]\d+)?|[.,]\d+)(e[+-]?\d{1,2})?", text, re.I):
            raise Unreadable(f"{text!r} is no number; write {field.hint}")
        number = float(text.replace(",", "."))
        if abs(number) > NUMBER_MOST:
            raise Unreadable(f"{text!r} is too large; write {field.hint}")
        return number
    if field.of == "choice":
        return _choice(text, field)
    if field.of == "yes-no":
        if text.lower() in YES:
            return True
        if text.lower() in NO:
            return False
        raise Unreadable(f"{text!r} is neither yes nor no; write yes or no")
    return text


def _range(text: str, field: Field) -> list[float]:
    parts = re.split(r"\s*(?:–|—|\.\.|to|(?<=[\d\sm])-)\s*", text)
    if len(parts) not in (1, 2):
        raise Unreadable(f"{text!r} is no range; write {field.hint}")
    values = [parse("speed", part) for part in parts]
    if values[0] > values[-1]:
        raise Unreadable(f"{text!r} runs downwards; write {field.hint}")
    return [values[0], values[-1]]


def _choice(text: str, field: Field) -> str:
    for choice in field.choices:
        if choice.lower() == text.lower():
            return choice
    begun = [c for c in field.choices if c.lower().startswith(text.lower())]
    if len(begun) == 1:
        return begun[0]
    raise Unreadable(f"{text!r} is none of {', '.join(field.choices)}; write one of these")


def value_shown(field: Field, value: Any) -> str:
    """A value as people read it; `not known` where it is None."""
    if value is None:
        return "not known"
    if field.of in DIMENSIONS:
        return shown(field.of, float(value))
    if field.of == "range":
        low, high = value
        return shown("speed", high) if low == high else f"{low:.0f} – {high:.0f} rpm"
    return _plain_text(field, value)


def value_typed(field: Field, value: Any) -> str:
    """A value as text that `read_field` reads back to the same value; empty for None."""
    if value is None:
        return ""
    if field.of in DIMENSIONS:
        return exact(field.of, float(value))
    if field.of == "range":
        return f"{value[0]!r} – {value[1]!r} rpm" if value[0] != value[1] else f"{value[0]!r} rpm"
    return _plain_text(field, value)


def _plain_text(field: Field, value: Any) -> str:
    if field.of == "words":
        return ", ".join(str(v) for v in value)
    if field.of == "yes-no":
        return "yes" if value else "no"
    return f"{value:g}" if field.of == "number" and value == float(f"{value:g}") else str(value)


def check_value(field: Field, value: Any) -> Any:
    """A value from a file: text is read as typed, a number stands in the kept unit.

    Raises:
        Unreadable: it is none of this field.
    """
    if isinstance(value, bool):
        if field.of == "yes-no":
            return value
    elif isinstance(value, str):
        return read_field(field, value)
    elif isinstance(value, (int, float)) and isfinite(value):
        if field.of in DIMENSIONS:
            dimension = DIMENSIONS[field.of]
            if dimension.least <= value <= dimension.most:
                return float(value)
        elif field.of == "number" and abs(value) <= NUMBER_MOST:
            return float(value)
        elif field.of == "count" and COUNT_MOST >= value == int(value) >= 0:
            return int(value)
    elif isinstance(value, (list, tuple)):
        if field.of == "words" and all(isinstance(v, str) for v in value) and len(value) <= WORDS_MOST:
            return list(value)
        if (
            field.of == "range"
            and len(value) == 2
            and all(_is_speed(v) for v in value)
            and value[0] <= value[1]
        ):
            return [float(v) for v in value]
    unit = DIMENSIONS[field.of].shown if field.of in DIMENSIONS else field.of
    raise Unreadable(f"{value!r} is no {field.label} in {unit}; write {field.hint or 'text'}")


def _is_speed(value: Any) -> bool:
    speed = DIMENSIONS["speed"]
    return (
        isinstance(value, (int, float)) and not isinstance(value, bool) and speed.least <= value <= speed.most
    )


def known(fields: tuple[Field, ...], values: Mapping[str, Any]) -> list[tuple[Field, Any]]:
    """The fields that have a value, in order."""
    return [(f, values[f.key]) for f in fields if values.get(f.key) is not None]
