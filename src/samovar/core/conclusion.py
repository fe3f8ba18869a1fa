"""The conclusion of a review as lines: the pick, the runner-up, what is good, bad and missing, for whom, and a rating if there is one.

`pick: Osprey 161`, `runner-up: Loam P`, `good: quiet at every load`, `bad: dearer than needed`, `missing: a fan hub`, `for: studios`,
`not for: low cases`, `rating: 9/10`.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from samovar.core.units import Unreadable

KINDS = {
    "pick": "The pick",
    "runner-up": "Runner-up",
    "good": "Good",
    "bad": "Bad",
    "missing": "Missing",
    "for": "For whom",
    "not for": "Not for whom",
    "rating": "Rating",
}
"""What a line begins with, and what stands above it in print; in the order they are printed."""
ONCE = ("pick", "runner-up", "rating")
RATING_MOST = 10.0
EXAMPLE = "write pick: Osprey 161, good: quiet at every load, not for: low cases, or rating: 9/10"


@dataclass(frozen=True, slots=True)
class Concluded:
    """One line: its kind, its words, and the line in plain form."""

    kind: str
    words: str
    line: str


def read_concluded(typed: str) -> Concluded:
    """Read one line.

    Raises:
        Unreadable: what is wrong with it, and an example.
    """
    text = " ".join(typed.split())
    head, colon, words = (x.strip() for x in text.partition(":"))
    kind = head.lower()
    if not colon or kind not in KINDS or not words:
        raise Unreadable(f"{typed!r} begins with none of {', '.join(KINDS)}; {EXAMPLE}")
    if kind == "rating":
        found = re.fullmatch(r"(\d+(?:\.\d+)?)(?:\s*/\s*10)?", words)
        if found is None or float(found[1]) > RATING_MOST:
            raise Unreadable(f"{typed!r}: a rating is out of ten; {EXAMPLE}")
        words = f"{float(found[1]):g}/10"
    return Concluded(kind, words, f"{kind}: {words}")


def gathered(lines: Sequence[str]) -> list[tuple[str, list[str]]]:
    """The lines by kind, in the order they are printed: what stands above them, and their words. Of what there is one of,
    the last line counts."""
    told: dict[str, list[str]] = {}
    for line in lines:
        try:
            one = read_concluded(line)
        except Unreadable:
            continue
        if one.kind in ONCE:
            told[one.kind] = [one.words]
        else:
            told.setdefault(one.kind, []).append(one.words)
    return [(title, told[kind]) for kind, title in KINDS.items() if kind in told]
