"""Editions of a review: what each said, in words and in numbers, and what the next one changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Edition:
    """One publication.

    Attributes:
        number, day: from 1, and the day it was first written, ISO 8601.
        words: its paragraphs.
        numbers: its figures as they are printed, by what they are of.
    """

    number: int
    day: str
    words: tuple[str, ...] = ()
    numbers: Mapping[str, str] = field(default_factory=dict)

    def same_as(self, other: Edition) -> bool:
        """Whether two editions say the same."""
        return self.words == other.words and dict(self.numbers) == dict(other.numbers)


def changes_between(before: Edition, after: Edition) -> list[str]:
    """What an edition changed: figures that are others now, new or gone, then paragraphs."""
    found = []
    for key, text in after.numbers.items():
        old = before.numbers.get(key)
        if old is None:
            found.append(f"{key}: {text}, new")
        elif old != text:
            found.append(f"{key}: {text}, was {old}")
    found += [
        f"{key}: no longer there, was {old}"
        for key, old in before.numbers.items()
        if key not in after.numbers
    ]
    new, gone = _unlike(after.words, before.words), _unlike(before.words, after.words)
    if new or gone:
        parts = [f"{len(new)} new or reworded"] if new else []
        parts += [f"{len(gone)} gone or reworded"] if gone else []
        found.append(f"paragraphs: {', '.join(parts)}")
    return found


def _unlike(these: Sequence[str], those: Sequence[str]) -> list[str]:
    return [words for words in these if words not in those]
