"""Text that strangers wrote, as it can be shown anywhere: nothing in it is hidden, and nothing does anything."""

from __future__ import annotations

import re
import unicodedata

_BIDIRECTIONAL = frozenset("\u061c\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""Characters that turn the direction of what follows, and so can show one text and mean another."""


def is_hidden(character: str) -> bool:
    """Whether a character shows nothing itself but does something to what is shown: controls, line ends, turns of
    direction, lone halves of a pair."""
    return character in _BIDIRECTIONAL or unicodedata.category(character) in ("Cc", "Cs", "Zl", "Zp")


def visible(text: str, most: int | None = None) -> str:
    """A text as it can be shown anywhere: hidden characters as escapes, `\\x1b`; of one that is too long, the
    beginning."""
    if text.isprintable() and most is None:
        return text
    shown = "".join(f"\\x{ord(c):02x}" if is_hidden(c) else c for c in text)
    return shown if most is None or len(shown) <= most else shown[: most - 1] + "…"


def one_line(text: str) -> str:
    """A label or a title as it can be shown: what breaks the line becomes a blank."""
    return visible(_BREAKS.sub(" ", text))


_BREAKS = re.compile(r"[\t\n\r\v\f\x1c-\x1e\x85\u2028\u2029]+")
