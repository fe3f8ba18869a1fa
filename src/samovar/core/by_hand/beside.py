"""What is said beside a value: where, how far away, over which background, with which instrument, when, what it was like."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from samovar.core.by_hand.amounts import NUMBER, clock, read_amount, units_of
from samovar.core.by_hand.reading import CHARACTERS, place_of
from samovar.core.surface import EMISSIVITY
from samovar.core.units import Unreadable, number

_KEYWORDS = r"(?:at|@|on|with|from|using|(?:a\s+)?phone|class\s*[12]|background|bg|ambient|set to|e\s*=?\s*\d?[.,]\d+|emissivity|ε)"
_SPLIT = re.compile(r"\s*;\s*|\s*,(?!\d)\s*|(?<!\d),\s*")
_BEFORE_KEYWORD = re.compile(rf"\s+(?={_KEYWORDS}(?![a-z]))", re.I)
_OVER = re.compile(r"(?:^|\s)over\s+(?:an?\s+|the\s+)?(background|bg|ambient)", re.I)
_LENGTH = r"(?:mm|cm|m|ft|feet|foot|in|inch|inches|\"|'|″|′)"
_DISTANCE = re.compile(
    rf"^(?:at|from|in|@)?\s*(?P<n>{NUMBER})\s*(?P<unit>{_LENGTH})(?:\s+(?:away|distance|off|from it))?$", re.I
)
_BACKGROUND = re.compile(
    r"^(?:over\s+)?(?:(?:a|the)\s+)?(?:background|bg|ambient|room noise)\s*(?:noise|level)?\s*(?:of|at|is|was|:|=)?\s*(?P<rest>[\d.,].*)$",
    re.I,
)
_EMISSIVITY = re.compile(r"^(?:e|ε|emissivity)\s*(?:of|=|:)?\s*(?P<n>[01]?[.,]\d+|1|0)$", re.I)
_SET_TO = re.compile(
    r"^(?:(?:instrument\s+|thermometer\s+)?set to|e set to)\s*(?P<n>[01]?[.,]\d+|1|0)$", re.I
)
_MOMENT = re.compile(r"^(?:at|after|@)?\s*(?P<time>\d.*?)(?:\s+(?:in|into(?: the)?(?: run| load)?))?$", re.I)
_AGO = re.compile(rf"^(?P<n>-?{NUMBER})\s*(?P<unit>s|sec|seconds?|min|minutes?|m)\s+ago$", re.I)
_CLASS = re.compile(
    r"^(?:with\s+)?(?:a\s+)?(?:class|type)\s*(?P<n>[12])(?:\s+(?:sound\s+)?(?:level\s+)?meter)?$", re.I
)
_PHONE = re.compile(r"^(?:with\s+)?(?:a\s+|my\s+|the\s+)?(?:smart)?phone(?:\s+app)?$", re.I)
_COUPLE = re.compile(
    r"^(?:with\s+)?(?:probe\s+|thermocouple\s+)?(?:type\s+)?(?P<couple>[KTJN])(?:[\s-]*(?:class\s*)?(?P<grade>[12]))?(?:\s+(?:probe|thermocouple|couple))?$",
    re.I,
)
_PLATINUM = re.compile(
    r"^(?:with\s+)?(?:probe\s+)?pt\s*(?:100|1000)?\s*(?:class\s*)?(?P<grade>AA|A|B|C)?(?:\s+probe)?$", re.I
)
_NAMED = re.compile(r"^(?:with|using|instrument|meter)\s+(?:(?:a|the|my)\s+)?(?P<name>.+)$", re.I)
_INSTRUMENTS = (
    "spot thermometer", "infrared thermometer", "thermal camera", "thermocouple", "contact probe", "sound level meter",
    "sound meter", "multimeter", "wall meter", "stopwatch", "tachometer", "thermometer", "probe", "meter",
)  # fmt: skip
_ON = re.compile(r"^(?:on|of)\s+(?P<place>.+)$", re.I)
_LIKE = re.compile(r"^(?:sounds?(?: like)?\s+(?P<plain>.+)|[\"“](?P<quoted>[^\"”]+)[\"”])$", re.I)
_CHARACTER_WORDS = {
    "steady": "steady", "constant": "steady", "whine": "whine", "whining": "whine", "whines": "whine", "hum": "hum",
    "humming": "hum", "hums": "hum", "rattle": "rattle", "rattling": "rattle", "rattles": "rattle", "pulsing": "pulsing",
    "pulses": "pulsing", "pulsating": "pulsing",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Beside:
    """All that was said beside a value; what was not said is None or empty.

    `grade` is an instrument's class (`class 2`, `phone`, `K 1`, `Pt B`), `material` a surface as EMISSIVITY names it,
    `background_half` what a background given as a range scattered by, `used` which of these were said.
    """

    place: str = ""
    distance_m: float | None = None
    background: float | None = None
    background_half: float = 0.0
    emissivity: float | None = None
    material: str = ""
    set_to: float | None = None
    at_s: float | None = None
    ago_s: float | None = None
    grade: str = ""
    instrument: str = ""
    character: tuple[str, ...] = ()
    used: tuple[str, ...] = field(default=())


def pieces(text: str) -> list[str]:
    """A line's pieces: between commas, and before the words that begin what stands beside a value."""
    found = []
    for part in _SPLIT.split(text):
        quoted = re.match(r"^\s*(?:[\"“]|sounds?\b)", part, re.I) is not None
        found += [part] if quoted else _BEFORE_KEYWORD.split(_OVER.sub(r" \1", part))
    return [p.strip() for p in found if p.strip()]


def _on(text: str, beside: Beside) -> Beside | None:
    found = _ON.match(text)
    if found is None:
        return None
    place = found["place"].strip()
    if place.lower() in EMISSIVITY:
        return replace(beside, material=place.lower())
    return replace(beside, place=place_of(place))


def _material(text: str, beside: Beside) -> Beside | None:
    return replace(beside, material=text.lower()) if text.lower() in EMISSIVITY else None


def _share(text: str) -> float:
    found = float(text.replace(",", "."))
    if not 0.0 < found <= 1.0:
        raise Unreadable(f"{text} is no emissivity; write one over 0 and up to 1, such as e 0.95")
    return found


def _emissivity(text: str, beside: Beside) -> Beside | None:
    found = _EMISSIVITY.match(text)
    return None if found is None else replace(beside, emissivity=_share(found["n"]))


def _set_to(text: str, beside: Beside) -> Beside | None:
    found = _SET_TO.match(text)
    return None if found is None else replace(beside, set_to=_share(found["n"]))


def _background(text: str, beside: Beside) -> Beside | None:
    found = _BACKGROUND.match(text)
    if found is None:
        return None
    amount = read_amount(found["rest"], units_of("level"), "background 30 dBA")
    if amount.rest or amount.bound or not -10.0 <= amount.value <= 140.0:
        raise Unreadable(f"{text!r} is no background; write one such as background 30 dBA")
    return replace(
        beside, background=amount.value, background_half=max(amount.range_half, amount.stated or 0.0)
    )


def _distance(text: str, beside: Beside) -> Beside | None:
    found = _DISTANCE.match(text)
    if found is None:
        return None
    unit = {"feet": "ft", "foot": "ft", "inch": "in", "inches": "in"}.get(
        found["unit"].lower(), found["unit"].lower()
    )
    factor, _ = units_of("length")[unit]
    metres = number(found["n"], "1 m") * factor / 1000.0
    if not 0.01 <= metres <= 20.0:
        raise Unreadable(
            f"{text!r} is no distance a meter stands at; write one from 1 cm to 20 m, such as 1 m"
        )
    return replace(beside, distance_m=metres)


def _moment(text: str, beside: Beside) -> Beside | None:
    found = _MOMENT.match(text)
    at = clock(found["time"]) if found is not None else None
    return None if at is None or at[1] else replace(beside, at_s=at[0])


def _ago(text: str, beside: Beside) -> Beside | None:
    found = _AGO.match(text)
    if found is None:
        return None
    if found["n"].startswith("-"):
        raise Unreadable(f"{text!r}: ago is before now; write one such as 2 min ago")
    seconds = number(found["n"], "2 min ago") * (60.0 if found["unit"].lower().startswith("m") else 1.0)
    return replace(beside, ago_s=seconds)


def _class(text: str, beside: Beside) -> Beside | None:
    if (found := _CLASS.match(text)) is not None:
        return replace(beside, grade=f"class {found['n']}")
    if _PHONE.match(text):
        return replace(beside, grade="phone")
    if (found := _COUPLE.match(text)) is not None:
        return replace(beside, grade=f"{found['couple'].upper()} {found['grade'] or '2'}")
    if (found := _PLATINUM.match(text)) is not None:
        return replace(beside, grade=f"Pt {(found['grade'] or 'B').upper()}")
    return None


def _instrument(text: str, beside: Beside) -> Beside | None:
    plain = (
        re.sub(r"^(?:with|using)?\s*(?:an?|the|my)?\s+", "", text.lower()) if " " in text else text.lower()
    )
    if plain in _INSTRUMENTS:
        return replace(beside, instrument=plain)
    found = _NAMED.match(text)
    return None if found is None else replace(beside, instrument=found["name"].strip())


def _character(text: str, beside: Beside) -> Beside | None:
    if (found := _LIKE.match(text)) is not None:
        return replace(beside, character=(*beside.character, found["plain"] or found["quoted"]))
    words = re.split(r"\s*(?:/|\+|\band\b|\s)\s*", text.lower())
    known = [_CHARACTER_WORDS.get(w) for w in words if w]
    if not known or None in known:
        return None
    return replace(beside, character=(*beside.character, *(w for w in known if w)))


WAYS: dict[str, Callable[[str, Beside], Beside | None]] = {
    "ago": _ago, "background": _background, "set to": _set_to, "emissivity": _emissivity, "where": _on,
    "material": _material, "distance": _distance, "moment": _moment, "class": _class, "instrument": _instrument,
    "character": _character,
}  # fmt: skip
"""What can be said beside a value, each with what reads it, in the order in which they are tried."""
SAID_ONCE = frozenset(WAYS) - {"character"}
EXAMPLES = {
    "ago": "2 min ago", "background": "background 30", "set to": "set to 0.9", "emissivity": "e 0.95", "where": "on vrm back",
    "material": "black tape", "distance": "at 1 m", "moment": "at 12:30", "class": "class 2", "instrument": "with wall meter",
    "character": f"one of {', '.join(CHARACTERS)}, or sounds and your own words",
}  # fmt: skip


def read_beside(found: list[str], allowed: frozenset[str]) -> Beside:
    """What the pieces behind a value say.

    Args:
        found: as `pieces` gives them.
        allowed: keys of WAYS that this kind of reading has.

    Raises:
        Unreadable: a piece that says none of these, or says one again.
    """
    beside = Beside()
    for piece in found:
        for key, way in WAYS.items():
            taken = way(piece, beside) if key in allowed else None
            if taken is None:
                continue
            if key in beside.used and key in SAID_ONCE:
                raise Unreadable(f"{piece!r}: that was said already; write one of them")
            beside = replace(taken, used=(*beside.used, key))
            break
        else:
            known = ", ".join(EXAMPLES[k] for k in WAYS if k in allowed)
            raise Unreadable(f"{piece!r} is not understood here; what can stand beside it: {known}")
    return beside
