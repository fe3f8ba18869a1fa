"""A recording named in a line that a person types: `fan.wav, known 33, at 0.5 m, 7 blades, background room.wav`."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from samovar.core.by_hand.line import Circumstances
from samovar.core.by_hand.reading import HandReading
from samovar.exchange.problems import InputError

EXAMPLE = "noise fan.wav, known 33, at 0.5 m, 7 blades, background room.wav"
_FILE = r"(?:\"(?P<quoted>[^\"]+\.(?:wav|flac))\"|(?P<plain>[^,\"]+?\.(?:wav|flac)))"
_RECORDING = re.compile(rf"^\s*(?:noise\s+)?{_FILE}\s*(?:,|$)", re.I)
_NUMBER = r"(?P<n>\d+(?:[.]\d+)?)"


def _file(found: re.Match[str]) -> Path:
    return Path(found["quoted"] or found["plain"]).expanduser()


_PIECES: tuple[tuple[re.Pattern[str], Callable[[re.Match[str]], dict[str, Any]]], ...] = (
    (re.compile(rf"known {_NUMBER}(?: ?dB\(?A?\)?)?", re.I), lambda m: {"known_dba": float(m["n"])}),
    (
        re.compile(rf"calibration {_FILE}(?: at {_NUMBER}(?: ?dB)?)?", re.I),
        lambda m: {"calibration": _file(m), **({"calibrator_db": float(m["n"])} if m["n"] else {})},
    ),
    (re.compile(rf"background {_FILE}", re.I), lambda m: {"background": _file(m)}),
    (re.compile(rf"(?:at |from )?{_NUMBER} ?m", re.I), lambda m: {"distance_m": float(m["n"])}),
    (re.compile(r"(?P<n>\d+) blades?", re.I), lambda m: {"blades": int(m["n"])}),
)
"""What may stand beside it, and what that gives."""


def names_recording(line: str) -> bool:
    """Whether a line names a recording, and not a value."""
    return _RECORDING.match(line) is not None


def heard_readings(
    line: str, there: Circumstances, keep: Callable[[bytes], str] | None = None
) -> list[HandReading]:
    """What the recording that a line names gives a run: its level, and the fan's speed where its blades told it; `keep` keeps a
    piece of it and names that.

    Raises:
        InputError: something of the line cannot be read, or the recording cannot.
    """
    from samovar.hearing import heard_in, kept_clip, readings_of

    first = _RECORDING.match(line)
    if first is None:
        raise InputError(f"{line!r} names no recording; write one such as {EXAMPLE}")
    given: dict[str, Any] = {}
    for piece in filter(None, (p.strip() for p in line[first.end() :].split(","))):
        found = next(((m, make) for pattern, make in _PIECES if (m := pattern.fullmatch(piece))), None)
        if found is None:
            raise InputError(f"{piece!r} is not understood beside a recording; write it such as {EXAMPLE}")
        given |= found[1](found[0])
    path = _file(first)
    heard = heard_in(path, **given)
    readings = readings_of(heard, path.name, there, clip=kept_clip(heard, keep))
    return [
        replace(one, typed=line.strip() if one.kind == "noise" else one.typed, at_s=there.now_s)
        for one in readings
    ]
