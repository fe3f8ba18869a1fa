"""Values that a person reads off an instrument, as they type them in."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from samovar.core.agreement import PARTS
from samovar.core.rig import METER_HALF_WIDTH_DB, Rig, meter_class, meter_words
from samovar.core.sound import SoundLevel, corrected
from samovar.core.surface import EMISSIVITY, contact_half_width, of_range, spot
from samovar.exchange.problems import InputError

_N = r"-?\d+(?:[.,]\d+)?"
_AMOUNT = re.compile(
    rf"^\s*(?P<value>{_N})\s*(?:(?:(?:to|–|\.\.)\s*(?P<to>{_N}))|(?:(?:\+/-|±)\s*(?P<width>{_N})))?\s*(?P<rest>.*)$",
    re.I,
)
_PROBE = re.compile(
    r"^(?:probe\s+)?(?:(?P<couple>[KTJN])\s*(?P<grade>[12])|Pt\s*(?P<platinum>AA|A|B|C))$", re.I
)
_GIVEN_EMISSIVITY = re.compile(r"^(?:e|emissivity)\s*=?\s*(?P<e>\d?[.,]\d+|1)$", re.I)
_PART_NAMES = {
    "cpu": "die",
    "regulator": "vrm",
    "regulators": "vrm",
    "drive": "storage",
    "ssd": "storage",
    "graphics": "gpu",
}
_PART = re.compile(rf"^\s*(?P<part>{'|'.join([*PARTS, *_PART_NAMES])})\b[\s:,]*", re.I)
SPOT_SET_TO = 0.95
OTHER_UNITS = {"wall power": "W", "time": "s", "score": "", "other": ""}
"""The readings that are taken as they are, and the unit of each where none is typed."""


@dataclass(frozen=True, slots=True)
class Entered:
    """A reading as it is kept: value, 95 % half-width where known, unit, and the words on its instrument."""

    quantity: str
    value: float
    half_width: float | None
    unit: str
    instrument: str


_AGO = re.compile(rf"^(?P<what>.*?)[,;]?\s+(?P<n>{_N})\s*(?P<unit>s|sec|min|m)\s+ago\s*$", re.I)


def split_ago(text: str) -> tuple[str, float]:
    """A reading as typed without its `2 min ago`, and how many seconds ago that is; 0 where nothing says so.

    Raises:
        InputError: a time that is still to come.
    """
    found = _AGO.match(text)
    if found is None:
        return text, 0.0
    seconds = _number(found["n"]) * (60.0 if found["unit"].lower().startswith("m") else 1.0)
    if seconds < 0:
        raise InputError(f"{text!r}: ago is before now; write one such as 27.4, 2 min ago")
    return found["what"], seconds


def read_room(text: str) -> Entered:
    """The room's temperature as typed: `22.4`, `22.4 ± 0.3 °C`.

    Raises:
        InputError: no temperature a room has.
    """
    value, width, rest = _amount(text, "22.4 or 22.4 ± 0.3")
    if not re.fullmatch(r"(°?\s*C)?", rest) or not -20.0 <= value <= 60.0:
        raise InputError(f"{text!r} is no room temperature, °C; type one such as 22.4 or 22.4 ± 0.3")
    return Entered("room", value, width, "°C", "room thermometer, read by hand")


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _amount(text: str, example: str) -> tuple[float, float | None, str]:
    """Value, half-width where one was typed, and the rest of the line."""
    found = _AMOUNT.match(text)
    if found is None:
        raise InputError(f"{text!r} is no reading; type one such as {example}")
    value, rest = _number(found["value"]), found["rest"].strip()
    if found["to"]:
        if _number(found["to"]) < value:
            raise InputError(f"{text!r} runs downwards; type one such as 33 to 36")
        return (*of_range(value, _number(found["to"])), rest)
    return value, _number(found["width"]) if found["width"] else None, rest


def read_noise(text: str, usual_db: float = METER_HALF_WIDTH_DB["class 2"]) -> tuple[float, float]:
    """A sound level and its half-width as typed: `27.4`, `27,4 ± 1.4 dBA`; without one it is `usual_db`, the
    meter's.

    Raises:
        InputError: not a sound level from 0 to 140 dBA.
    """
    wrong = InputError(f"{text!r} is no sound level; type one such as 27.4 or 27.4 ± 1.4")
    found = _AMOUNT.match(text)
    if found is None or not re.fullmatch(r"(dB(\(A\)|A)?)?", found["rest"].strip(), re.I):
        raise wrong
    value, width, _ = _amount(text, "27.4 or 27.4 ± 1.4")
    if not 0.0 <= value <= 140.0:
        raise wrong
    return value, usual_db if width is None else width


def noise_at_1_m(
    text: str, usual_db: float, background_db: float | None, read_at_m: float | None
) -> SoundLevel:
    """A sound level as typed, its background taken off, at 1 m. Raises InputError as `read_noise`."""
    value, width = read_noise(text, usual_db)
    return corrected(value, width, background_db, read_at_m or 1.0, 1.0)


def noise_by_rig(text: str, rig: Rig | None) -> Entered:
    """A sound level as typed, read with a rig's meter at its distance: the background taken off, at 1 m.

    Raises:
        InputError: as `read_noise`.
    """
    details = rig.details if rig else {}
    level = noise_at_1_m(
        text,
        METER_HALF_WIDTH_DB[meter_class(rig)],
        details.get("background_dba"),
        details.get("meter_distance_m"),
    )
    words = "; ".join(w for w in (meter_words(rig), level.words) if w)
    return Entered("noise", round(level.value, 2), level.half_width, "dBA", words)


def read_surface(text: str, room_c: float | None) -> Entered:
    """A surface's temperature as typed: `61.3` (a spot thermometer on black tape), `61.3 bare metal`, `61.3 e 0.9`,
    `58.2 probe K1`, `33 to 36`; with the part it was taken of before it, `vrm 61.3`, it can be held against that
    part's own sensor.

    A spot reading is corrected for the surface's emissivity, the instrument being set to 0.95 and the room being
    what the surface mirrors; without a known room only a matching emissivity can be read.

    Raises:
        InputError: what is wrong with it, and an example.
    """
    example = "61.3, 61.3 bare metal, 61.3 e 0.9, 58.2 probe K1 or vrm 61.3"
    if (named := _PART.match(text)) is not None:
        part = _PART_NAMES.get(named["part"].lower(), named["part"].lower())
        of_part = read_surface(text[named.end() :], room_c)
        return replace(of_part, instrument=f"{part}: {of_part.instrument}")
    value, width, rest = _amount(text, example)
    rest = re.sub(r"^°?\s*C\b\s*", "", rest).strip()
    rest = re.sub(r"^on\s+", "", rest, flags=re.I)
    if not -40.0 <= value <= 400.0:
        raise InputError(f"{text!r}: {value:g} °C is no surface on a bench; type one such as {example}")
    if (probe := _PROBE.match(rest)) is not None:
        kind, grade = (
            ("Pt", probe["platinum"].upper())
            if probe["platinum"]
            else (probe["couple"].upper(), probe["grade"])
        )
        own = contact_half_width(kind, grade, value)
        return Entered(
            "surface", value, own if width is None else width, "°C", f"contact probe, {kind} class {grade}"
        )
    if (given := _GIVEN_EMISSIVITY.match(rest)) is not None:
        emissivity, spread, name = _number(given["e"]), 0.03, f"emissivity {_number(given['e']):g}"
    elif rest.lower() in EMISSIVITY or not rest:
        name = rest.lower() or "black tape"
        emissivity, spread = EMISSIVITY[name]
    else:
        raise InputError(
            f"{rest!r} is no surface known here: {', '.join(EMISSIVITY)}; or type e 0.9 for its emissivity"
        )
    if room_c is None and abs(emissivity - SPOT_SET_TO) > 0.011:
        raise InputError(
            "the room is not known: a spot reading cannot be corrected; stick black tape on, or use a probe"
        )
    try:
        true = spot(
            value, emissivity, 22.0 if room_c is None else room_c, SPOT_SET_TO, emissivity_half_width=spread
        )
    except ValueError as problem:
        raise InputError(f"{text!r}: {problem}; type one such as {example}") from problem
    shown = "" if abs(true.value - value) < 0.05 else f", showed {value:g} °C"
    half = true.half_width if width is None else max(width, true.half_width)
    return Entered(
        "surface", true.value, half, "°C", f"spot thermometer set to {SPOT_SET_TO:g} on {name}{shown}"
    )


def read_other(quantity: str, unit: str, text: str) -> Entered:
    """Any other value as typed: `231`, `231 ± 2`, `33 to 36`; a unit behind it goes before `unit`.

    Raises:
        InputError: no number.
    """
    value, width, rest = _amount(text, "231, 231 ± 2 or 33 to 36")
    return Entered(quantity, value, width, (rest or unit)[:10], f"{quantity}, read by hand")
