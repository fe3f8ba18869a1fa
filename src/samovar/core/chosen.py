"""The criteria a reviewer chose for a review's table, each one line as people write it, and what is missing or at fault.

What runs measured or the shelf knows is named: `regulators under worst case`, `height less`, `price`, `judgement`. What is
judged by hand names the setups: `ease of mounting: Osprey 161 = 8, Tern 47 = 6` (marks out of ten), `remote start: Osprey 161 =
yes, Tern 47 = no`, `connector: Osprey 161 = 12+4`. `more` or `less` says which is better where neither is plain, `x2` what it
weighs. `missing Tern 47: a fan hub` and `fault Fjord 280: the pump ticks` are lists of their own.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from samovar.core.fields import NO, YES, Field
from samovar.core.product import KINDS
from samovar.core.results.figure import Figure
from samovar.core.results.figure_words import figure_in_words
from samovar.core.units import Unreadable

MEASURED, OF_SHELF, JUDGED, MARKS, YES_NO, WORDS = (
    "measured",
    "shelf",
    "judgement",
    "marks",
    "yes or no",
    "words",
)
MISSING, FAULT = "missing", "fault"
MOST_MARK, WEIGHT_MOST = 10.0, 100.0
"""Marks are out of ten; a weight is a share of a reviewer's total, not a number of its own."""
EXAMPLE = "write noise, height less, ease of mounting x2: Osprey 161 = 8, Tern 47 = 6, or missing Tern 47: a fan hub"
_HEAD = re.compile(
    r"(?P<what>.+?)(?:\s+(?P<better>more|less)(?:\s+is\s+better)?)?(?:\s+[x×](?P<weight>\d+(?:\.\d+)?))?"
    r"(?:\s+under\s+(?P<load>\D.*))?",
    re.I,
)
_NUMBER = re.compile(r"[-−]?\d+(?:[.,]\d+)?")


@dataclass(frozen=True, slots=True)
class Chosen:
    """One criterion, or one setup's list of what it lacks.

    Attributes:
        kind: MEASURED, OF_SHELF, JUDGED, MARKS, YES_NO, WORDS, MISSING or FAULT.
        label: what it is called; of a list the setup.
        line: as it was typed, in plain form.
        figure: of MEASURED; `fact`, the shelf's field, of OF_SHELF.
        better: `more`, `less`, or empty where that is the figure's own, or neither is.
        weight: what it counts for in the reviewer's own total; 0 where none was given.
        load: under which load; None for the one that is looked at.
        told: what was said of each setup, as typed; of a list its items, by number.
    """

    kind: str
    label: str
    line: str
    figure: Figure | None = None
    fact: Field | None = None
    better: str = ""
    weight: float = 0.0
    load: str | None = None
    told: Mapping[str, str] = field(default_factory=dict)

    def worth(self, setup: str) -> float | None:
        """What was told of a setup as a number to be ranked by: a mark, yes over no, the number words begin with."""
        typed = self.told.get(setup)
        if typed is None:
            return None
        if self.kind == YES_NO:
            return float(typed.lower() in YES)
        found = _NUMBER.match(typed)
        return float(found[0].replace(",", ".").replace("−", "-")) if found else None


def read_chosen(typed: str) -> Chosen:
    """Read one line.

    Raises:
        Unreadable: what is wrong with it, and an example.
    """
    text = " ".join(typed.split())
    head, colon, body = text.partition(":")
    # A figure's key has colons of its own, and names no setups.
    keyed = bool(colon) and "=" not in body and not head.lower().startswith((f"{MISSING} ", f"{FAULT} "))
    if keyed:
        head, body = text, ""
    found = _HEAD.fullmatch(head.strip())
    if not text or found is None:
        raise Unreadable(f"{typed!r} is no criterion; {EXAMPLE}")
    what = found["what"].strip()
    first, _, rest = what.partition(" ")
    if first.lower() in (MISSING, FAULT) and rest and body.strip():
        # A setup's own name may end in what reads like a weight or a better-is.
        setup = head.strip().partition(" ")[2].strip()
        items = {str(k): part.strip() for k, part in enumerate(body.split(","), 1) if part.strip()}
        return Chosen(first.lower(), setup, text, told=items)
    better = (found["better"] or "").lower()
    weight = float(found["weight"] or 0.0)
    if not 0.0 <= weight <= WEIGHT_MOST:
        raise Unreadable(f"{typed!r}: a weight is from 0 to {WEIGHT_MOST:g}; {EXAMPLE}")
    load = found["load"].strip() if found["load"] else None
    if body.strip():
        return _by_hand(text, what, body, better, weight, typed)
    if what.lower() == JUDGED:
        return Chosen(JUDGED, JUDGED, text, weight=weight, load=load)
    fact = next((f for fields in KINDS.values() for f in fields if f.label == what.lower()), None)
    if fact is not None:
        return Chosen(OF_SHELF, fact.label, text, fact=fact, better=better, weight=weight)
    figure = figure_in_words(what, typed)
    return Chosen(MEASURED, figure.label, text, figure=figure, better=better, weight=weight, load=load)


def _by_hand(text: str, what: str, body: str, better: str, weight: float, typed: str) -> Chosen:
    told: dict[str, str] = {}
    for part in body.split(","):
        name, equals, value = (x.strip() for x in part.partition("="))
        if not part.strip():
            continue
        if not equals or not name or not value:
            raise Unreadable(f"{typed!r}: {part.strip()!r} does not say of which setup; {EXAMPLE}")
        told[name] = value
    plain = [v.lower() for v in told.values()]
    if all(v in (*YES[:3], *NO[:3]) and not v.isdigit() for v in plain):
        return Chosen(YES_NO, what, text, better=better or "more", weight=weight, told=told)
    marks = [v.removesuffix("/10").strip() for v in plain]
    if not better and all(
        _NUMBER.fullmatch(v) and 0.0 <= float(v.replace(",", ".")) <= MOST_MARK for v in marks
    ):
        plainly = {n: v.removesuffix("/10").strip() for n, v in told.items()}
        return Chosen(MARKS, what, text, better="more", weight=weight, told=plainly)
    if better and not all(_NUMBER.match(v) for v in plain):
        raise Unreadable(f"{typed!r}: {better} of what has no number cannot be told; leave {better} out")
    return Chosen(WORDS, what, text, better=better, weight=weight, told=told)
