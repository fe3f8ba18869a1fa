"""A value that a person read off an instrument, with all that was said beside it; and the kinds there are."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from samovar.core.facts import Facts, RoomFacts
from samovar.core.measured import COVERAGE_FACTOR, Measured
from samovar.core.results.result import BY_HAND, Result
from samovar.core.shown_text import one_line
from samovar.core.sound.kept import KeptSound, sound_in
from samovar.core.sound.surcharge import surcharge_db
from samovar.core.surface import CONTACT, PARTS, SPOT, Surface


@dataclass(frozen=True, slots=True)
class Kind:
    """One kind of reading.

    Attributes:
        key: its name, with which a line begins.
        quantity, statistic, part: what it is a result of; a part of its own where a line names none.
        unit: the unit it is kept in; empty where a line may name any.
        label: what is asked for where it is typed.
        direction: of a rate at a drive, whether it was read or written.
    """

    key: str
    quantity: str
    statistic: str
    part: str | None
    unit: str
    label: str
    direction: str | None = None


KINDS: dict[str, Kind] = {
    kind.key: kind
    for kind in (
        Kind("noise", "noise", "level", None, "dBA", "a sound level, dBA"),
        Kind("room", "temperature", "at", "inlet", "°C", "the room's temperature, °C"),
        Kind("surface", "temperature", "at", "surface", "°C", "a spot thermometer, °C"),
        Kind("contact", "temperature", "at", "surface", "°C", "a contact probe, °C"),
        Kind("wall power", "power", "at", "wall", "W", "a meter at the wall, W"),
        Kind("score", "score", "score", None, "", "what a benchmark printed"),
        Kind("time", "time", "time", None, "s", "how long something took, s or 17:46"),
        Kind("voltage", "voltage", "at", None, "V", "a multimeter, V"),
        Kind("storage read", "work", "mean", "storage", "MB/s", "what a drive read, MB/s", "read"),
        Kind("storage write", "work", "mean", "storage", "MB/s", "what a drive wrote, MB/s", "write"),
        Kind("fan", "fan", "at", None, "rpm", "a fan's speed, rpm"),
        Kind("other", "other", "at", None, "", "anything else, with its unit"),
    )
}
"""Every kind of reading by name."""

ROOM_HALF_WIDTH_K = 0.3
"""What an ordinary room thermometer leaves open where nothing else is known of it."""
CHARACTERS = ("steady", "whine", "hum", "rattle", "pulsing")
"""What a sound may be like, in the words reviewers use; anything else is said in words of their own."""

_PART_NAMES = {
    "cpu": "die", "processor": "die", "regulator": "vrm", "regulators": "vrm", "vrms": "vrm", "drive": "storage",
    "ssd": "storage", "graphics": "gpu", "ram": "memory", "dimm": "memory", "water": "coolant",
}  # fmt: skip
"""What people call a part, and the role it has."""


def place_of(words: str) -> str:
    """A place as it is kept, so that two people's words for one place are the same: `regulator  back` is `vrm back`."""
    plain = re.sub(r"^the\s+", "", " ".join(words.split()), flags=re.I).lower()
    first, _, rest = plain.partition(" ")
    return f"{_PART_NAMES.get(first, first)} {rest}".strip()


@dataclass(frozen=True, slots=True)
class HandReading:
    """A value a person took.

    Attributes:
        at_s: when, seconds from the first sample; None where it is one of the whole run.
        kind: a key of KINDS.
        value: in `unit`; None where nothing could be told, such as the level of a machine without a fan.
        half_width: of its 95 % interval, all that is known of instrument and reading joined; None where nothing is.
        bound: `at most` or `at least` where it is no more than that.
        place: where it was taken, a part (`vrm`) or a spot on one (`vrm back`); empty where that was not said.
        instrument: its class or its name.
        distance_m, background: of a sound level: where the meter stood, m, and the background, dBA.
        emissivity, set_to: of a spot thermometer: the surface's own, and what the instrument was set to.
        character: what a sound was like.
        typed: the line as it was typed.
        words: what was made of it.
        n: its number in the run, by which it is named; 0 before it is kept.
        heard: what else was heard, of a level that was listened to, as `KeptSound.text` writes it.
    """

    at_s: float | None
    kind: str
    value: float | None
    half_width: float | None
    unit: str
    instrument: str = ""
    bound: str | None = None
    place: str = ""
    distance_m: float | None = None
    background: float | None = None
    emissivity: float | None = None
    set_to: float | None = None
    character: str = ""
    typed: str = ""
    words: str = ""
    n: int = 0
    heard: str | None = None

    def __post_init__(self) -> None:
        # Typed at the bench, or by a stranger: what hides in it is shown.
        for name in ("kind", "unit", "instrument", "place", "character", "typed", "words"):
            object.__setattr__(self, name, one_line(getattr(self, name)))

    @property
    def is_of(self) -> Kind:
        """Its kind; what an older archive calls otherwise counts as `other`."""
        return KINDS.get(self.kind, KINDS["other"])

    @property
    def part(self) -> str | None:
        """What it is of, as results have it: the place, else the part that its kind has of its own."""
        return self.place or self.is_of.part

    @property
    def measured(self) -> Measured | None:
        """Value and half-width; None where nothing could be told."""
        return None if self.value is None else Measured(self.value, self.half_width, self.bound)

    @property
    def surface(self) -> Surface | None:
        """The surface temperature it is, where it says of which part and is no mere bound."""
        part = self.place.partition(" ")[0]
        if self.kind not in ("surface", "contact") or part not in PARTS or self.value is None or self.bound:
            return None
        by = CONTACT if self.kind == "contact" else SPOT
        spot = self.place if self.place != part else ""
        return Surface(part, self.at_s, Measured(self.value, self.half_width), by, spot)

    @property
    def sound(self) -> KeptSound | None:
        """What else was heard, where it was listened to."""
        return sound_in(self.heard)

    @property
    def said(self) -> str:
        """All that was said of it and made of it, in one line."""
        return "; ".join(w for w in (self.typed or self.instrument, self.words) if w)

    def text(self) -> str:
        """The value as people read it: `at most 32 ±5 dBA`."""
        if self.measured is None:
            return self.typed or "not told"
        finest = 0 if self.unit in ("rpm", "MB/s") else 3 if self.unit == "V" else 1
        return self.measured.text(self.unit, finest=finest)

    def result(self, load_start_s: float = 0.0) -> Result | None:
        """The result it is, its moment counted from the load's beginning; None where nothing could be told."""
        if self.value is None:
            return None
        kind = self.is_of
        return Result(
            self.part, None, kind.quantity, kind.statistic, self.unit, self.value, self.half_width, self.bound, BY_HAND,
            at_s=None if self.at_s is None else self.at_s - load_start_s, direction=kind.direction,
            common_of=self.instrument,
        )  # fmt: skip


def with_room(facts: Facts, readings: Sequence[HandReading]) -> Facts:
    """Facts with the room as hands read it in this run; of several readings their mean, and half of what they differ
    by."""
    rooms = [r for r in readings if r.kind == "room" and r.value is not None and r.bound is None]
    if not rooms:
        return facts
    values = [r.value for r in rooms if r.value is not None]
    own = max((r.half_width or ROOM_HALF_WIDTH_K) for r in rooms)
    half = max(own, 0.5 * (max(values) - min(values)))
    return replace(facts, room=RoomFacts(sum(values) / len(values), half / COVERAGE_FACTOR))


def results_by_hand(readings: Sequence[HandReading], load_start_s: float = 0.0) -> list[Result]:
    """The results in a run's hand readings; `load_start_s` is when its load began."""
    found = [one for reading in readings if (one := reading.result(load_start_s)) is not None]
    rated = [one for reading in readings if (one := _rated(reading, load_start_s)) is not None]
    return [*found, *rated]


def _rated(reading: HandReading, load_start_s: float) -> Result | None:
    """A level that was listened to with the surcharge for its tones; None where it is none."""
    level, sound = reading.result(load_start_s), reading.sound
    if level is None or sound is None:
        return None
    charged = surcharge_db((hz, ratio) for hz, ratio, _ in sound.tones)
    return replace(level, statistic="rated", value=level.value + charged)
