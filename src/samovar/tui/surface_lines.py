"""What is typed about surfaces: a plan with its size, a thing on it with what it is made of."""

from __future__ import annotations

import re

from samovar.core.surface import EMISSIVITY
from samovar.core.surfaces.plan import USUAL_SURFACE, Plan, plan_of
from samovar.core.units import Unreadable, number

PLAN_EXAMPLE = "underside, 314 x 222"
MOST_W = 2000.0
"""More than any chip on a bench takes."""
_SIZE = re.compile(r"(?P<w>[\d.,]+)\s*(?:mm)?\s*(?:x|×|by)\s*(?P<h>[\d.,]+)\s*(?:mm)?", re.I)


def typed_plan(line: str) -> Plan:
    """`underside, 314 x 222`: a plan without anything on it, mm. Raises Unreadable."""
    name, _, size = line.rpartition(",")
    found = _SIZE.fullmatch(size.strip())
    if not name.strip() or found is None:
        raise Unreadable(
            f"{line!r} is no plan; write its name, width and height in mm, such as {PLAN_EXAMPLE}"
        )
    width, height = (number(found[side], "314") for side in "wh")
    return plan_of({"name": name.strip(), "width_mm": width, "height_mm": height})


def typed_item(line: str) -> tuple[str, str]:
    """`vrm back, black tape`: a name and what its surface is of, board where nobody says. Raises Unreadable."""
    name, comma, made_of = (part.strip() for part in line.partition(","))
    if not name:
        raise Unreadable("nothing is written; give a name, such as vrm back")
    if comma and made_of.lower() not in EMISSIVITY:
        raise Unreadable(f"{made_of!r} is no surface; write one of {', '.join(EMISSIVITY)}")
    return name, made_of.lower() or USUAL_SURFACE


def typed_watts(line: str) -> float:
    """`95 W`: a heat of a chip. Raises Unreadable."""
    watts = number(line.lower().removesuffix("w").strip(), "95")
    if not 0.0 < watts <= MOST_W:
        raise Unreadable(f"{line} is no heat of a chip; write watts, such as 95")
    return watts
