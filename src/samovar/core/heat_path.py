"""The way of the heat from die to room, stage by stage, and what another chip or another room would make of it."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from samovar.core.measured import Measured, difference, quotient
from samovar.core.rated import EXTRAPOLATED
from samovar.core.reading import Reading

_STAGES = (("die", "die"), ("coolant", "coolant"), ("inlet", "room"))
"""Where heat passes on its way, by role, and what people call it."""


@dataclass(frozen=True, slots=True)
class Stage:
    """One stretch of the way: between which two, the difference over it, K, and its resistance, K/W, both with their
    95 % half-widths."""

    start: str
    end: str
    difference_k: Measured
    resistance_k_per_w: Measured


@dataclass(frozen=True, slots=True)
class Elsewhere:
    """The die at another power or in another room, °C, with its 95 % half-width; `beyond` by which share the power
    lies beyond what was measured, when that is more than 30 %."""

    die_c: Measured
    beyond: float | None


def heat_path(reading: Reading) -> list[Stage]:
    """The stages between those steady temperatures that are known: die, coolant, room. Fewer than two of them, or no
    power, make no path."""
    thermal = reading.thermal
    power = reading.steady.get(reading.power or "")
    if thermal is None or power is None or power.mean <= 0:
        return []
    known: list[tuple[str, Measured]] = []
    for role, name in _STAGES:
        found = reading.steady_mean("temperature", (role,))
        if role == "die" and reading.die in reading.steady:
            die = reading.steady[reading.die]
            found = die.measured
        if role == "inlet" and found is None and thermal.room_c is not None:
            found = Measured(thermal.room_c, None)
        if found is not None:
            known.append((name, found))
    stages = []
    for (start, a), (end, b) in itertools.pairwise(known):
        gap = difference(a, b)
        if gap.value <= 0:
            return []
        stages.append(Stage(start, end, gap, quotient(gap, power.measured)))
    return stages


def elsewhere(
    reading: Reading, power_w: float | None = None, room_c: float | None = None
) -> Elsewhere | None:
    """Where the die would settle at another power, in another room or both, its resistance staying as measured; None
    where that is not known. A fan that answers the heat, or a chip of another size, makes it otherwise: hence the
    mark on whatever lies far beyond what was measured.

    Args:
        power_w: the power, W; as measured where None.
        room_c: the room, °C; as measured where None.
    """
    thermal = reading.thermal
    if (
        thermal is None
        or thermal.resistance_k_per_w is None
        or thermal.power_w is None
        or thermal.room_c is None
    ):
        return None
    watts = thermal.power_w if power_w is None else power_w
    room = thermal.room_c if room_c is None else room_c
    rise = thermal.resistance_k_per_w * watts
    width = (thermal.half_width_95 or 0.0) * watts
    beyond = abs(watts / thermal.power_w - 1.0)
    return Elsewhere(Measured(room + rise, width), beyond if beyond > EXTRAPOLATED else None)


def headroom_w(reading: Reading, limit_c: float, room_c: float) -> Measured | None:
    """The heat, W, that would bring the die to its limit in a room of choice; None where that is not known."""
    thermal = reading.thermal
    if thermal is None or thermal.resistance_k_per_w is None or limit_c <= room_c:
        return None
    watts = (limit_c - room_c) / thermal.resistance_k_per_w
    width = watts * (thermal.half_width_95 or 0.0) / thermal.resistance_k_per_w
    return Measured(watts, width)
