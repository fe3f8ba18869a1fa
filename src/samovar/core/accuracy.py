"""What an instrument may be off by: its class, or what its maker promises, as people write it.

Sources: tolerances of thermocouples IEC 60584-1, of platinum sensors IEC 60751, classes of sound level meters IEC 61672-1
(see `core.rig`), classes of watt meters as their limit of error in per cent of the reading (IEC 62053-21). A limit is the
half-width of a rectangular distribution (GUM 4.3.7); what is returned are half-widths of 95 % intervals, k = 2.
"""

from __future__ import annotations

import math
import re

from samovar.core.measured import COVERAGE_FACTOR
from samovar.core.quantity import QUANTITIES
from samovar.core.rig import METER_HALF_WIDTH_DB
from samovar.core.surface import contact_half_width

_PROBE = re.compile(r"(?:type )?(?P<kind>[KTJN]|Pt(?:100|1000)?)(?: class)? ?(?P<grade>AA|A|B|C|[12])", re.I)
_CLASS = re.compile(r"class (?P<n>\d(?:\.\d+)?)", re.I)
_NUMBER = r"\d+(?:[.,]\d+)?"
_LIMIT = re.compile(
    rf"±? ?(?:(?P<share>{_NUMBER}) ?%(?: of (?:the )?reading| rdg)?)?(?: ?(?:\+|±|and) ?)?(?:(?P<fixed>{_NUMBER}) ?(?P<unit>[^\d%\s].*)?)?",
    re.I,
)
_MOST_SHARE = 50.0
"""A meter that may be off by more than half, %, measures nothing."""
EXAMPLES = {
    "temperature": "K 1, Pt A, or ±0.5 K", "noise": "class 1 or ±0.7 dB", "power": "class 1 or 0.5 % + 0.2 W"
}  # fmt: skip


def half_width(accuracy: str, quantity: str, value: float) -> float:
    """The half-width of the 95 % interval that an instrument's accuracy leaves about a value, in the quantity's unit.

    Args:
        accuracy: its class (`K 1`, `Pt A`, `class 1`) or a limit (`0.5 % + 0.2`, `±0.5 K`); empty for what nobody knows.
        quantity: of the channel.
        value: what it shows, in the quantity's unit.

    Raises:
        ValueError: nothing that an accuracy of this quantity is written as, with an example.
    """
    words = " ".join(accuracy.split())
    if not words:
        return 0.0
    if quantity == "temperature" and (probe := _PROBE.fullmatch(words)):
        kind = (
            probe["kind"].capitalize()[:2]
            if probe["kind"].lower().startswith("pt")
            else probe["kind"].upper()
        )
        try:
            return contact_half_width(kind, probe["grade"].upper(), value)
        except (KeyError, ValueError):
            raise _unreadable(accuracy, quantity) from None
    if quantity == "noise" and words.lower() in METER_HALF_WIDTH_DB:
        return METER_HALF_WIDTH_DB[words.lower()]
    if quantity in ("power", "voltage", "current") and (named := _CLASS.fullmatch(words)):
        return _as_interval(float(named["n"]) / 100.0 * abs(value))
    found = _LIMIT.fullmatch(words)
    if found is None or not (found["share"] or found["fixed"]):
        raise _unreadable(accuracy, quantity)
    share = float((found["share"] or "0").replace(",", "."))
    fixed = float((found["fixed"] or "0").replace(",", ".")) * _factor(
        found["unit"] or "", quantity, accuracy
    )
    if share > _MOST_SHARE or share + fixed == 0.0:
        raise _unreadable(accuracy, quantity)
    return _as_interval(share / 100.0 * abs(value) + fixed)


def _as_interval(limit: float) -> float:
    return COVERAGE_FACTOR * limit / math.sqrt(3.0)


def _factor(unit: str, quantity: str, accuracy: str) -> float:
    """What a difference in this unit is multiplied by to be one in the quantity's own."""
    known, spelled = QUANTITIES[quantity], unit.strip().lower()
    if spelled in ("", known.unit.lower()) or (known.unit == "dBA" and spelled in ("db", "db(a)")):
        return 1.0
    if spelled in known.written:
        return known.written[spelled][0]
    raise _unreadable(accuracy, quantity)


def _unreadable(accuracy: str, quantity: str) -> ValueError:
    example = EXAMPLES.get(quantity, "0.5 % + 0.2")
    return ValueError(f"accuracy: {accuracy!r} says nothing of a {quantity}; write it such as {example}")
