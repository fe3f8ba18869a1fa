"""A line as it is typed, such as `noise 33 to 36 dBA at 3 ft, phone, background 30`, read into a hand reading.

A line is a kind, a value as people write it, then, between commas and in any order, what stands beside it. What cannot
be read is refused with an example.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from samovar.core.by_hand.amounts import Amount, read_amount, units_of
from samovar.core.by_hand.beside import Beside, pieces, read_beside
from samovar.core.by_hand.reading import KINDS, HandReading, place_of
from samovar.core.measured import AT_MOST, combine
from samovar.core.quantity import QUANTITIES
from samovar.core.rig import METER_HALF_WIDTH_DB, Rig, meter_class
from samovar.core.sound.levels import corrected
from samovar.core.surface import EMISSIVITY, SPOT_HALF_WIDTH_K, contact_half_width, spot
from samovar.core.units import Unreadable

SPOT_SET_TO = 0.95
"""What spot thermometers are set to as they are sold."""
TYPED_EMISSIVITY_HALF_WIDTH = 0.03
"""How well an emissivity that somebody types is known."""
SAME_EMISSIVITY = 0.011
"""Within this of what the instrument is set to, what the surface mirrors hardly matters."""
ROOM_WHERE_UNKNOWN_C = 22.0
"""What is mirrored, where it hardly matters and the room is not known."""
_USUAL = frozenset({"moment", "ago", "class", "instrument"})


@dataclass(frozen=True, slots=True)
class Circumstances:
    """What is known of a run when a reading of it is typed.

    Attributes:
        rig: its meter, distance and background stand in where a line names none.
        compared_at_m: the distance at which the review holds sound levels against each other.
        room_c: the room, which a shining surface mirrors; None where it is not known.
        now_s: so far is the run under way; None for one that is over, which knows no `2 min ago`.
        duration_s: how long a run lasts that is over; None where it is under way.
    """

    rig: Rig | None = None
    compared_at_m: float = 1.0
    room_c: float | None = None
    now_s: float | None = None
    duration_s: float | None = None


Finish = Callable[[HandReading, Amount, Beside, Circumstances], HandReading]


@dataclass(frozen=True, slots=True)
class Way:
    """How one kind is read: the dimension of its units (None where any may stand there), what it is between, what may
    stand beside it, an example, and what is made of the value."""

    dimension: str | None
    least: float
    most: float
    beside: frozenset[str]
    example: str
    finish: Finish
    time: bool = False


def _joined(amount: Amount, instrument: float | None, named: bool) -> float | None:
    """What a value may be off by: the instrument's own width joined with half of a range. A width that was typed is
    the reader's word for the whole, but makes no instrument better that the line, or the rig, names."""
    if amount.stated is not None:
        return max(amount.stated, instrument) if named and instrument is not None else amount.stated
    if instrument is None:
        return amount.range_half or None
    return combine(instrument, amount.range_half)


def _plain(reading: HandReading, amount: Amount, beside: Beside, there: Circumstances) -> HandReading:
    return replace(reading, half_width=_joined(amount, None, False))


def _noise(reading: HandReading, amount: Amount, beside: Beside, there: Circumstances) -> HandReading:
    details = there.rig.details if there.rig else {}
    grade = beside.grade or meter_class(there.rig)
    if grade not in METER_HALF_WIDTH_DB:
        raise Unreadable(f"{grade!r} is no class of a sound meter; write class 1, class 2 or phone")
    background = beside.background if beside.background is not None else details.get("background_dba")
    read_at_m = beside.distance_m or details.get("meter_distance_m") or there.compared_at_m
    named = bool(beside.grade or details.get("meter_class"))
    meter = METER_HALF_WIDTH_DB[grade]
    own = amount.range_half
    if amount.stated is not None:
        # A width typed without any instrument is the reader's word for all of it.
        meter, own = (max(meter, amount.stated) if named else amount.stated), 0.0
    level = corrected(
        amount.value, meter, None if amount.bound else background, read_at_m, there.compared_at_m,
        own_half_width_db=own, background_half_width_db=beside.background_half,
    )  # fmt: skip
    instrument = beside.instrument or (f"{grade} meter" if grade != "phone" else grade)
    if not named:
        instrument = beside.instrument or "sound level meter"
    return replace(
        reading, value=level.value, half_width=level.half_width,
        bound=AT_MOST if level.upper_bound else amount.bound, instrument=instrument, distance_m=read_at_m,
        background=background, words=level.words,
    )  # fmt: skip


def _surface(reading: HandReading, amount: Amount, beside: Beside, there: Circumstances) -> HandReading:
    if beside.grade:
        return _contact(replace(reading, kind="contact"), amount, beside, there)
    emissivity, spread = EMISSIVITY[beside.material or "black tape"]
    if beside.emissivity is not None:
        emissivity, spread = beside.emissivity, TYPED_EMISSIVITY_HALF_WIDTH
    set_to = beside.set_to if beside.set_to is not None else SPOT_SET_TO
    if there.room_c is None and abs(emissivity - set_to) > SAME_EMISSIVITY:
        raise Unreadable(
            "the room is not known: a spot reading cannot be corrected; enter the room first, stick black tape on, or use a probe"
        )
    room_c = ROOM_WHERE_UNKNOWN_C if there.room_c is None else there.room_c
    own = combine(SPOT_HALF_WIDTH_K, amount.range_half)
    try:
        true = spot(
            amount.value,
            emissivity,
            room_c,
            set_to,
            emissivity_half_width=spread,
            instrument_half_width_k=own,
        )
    except ValueError as problem:
        raise Unreadable(f"{problem}; write one such as surface 61.3 on vrm, e {emissivity:g}") from problem
    half = true.half_width if amount.stated is None else max(amount.stated, true.half_width)
    shown = abs(true.value - amount.value) >= 0.05
    words = f"showed {amount.value:.4g} °C, corrected for an emissivity of {emissivity:g}" if shown else ""
    return replace(
        reading, value=true.value, half_width=half, emissivity=emissivity, set_to=set_to,
        instrument=beside.instrument or "spot thermometer", words=words,
    )  # fmt: skip


def _contact(reading: HandReading, amount: Amount, beside: Beside, there: Circumstances) -> HandReading:
    kind, _, grade = (beside.grade or "K 2").partition(" ")
    try:
        own = contact_half_width(kind, grade, amount.value)
    except (KeyError, ValueError):
        raise Unreadable(f"{beside.grade!r} is no class of a probe; write K1, T2 or Pt A") from None
    name = beside.instrument or (f"contact probe, {kind} class {grade}" if beside.grade else "contact probe")
    return replace(reading, half_width=_joined(amount, own, True), instrument=name)


def _room(reading: HandReading, amount: Amount, beside: Beside, there: Circumstances) -> HandReading:
    details = there.rig.details if there.rig else {}
    half = _joined(amount, details.get("room_half_width_k"), False)
    return replace(reading, half_width=half, instrument=beside.instrument or "room thermometer")


_SPOTS = frozenset({"where", "material", "emissivity", "set to"})
WAYS_OF_KINDS: dict[str, Way] = {
    "noise": Way("level", 0.0, 140.0, _USUAL | {"background", "distance", "character", "where"},
                 "noise 33 to 36 dBA at 1 m, class 2, background 24", _noise),
    "room": Way("temperature", -20.0, 60.0, _USUAL, "room 22.4 or room 72 °F ± 0.5", _room),
    "surface": Way("temperature", -40.0, 400.0, _USUAL | _SPOTS, "surface 86 °C on vrm back, e 0.95, at 12:30", _surface),
    "contact": Way("temperature", -40.0, 400.0, _USUAL | {"where"}, "contact 58.2 on vrm heatsink, K1", _contact),
    "wall power": Way("power", 0.0, 20e3, _USUAL | {"where"}, "wall power 131 W, at 12:30", _plain),
    "score": Way(None, -1e12, 1e12, _USUAL, "score 5012 points", _plain),
    "time": Way("time", 0.0, 30 * 86400.0, _USUAL, "time 17:46 or time 90 s", _plain, time=True),
    "voltage": Way("voltage", -1000.0, 1000.0, _USUAL | {"where"}, "voltage 11.94 V on 12 V rail", _plain),
    "storage read": Way("data rate", 0.0, 1e6, _USUAL | {"where"}, "storage read 3400 MB/s", _plain),
    "storage write": Way("data rate", 0.0, 1e6, _USUAL | {"where"}, "storage write 2.1 GB/s", _plain),
    "fan": Way("speed", 0.0, 60e3, _USUAL | {"where"}, "fan 1200 rpm on cooler", _plain),
    "other": Way(None, -1e12, 1e12, _USUAL | {"where"}, "other 231 V", _plain),
}  # fmt: skip
"""How each kind is read, by the keys of KINDS."""

_SAME_KINDS = {"sound": "noise", "level": "noise", "probe": "contact", "power": "wall power", "wall": "wall power", "read": "storage read",
               "write": "storage write"}  # fmt: skip
_HIDDEN = re.compile(
    r"^(?:not|no louder|nothing|never|inaudible|in|under|below|can(?:no|')?t?)\b[^\d]*?\bbackground\b(?:\s+noise)?(?P<rest>.*)$|^(?:inaudible|not audible|silent)\b(?P<more>.*)$",
    re.I,
)
_NO_FAN = re.compile(
    r"^(?:no fans?(?: noise)?|fanless|none|without (?:a )?fan|passive(?:ly cooled)?)\b[\s,;]*(?P<rest>.*)$",
    re.I,
)
_STOOD_STILL = re.compile(
    r"^(?:no fans?|none|fanless|off|stopped|stands still|standing still)\b[\s,;]*(?P<rest>.*)$", re.I
)
_PARTS_IN_FRONT = re.compile(
    r"^(?P<part>die|cpu|vrm|regulators?|memory|storage|drive|ssd|chipset|coolant|gpu|graphics)(?P<spot>(?:\s+[a-z][a-z-]*){0,2}?)[\s:,]+(?=[<>≤≥~±\d-])",
    re.I,
)


def kind_of(line: str) -> tuple[str, str]:
    """A line's kind and the rest of it.

    Raises:
        Unreadable: it begins with none.
    """
    plain = " ".join(line.replace("\u00a0", " ").split())
    names = {**{k: k for k in KINDS}, **_SAME_KINDS}
    for name in sorted(names, key=len, reverse=True):
        if re.match(rf"{re.escape(name)}(?![\w])", plain, re.I):
            return names[name], plain[len(name) :].lstrip(" :=")
    raise Unreadable(
        f"{plain!r}: a reading begins with its kind ({', '.join(KINDS)}); write one such as noise 27.4"
    )


def read_line(line: str, there: Circumstances) -> HandReading:
    """A hand reading as it was typed.

    Raises:
        Unreadable: what is wrong with it, and an example.
    """
    kind, rest = kind_of(line)
    return read_value(kind, rest, there)


def read_value(kind: str, text: str, there: Circumstances) -> HandReading:
    """A hand reading of a kind, as it was typed without it. Raises Unreadable as `read_line` does."""
    way = WAYS_OF_KINDS[kind]
    typed = " ".join(text.replace("\u00a0", " ").split())
    try:
        return _read(kind, way, typed, there)
    except Unreadable as problem:
        said = str(problem)
        example = "" if way.example in said else f"; an example: {way.example}"
        raise Unreadable(f"{kind} {typed}: {said}{example}") from None


def _read(kind: str, way: Way, typed: str, there: Circumstances) -> HandReading:
    if not typed:
        raise Unreadable("nothing is written behind it")
    if len(typed) > 300:
        raise Unreadable("it is longer than a reading is; write what is beside it as a mark or a note")
    text, place = typed, ""
    if "where" in way.beside and (front := _PARTS_IN_FRONT.match(text)) is not None:
        place, text = place_of(front["part"] + front["spot"]), text[front.end() :]
    blank = HandReading(None, kind, None, None, KINDS[kind].unit, place=place, typed=typed)
    special = _without_a_number(kind, text)
    if special is not None:
        value, rest = special
        beside = _beside(rest, way, place)
        reading = _hidden(_with_said(blank, beside), value, beside, there)
        return _when(reading, beside, there)
    units: Mapping[str, tuple[float, float]] | None = units_of(way.dimension) if way.dimension else None
    head, *others = pieces(text)
    amount = read_amount(head, units, way.example, way.time)
    if not way.least <= amount.value <= way.most:
        shown = f"{way.least:g} to {way.most:g} {KINDS[kind].unit}".strip()
        raise Unreadable(f"{amount.value:g} is beyond what can be ({shown})")
    beside = _beside(", ".join([amount.rest, *others]) if amount.rest else ", ".join(others), way, place)
    unit = KINDS[kind].unit or _written_unit(amount.unit)
    if kind == "score" and not unit:
        unit = "points"
    reading = replace(_with_said(blank, beside), value=amount.value, unit=unit, bound=amount.bound)
    return _when(way.finish(reading, amount, beside, there), beside, there)


def _written_unit(unit: str) -> str:
    """A unit that a line is free to choose, under the name it is known by: `frames per second` is fps."""
    if unit.lower() in QUANTITIES["score"].written:
        return QUANTITIES["score"].unit
    known = QUANTITIES["work"].counted.get(unit.lower().replace(" a ", " per "))
    return (known[0] if known is not None and known[1] == 1.0 else unit)[:10]


def _with_said(blank: HandReading, beside: Beside) -> HandReading:
    return replace(
        blank, place=beside.place or blank.place, distance_m=beside.distance_m, background=beside.background,
        instrument=beside.instrument or beside.grade, character=", ".join(beside.character),
    )  # fmt: skip


def _beside(text: str, way: Way, place: str) -> Beside:
    beside = read_beside(pieces(text), way.beside)
    if place and beside.place:
        raise Unreadable(f"it is of {place} and on {beside.place}; write one of them")
    return beside


def _without_a_number(kind: str, text: str) -> tuple[float | None, str] | None:
    """What stands for a value without being a number: a level that the background hides (None), a fan that stands
    still (0); with what stands behind it. None where a number is to be read."""
    if kind == "noise" and (hidden := _HIDDEN.match(text)) is not None:
        rest = (hidden["rest"] or hidden["more"] or "").strip(" ,;")
        rest = re.sub(r"^(?:of|at)\s+(?=\d)", "", rest, flags=re.I)
        return None, f"background {rest}" if rest[:1].isdigit() else rest
    if kind == "noise" and (still := _NO_FAN.match(text)) is not None:
        return None, ", ".join(p for p in ("sounds no fan", still["rest"]) if p)
    if kind == "fan" and (still := _STOOD_STILL.match(text)) is not None:
        return 0.0, still["rest"]
    return None


def _hidden(reading: HandReading, value: float | None, beside: Beside, there: Circumstances) -> HandReading:
    if value is not None:
        return replace(reading, value=value)
    details = there.rig.details if there.rig else {}
    background = beside.background if beside.background is not None else details.get("background_dba")
    if background is None:
        if "no fan" in beside.character:
            return replace(reading, words="no background to hold it against: no level is told")
        raise Unreadable("over which background? write noise not above background 24")
    grade = beside.grade or meter_class(there.rig)
    width = METER_HALF_WIDTH_DB.get(grade, METER_HALF_WIDTH_DB["class 2"])
    read_at_m = beside.distance_m or details.get("meter_distance_m") or there.compared_at_m
    level = corrected(background, width, None, read_at_m, there.compared_at_m)
    words = "; ".join(w for w in (f"not above the background of {background:g} dBA", level.words) if w)
    return replace(
        reading, value=level.value, half_width=combine(level.half_width, beside.background_half), bound=AT_MOST,
        background=background, distance_m=read_at_m, words=words, instrument=reading.instrument or f"{grade} meter",
    )  # fmt: skip


def _when(reading: HandReading, beside: Beside, there: Circumstances) -> HandReading:
    if beside.at_s is not None and beside.ago_s is not None:
        raise Unreadable("it has two moments; write one of them")
    at_s = beside.at_s
    if beside.ago_s is not None:
        if there.now_s is None:
            raise Unreadable("the run is over: ago is told from now; write when in the run, such as at 12:30")
        at_s = max(0.0, there.now_s - beside.ago_s)
    elif at_s is None:
        at_s = there.now_s
    end_s = there.duration_s if there.duration_s is not None else there.now_s
    if at_s is not None and end_s is not None and at_s > end_s + 0.5:
        raise Unreadable(f"the run has no {at_s / 60:.0f}th minute: it lasts {end_s / 60:.1f} min")
    return replace(reading, at_s=at_s)
