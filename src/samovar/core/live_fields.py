"""Live fields of an article: numbers that are not typed but named, and follow the runs.

A field is `{rise | Osprey 161 | worst case}`: a figure, a setup, a load. Behind `=` stands what it read when the sentence around it
was last agreed to: `{rise | Osprey 161 | worst case = 49.6 ±0.4 K}`; where it reads something else now, it has changed. Of two setups
it is how far the first is ahead of the second, or behind it: `{rise | Osprey 161 ahead of Plain 65 | worst case}`.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

NOT_KNOWN = "not known"
AHEAD_OF, BEHIND = " ahead of ", " behind "
"""Stand between two setups of which a field tells the advantage of the first, or of the second."""
_PHOTO = re.compile(r"^\{photo:\s*([^{}|\n]+)\}\s*$", re.M)
_FIELD = re.compile(r"\{([^{}|=\n]+)\|([^{}|=\n]+)\|([^{}|=\n]+)(?:=([^{}\n]*))?\}")


@dataclass(frozen=True, slots=True)
class LiveField:
    """One field: a figure's words, a setup's name, a load; `agreed`: what it read when it was agreed to, empty where never."""

    figure: str
    setup: str
    load: str
    agreed: str = ""

    @property
    def text(self) -> str:
        """As it is written in the article."""
        agreed = f" = {self.agreed}" if self.agreed else ""
        return f"{{{self.figure} | {self.setup} | {self.load}{agreed}}}"


ValueOf = Callable[[LiveField], str | None]
"""What a field reads now; None where no run tells it."""


@dataclass(frozen=True, slots=True)
class Changed:
    """A field that reads something else than when it was agreed to."""

    field: LiveField
    now: str


def fields_in(article: str) -> list[LiveField]:
    """The fields of an article, in their order."""
    return [_read(found) for found in _FIELD.finditer(article)]


def with_values(article: str, value_of: ValueOf) -> str:
    """The article with every field's value in its place."""
    return _FIELD.sub(lambda found: value_of(_read(found)) or NOT_KNOWN, article)


def bare(article: str) -> str:
    """The article with its fields as they are named, whatever they read when they were agreed to."""

    def named(found: re.Match[str]) -> str:
        one = _read(found)
        return LiveField(one.figure, one.setup, one.load).text

    return _FIELD.sub(named, article)


def as_agreed(article: str) -> str:
    """The article as it read when its fields were agreed to."""
    return _FIELD.sub(lambda found: _read(found).agreed or NOT_KNOWN, article)


def marked(article: str, value_of: ValueOf) -> str:
    """The article with every field's value; where that is another than was agreed to, the new one is set off in bold and the
    old one struck through, in Markdown."""

    def shown(found: re.Match[str]) -> str:
        one = _read(found)
        now = value_of(one) or NOT_KNOWN
        return now if not one.agreed or one.agreed == now else f"**{now}** ~~{one.agreed}~~"

    return _FIELD.sub(shown, article)


def agreed(article: str, value_of: ValueOf) -> str:
    """The article with every field agreed to as it reads now."""

    def now(found: re.Match[str]) -> str:
        one = _read(found)
        return LiveField(one.figure, one.setup, one.load, value_of(one) or "").text

    return _FIELD.sub(now, article)


def changed_in(article: str, value_of: ValueOf) -> list[Changed]:
    """The fields that were agreed to and read something else now."""
    out = []
    for one in fields_in(article):
        now = value_of(one) or NOT_KNOWN
        if one.agreed and now != one.agreed:
            out.append(Changed(one, now))
    return out


def photo_line(name: str) -> str:
    """The line of an article in whose place a photograph stands."""
    return f"{{photo: {name}}}"


def passages(article: str) -> list[tuple[str, str]]:
    """An article as words and photographs in their order: `text` with Markdown, or `photo` with a name."""
    out, at = [], 0
    for found in _PHOTO.finditer(article):
        if words := article[at : found.start()].strip():
            out.append(("text", words))
        out.append(("photo", found[1].strip()))
        at = found.end()
    if words := article[at:].strip():
        out.append(("text", words))
    return out


def _read(found: re.Match[str]) -> LiveField:
    return LiveField(found[1].strip(), found[2].strip(), found[3].strip(), (found[4] or "").strip())
