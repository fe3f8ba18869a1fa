"""Rows that cannot be read: each costs itself and is named; the rest of the archive opens as ever."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, TypeVar

from samovar.core.entered import visible

T = TypeVar("T")


class Problems:
    """What could not be read of an archive, each thing once."""

    def __init__(self) -> None:
        self._said: dict[str, None] = {}

    @property
    def said(self) -> tuple[str, ...]:
        """One line for each: `review Voice booth cannot be read: why`."""
        return tuple(self._said)

    def readable(self, word: str, rows: Iterable[Any], make: Callable[[Any], T]) -> list[T]:
        """The records of those rows that are what they should be."""
        found = []
        for row in rows:
            try:
                found.append(make(row))
            except (ValueError, TypeError, KeyError, AttributeError) as problem:
                name = visible(str(getattr(row, "name", "")), 60)
                why = visible(str(problem), 200)
                self._said[f"{word} {name} cannot be read: {why}"] = None
        return found
