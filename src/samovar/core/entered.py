"""What enters from outside: one set of strict types and one check, whether it comes from a form, a document, a command
line or an old archive.

The records themselves are plain dataclasses; their fields carry what may stand in them (`Name`, `between`, `values_of`).
`checked` holds a value against a record with pydantic: typed, finite, in range, of bounded length, without control
characters. `plain` is the way back.
"""

from __future__ import annotations

import functools
import re
import unicodedata
from collections.abc import Callable, Hashable, Iterable, Mapping
from dataclasses import asdict, dataclass
from typing import Annotated, Any, TypeVar, cast

from samovar.core.fields import Field, check_value
from samovar.core.shown_text import is_hidden, visible
from samovar.core.units import Unreadable

T = TypeVar("T")

NAME_MOST, LINE_MOST, TEXT_MOST = 80, 500, 20_000
"""Characters in a name (it stands in one line of a screen), in a line, and in a text of several."""
LIST_MOST = 500
"""Entries in a list: more than any bench has setups, any product ports."""


def strict(kind: type[T]) -> type[T]:
    """Marks a dataclass as one that `checked` holds values against: nothing unknown passes. That no text becomes a
    number is seen to by `Check`, which every field of text, numbers or truth carries."""
    kind.__pydantic_config__ = {"extra": "forbid"}  # type: ignore[attr-defined]
    return kind


@dataclass(frozen=True)
class Check:
    """Further demands on a field's value, as an annotation: a function that gives the value as it is kept, and raises
    ValueError with what is wrong and what to do."""

    check: Callable[[Any], Any]

    def __get_pydantic_core_schema__(self, source: Any, handler: Any) -> Any:
        # Imported here: what is only computed needs no pydantic.
        from pydantic_core import core_schema

        inner = handler(source)
        if inner["type"] in ("str", "int", "float", "bool"):
            inner = {**inner, "strict": True}
        return core_schema.no_info_after_validator_function(self.check, inner)


def clean(most: int = LINE_MOST, lines: bool = False, needed: bool = False) -> Callable[[str], str]:
    """Text of at most so many characters without hidden ones; `lines`: of several lines; `needed`: not empty."""

    def check(text: str) -> str:
        found = text.strip()
        if needed and not found:
            raise ValueError("it is empty; write something")
        if len(found) > most:
            raise ValueError(f"it has {len(found)} characters; write at most {most}")
        for character in found:
            if is_hidden(character) and not (lines and character in "\n\t\r"):
                raise ValueError(f"it holds the hidden character {visible(character)}; take it out")
        return found

    return check


def between(least: float, most: float, unit: str = "") -> Check:
    """A finite number from `least` to `most`, both included; `unit` for what is said of one that is not."""

    def check(number: float) -> float:
        if not least <= number <= most:
            words = f" {unit}" if unit else ""
            raise ValueError(f"{number:g} is not from {least:g} to {most:g}{words}; correct it")
        return number

    return Check(check)


def one_of(words: Iterable[str], what: str) -> Check:
    """One of these words."""
    known = tuple(words)

    def check(word: str) -> str:
        if word not in known:
            raise ValueError(f"{visible(word, 60)!r} is no {what}; write one of {', '.join(known)}")
        return word

    return Check(check)


def values_of(fields: Iterable[Field]) -> Callable[[Mapping[str, Any]], dict[str, Any]]:
    """Values by the keys of a table of fields, each in its kept unit or as a person writes it with a unit."""
    by_key = {f.key: f for f in fields}
    line = clean()

    def cleaned(value: Any) -> Any:
        if isinstance(value, str):
            return line(value)
        return [cleaned(v) for v in value] if isinstance(value, list) else value

    def check(values: Mapping[str, Any]) -> dict[str, Any]:
        out: dict[str, Any] = {}
        for key, value in values.items():
            if key not in by_key:
                raise ValueError(
                    f"{visible(str(key), 60)!r} is not understood; write one of {', '.join(by_key)}"
                )
            try:
                out[key] = cleaned(check_value(by_key[key], value))
            except ValueError as problem:
                raise ValueError(f"{key}: {problem}") from problem
        return out

    return check


Name = Annotated[str, Check(clean(NAME_MOST, needed=True))]
Line = Annotated[str, Check(clean())]
Words = Annotated[str, Check(clean(TEXT_MOST, lines=True))]
Truth = Annotated[bool, Check(bool)]


@functools.cache
def _adapter(kind: Any) -> Any:
    from pydantic import TypeAdapter

    return TypeAdapter(kind)


def checked(kind: type[T], raw: Any, where: str = "") -> T:
    """A record of this kind out of plain values; lists stand for tuples, whole numbers for numbers.

    Raises:
        Unreadable: the first thing that is wrong, with its place, and what to do.
    """
    from pydantic import ValidationError

    try:
        found: T = _adapter(cast(Hashable, kind)).validate_python(
            _tupled(raw) if not isinstance(raw, kind) else raw
        )
        return found
    except ValidationError as problem:
        raise Unreadable(_said(problem.errors(include_url=False)[0], where)) from None


def _tupled(raw: Any) -> Any:
    """Lists as tuples all the way down: documents and archives know lists alone."""
    if isinstance(raw, Mapping):
        return {k: _tupled(v) for k, v in raw.items()}
    return tuple(_tupled(v) for v in raw) if isinstance(raw, (list, tuple)) else raw


_SAYINGS = (
    ("missing", "is missing; write it"),
    ("unexpected_keyword_argument", "is not understood; leave it out"),
    ("extra_forbidden", "is not understood; leave it out"),
    ("string_type", "{value} is no text; write it in quotes"),
    ("bool_type", "{value} is neither true nor false; write one of them"),
    ("int_", "{value} is no whole number; correct it"),
    ("float_", "{value} is no number; correct it"),
    ("dict_type", "{value} is no table of values; write key = value lines"),
    ("tuple_type", "{value} is no list; write it in square brackets"),
    ("dataclass_type", "{value} is no table of values; write key = value lines"),
    ("too_long", "it has too many entries; leave some out"),
)


def _said(error: Mapping[str, Any], where: str) -> str:
    """One fault in plain words."""
    place = "".join(
        f" {part + 1}" if isinstance(part, int) else f".{visible(str(part), 60)}" for part in error["loc"]
    ).lstrip(". ")
    value = visible(repr(error.get("input")), 60)
    message = str(error["msg"]).removeprefix("Value error, ")
    for kind, saying in _SAYINGS:
        if str(error["type"]).startswith(kind):
            message = saying.format(value=value)
            break
    return ": ".join(part for part in (where, place, message) if part)


def plain(record: Any) -> dict[str, Any]:
    """A record as documents and archives hold it: nothing that is None or empty, lists for tuples."""
    found: dict[str, Any] = _without_nothing(asdict(record))
    return found


def _without_nothing(value: Any) -> Any:
    if isinstance(value, dict):
        return {
            k: _without_nothing(v) for k, v in value.items() if v is not None and v not in ({}, (), [], "")
        }
    return [_without_nothing(v) for v in value] if isinstance(value, (list, tuple)) else value


_LATIN = re.compile(r"[^a-z0-9]+")


def file_stem(name: str, most: int = 60) -> str:
    """A name as files and addresses carry it: `voice-booth-playout-pc`; empty where it has no letter for it."""
    spelt = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return _LATIN.sub("-", spelt).strip("-")[:most].rstrip("-")


def free_stem(name: str, taken: set[str], otherwise: str) -> str:
    """A stem of its own for a name, entered among those that are taken: `c-build`, `c-build-2`."""
    stem = file_stem(name) or otherwise
    number, candidate = 2, stem
    while candidate in taken:
        candidate, number = f"{stem}-{number}", number + 1
    taken.add(candidate)
    return candidate


__all__ = [
    "LINE_MOST", "LIST_MOST", "NAME_MOST", "TEXT_MOST", "Check", "Line", "Name", "Truth", "Words", "between", "checked",
    "clean", "file_stem", "free_stem", "is_hidden", "one_of", "plain", "strict", "values_of", "visible",
]  # fmt: skip
