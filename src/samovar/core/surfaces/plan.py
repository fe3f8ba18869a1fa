"""A plan of a board, a case or a laptop, to scale: its parts for orientation, and the spots and areas that are measured."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any

from samovar.core.by_hand.reading import place_of
from samovar.core.entered import Check, Name, between, checked, one_of, plain, strict
from samovar.core.surface import EMISSIVITY
from samovar.core.units import Unreadable

LARGEST_MM = 3000.0
"""Larger than any case that stands on a bench."""
SMALLEST_MM = 5.0
ITEMS_MOST = 60
SPOT, AREA, PART = "spot", "area", "part"
USUAL_SURFACE = "board"
"""What a surface is of where nobody said: lacquer and plastic all have about its emissivity."""

Millimetres = Annotated[float, between(0.0, LARGEST_MM, "mm")]


@strict
@dataclass(frozen=True, slots=True)
class Item:
    """One thing on a plan, x to the right and y downwards from the upper left corner, mm.

    Attributes:
        name: what it is called; of a spot or an area the name under which readings are kept (`vrm back`).
        kind: SPOT (a place without extent), AREA (measured all over), PART (drawn for orientation alone).
        x_mm, y_mm: a spot's place, else the upper left corner.
        width_mm, height_mm: of an area or a part; nothing for a spot.
        made_of: its surface, a key of EMISSIVITY.
    """

    name: Name
    kind: Annotated[str, one_of((SPOT, AREA, PART), "kind of thing on a plan")]
    x_mm: Millimetres
    y_mm: Millimetres
    width_mm: Millimetres = 0.0
    height_mm: Millimetres = 0.0
    made_of: Annotated[str, one_of(EMISSIVITY, "kind of surface")] = USUAL_SURFACE

    @property
    def is_measured(self) -> bool:
        """Whether temperatures belong to it."""
        return self.kind != PART

    @property
    def middle(self) -> tuple[float, float]:
        """Its middle, mm."""
        return self.x_mm + 0.5 * self.width_mm, self.y_mm + 0.5 * self.height_mm

    def holds(self, x_mm: float, y_mm: float) -> bool:
        """Whether a place lies in it."""
        return (
            self.x_mm <= x_mm <= self.x_mm + self.width_mm and self.y_mm <= y_mm <= self.y_mm + self.height_mm
        )


@strict
@dataclass(frozen=True, slots=True)
class Plan:
    """A plan of one face of something.

    Attributes:
        name: what it shows: `Ridge B7`, `underside`.
        width_mm, height_mm: how large that is.
        items: what stands on it.
    """

    name: Name
    width_mm: Annotated[float, between(SMALLEST_MM, LARGEST_MM, "mm")]
    height_mm: Annotated[float, between(SMALLEST_MM, LARGEST_MM, "mm")]
    items: Annotated[tuple[Item, ...], Check(tuple)] = ()

    @property
    def measured(self) -> tuple[Item, ...]:
        """Its spots and areas."""
        return tuple(item for item in self.items if item.is_measured)

    def item(self, name: str) -> Item | None:
        """The spot or area of this name."""
        return next((item for item in self.measured if item.name == name), None)

    def at(self, x_mm: float, y_mm: float, reach_mm: float) -> Item | None:
        """What is at a place: the nearest spot within reach, else the smallest area or part that holds it."""
        spots = [
            (abs(i.x_mm - x_mm) + abs(i.y_mm - y_mm), i)
            for i in self.items
            if i.kind == SPOT and max(abs(i.x_mm - x_mm), abs(i.y_mm - y_mm)) <= reach_mm
        ]
        if spots:
            return min(spots, key=lambda found: found[0])[1]
        held = [i for i in self.items if i.kind != SPOT and i.holds(x_mm, y_mm)]
        return min(held, key=lambda i: i.width_mm * i.height_mm) if held else None


def plan_of(raw: Any, where: str = "plan") -> Plan:
    """A plan out of plain values, as `plain` gives them. Raises Unreadable: what is wrong, where, and what to do."""
    found = checked(Plan, raw, where)
    _check(found, where)
    return found


def with_item(plan: Plan, item: Item) -> Plan:
    """The plan with a further thing on it. Raises Unreadable: its name is taken, it stands outside, there are too many."""
    named = replace(item, name=place_of(item.name)) if item.is_measured else item
    found = replace(plan, items=(*plan.items, named))
    return plan_of(plain(found))


def without(plan: Plan, item: Item) -> Plan:
    """The plan without a thing."""
    return replace(plan, items=tuple(i for i in plan.items if i is not item))


def _check(plan: Plan, where: str) -> None:
    if len(plan.items) > ITEMS_MOST:
        raise Unreadable(f"{where}: it has {len(plan.items)} things on it; draw at most {ITEMS_MOST}")
    taken: set[str] = set()
    for number, item in enumerate(plan.items, 1):
        place = f"{where}, {item.name} ({number})"
        if item.is_measured and item.name in taken:
            raise Unreadable(f"{place}: there is one of this name already; choose another")
        taken.add(item.name if item.is_measured else "")
        if item.x_mm + item.width_mm > plan.width_mm or item.y_mm + item.height_mm > plan.height_mm:
            raise Unreadable(
                f"{place}: it stands outside of the plan's {plan.width_mm:g} x {plan.height_mm:g} mm; move it"
            )
        if (item.kind == SPOT) != (item.width_mm == 0.0 and item.height_mm == 0.0):
            raise Unreadable(f"{place}: a spot has no width and height, an area and a part have both")


def rectangle(first: Sequence[float], second: Sequence[float]) -> tuple[float, float, float, float]:
    """x, y, width and height of the rectangle between two corners, mm."""
    x, y = min(first[0], second[0]), min(first[1], second[1])
    return x, y, abs(first[0] - second[0]), abs(first[1] - second[1])
