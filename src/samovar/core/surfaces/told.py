"""What is known of the spots and areas of a plan in one run: by a picture, by hand, by software, beside each other; and how warm
they would be at another heat."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from samovar.core.by_hand.reading import HandReading
from samovar.core.measured import Measured, combine
from samovar.core.rated import EXTRAPOLATED
from samovar.core.reading import Reading
from samovar.core.surface import PARTS
from samovar.core.surfaces.picture import Picture, Seen, seen
from samovar.core.surfaces.plan import Item, Plan

BY_PICTURE, BY_SOFTWARE = "picture", "software"
SURFACE_KINDS = ("surface", "contact")
"""The kinds of reading that are a surface's."""


@dataclass(frozen=True, slots=True)
class Told:
    """What is known of one spot or area, °C; None where it is not.

    Attributes:
        item: the spot or area.
        seen: what the picture says.
        hand: what was read last by hand there.
        software: what the machine itself says of the part that it is on.
    """

    item: Item
    seen: Seen | None
    hand: HandReading | None
    software: Measured | None

    @property
    def surface(self) -> Measured | None:
        """Its temperature: the picture's hottest, else what was read by hand."""
        if self.seen is not None:
            return self.seen.hottest
        return self.hand.measured if self.hand is not None else None


def told_of(
    plan: Plan,
    picture: Picture | None,
    readings: Sequence[HandReading],
    reading: Reading | None,
) -> list[Told]:
    """What is known of every spot and area of a plan.

    Args:
        plan: the plan.
        picture: the picture of it that is looked at; None without one.
        readings: the run's hand readings.
        reading: the run's, for what the machine itself says of a part; None without one.
    """
    last = {r.place: r for r in readings if r.kind in SURFACE_KINDS and r.measured is not None}
    found = []
    for item in plan.measured:
        part = item.name.partition(" ")[0]
        found.append(
            Told(
                item,
                seen(picture, plan, item) if picture is not None else None,
                last.get(item.name),
                reading.steady_mean("temperature", (part,))
                if reading is not None and part in PARTS
                else None,
            )
        )
    return found


@dataclass(frozen=True, slots=True)
class AtHeat:
    """A surface at another heat: its temperature, °C, and whether that is further from what was measured than anyone should
    trust it."""

    surface: Measured
    extrapolated: bool


def at_heat(surface: Measured, room: Measured, measured_w: Measured, wanted_w: float) -> AtHeat | None:
    """How warm a surface would be with another heat in the same chip: its rise over the room grows as the heat does, for the path
    between them stays as it is (its resistance, K/W, as measured). None without heat.

    Args:
        surface, room: °C, as measured.
        measured_w: the heat meanwhile.
        wanted_w: the heat that is asked for.
    """
    if measured_w.value <= 0.0:
        return None
    ratio = wanted_w / measured_w.value
    rise_k = surface.value - room.value
    half = combine(
        ratio * (surface.half_width or 0.0),
        (1.0 - ratio) * (room.half_width or 0.0),
        ratio * rise_k * (measured_w.half_width or 0.0) / measured_w.value,
    )
    return AtHeat(Measured(room.value + ratio * rise_k, half), ratio > 1.0 + EXTRAPOLATED)


def as_readings(found: Sequence[Told], picture: Picture) -> list[HandReading]:
    """What a picture says of spots and areas, as readings of its run: each the hottest of its place."""
    return [
        HandReading(
            picture.at_s, "surface", one.seen.hottest.value, one.seen.hottest.half_width, "°C", "thermal camera",
            place=one.item.name, set_to=picture.set_to,
            words=f"the hottest of {one.item.name} in {picture.name}, {one.item.made_of}, mirroring {picture.reflected_c:.0f} °C",
        )
        for one in found
        if one.seen is not None
    ]  # fmt: skip
