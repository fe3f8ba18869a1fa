"""Which setup a file belongs to, and how fast its fans turned, by what it is called: `osprey-1000rpm.wav`."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path

from samovar.archive.records import Setup
from samovar.exchange.problems import InputError

_RPM = re.compile(r"(\d{2,5})[ _-]?rpm\b", re.I)
LEAST_LETTERS = 3


def _words(text: str) -> list[str]:
    return re.findall(r"[a-z]+|\d+", text.lower())


def rpm_in(path: Path) -> float | None:
    """The fan speed that a file's name tells; None where it tells none."""
    found = _RPM.search(path.stem)
    return float(found[1]) if found else None


def setup_by_name(path: Path, setups: Sequence[Setup]) -> Setup:
    """The one setup whose name a file's name begins with, as far as it goes: `osprey` is Osprey 161 where no other is.

    Raises:
        InputError: none, or several.
    """
    said = _words(_RPM.sub("", path.stem))
    scored = [(_agreement(said, _words(setup.name)), setup) for setup in setups]
    best = max((score for score, _ in scored), default=0)
    found = [setup for score, setup in scored if score == best]
    # Of those that agree alike, one whose whole name was written is meant.
    found = [setup for setup in found if len(_words(setup.name)) == best] or found
    names = ", ".join(setup.name for setup in setups) or "none yet"
    if best == 0:
        raise InputError(
            f"{path}: its name tells no setup; begin it with one of {names}, or name one with --setup"
        )
    if len(found) > 1:
        several = " and ".join(setup.name for setup in found)
        raise InputError(f"{path}: its name fits {several}; write more of it, or name one with --setup")
    return found[0]


def _agreement(said: Sequence[str], name: Sequence[str]) -> int:
    """How many words a file's name has in common with a setup's, from the beginning; 0 where the first is too short to tell."""
    count = 0
    for one, other in zip(said, name, strict=False):
        if one != other and not (len(one) >= LEAST_LETTERS and other.startswith(one)):
            break
        count += 1
    return count
