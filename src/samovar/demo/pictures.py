"""The plans and temperature pictures of the demo: the relay site's board from its front, the laptop from above and from below."""

from __future__ import annotations

from collections.abc import Mapping

from samovar.core.surfaces.picture import Picture
from samovar.core.surfaces.plan import AREA, PART, SPOT, Item, Plan
from samovar.demo.plan import PlannedRun
from samovar.demo.record import RecordedRun
from samovar.simulator.plate import Warm, face_c, photographed

FRONT = Plan(
    "front", 170.0, 170.0,
    (
        Item("connectors", PART, 0.0, 0.0, 170.0, 22.0),
        Item("memory", PART, 128.0, 44.0, 22.0, 108.0),
        Item("heatsink", AREA, 58.0, 62.0, 54.0, 54.0, "anodised metal"),
        Item("vrm", AREA, 16.0, 56.0, 14.0, 66.0, "black tape"),
        Item("vrm coils", SPOT, 42.0, 88.0, made_of="black tape"),
        Item("chipset", SPOT, 92.0, 146.0, made_of="ceramic"),
    ),
)  # fmt: skip
BACK = Plan("back", 170.0, 170.0, (Item("vrm back", SPOT, 147.0, 88.0, made_of="black tape"),))
ABOVE = Plan(
    "keys and palm rest", 314.0, 222.0,
    (
        Item("keys", PART, 22.0, 24.0, 270.0, 104.0),
        Item("touch pad", PART, 102.0, 140.0, 110.0, 70.0),
        Item("left palm", AREA, 18.0, 144.0, 74.0, 62.0, "matt paint"),
        Item("right palm", AREA, 222.0, 144.0, 74.0, 62.0, "matt paint"),
        Item("over the keys", SPOT, 168.0, 14.0, made_of="matt paint"),
    ),
)  # fmt: skip
BELOW = Plan(
    "underside", 314.0, 222.0,
    (
        Item("inlet", PART, 34.0, 26.0, 50.0, 50.0),
        Item("other inlet", PART, 230.0, 26.0, 50.0, 50.0),
        Item("under the chips", AREA, 104.0, 30.0, 106.0, 48.0, "matt paint"),
        Item("on the knees", AREA, 40.0, 128.0, 234.0, 72.0, "matt paint"),
    ),
)  # fmt: skip
PLANS: Mapping[str, tuple[Plan, ...]] = {"relay site": (FRONT, BACK), "field laptop": (ABOVE, BELOW)}
"""By review."""
BEFORE_S = 30.0
"""So long before the load ends a picture is taken."""
PIXEL_MM = 1.6
_COILS = 0.74
_KEYS, _CHIPS = 0.26, 0.42
"""Shares of the rise from the air in the case to the cooler's that the laptop's faces show above it."""


def pictures_of(plan: PlannedRun, run: RecordedRun) -> list[tuple[str, Picture]]:
    """What a camera would have shown towards the end of a run's load, each with the name of its plan."""
    loads = [m.at_s for m in run.recording.marks if m.text == "load off"]
    if run.state != "sealed" or not loads or plan.review not in PLANS:
        return []
    at_s, room_c, warmth = loads[-1] - BEFORE_S, plan.room_c, run.warmth
    seed = 1000 * plan.seed
    if plan.review == "relay site":
        warm = [
            Warm(16.0, 56.0, 14.0, 66.0, warmth.regulator_c),
            Warm(36.0, 60.0, 12.0, 58.0, room_c + _COILS * (warmth.regulator_c - room_c)),
            Warm(58.0, 62.0, 54.0, 54.0, warmth.cooler_c),
        ]
        shown = face_c(FRONT, warm, warmth.case_c, 16.0, PIXEL_MM)
        return [(FRONT.name, photographed(shown, FRONT, room_c, at_s, "front.csv", seed))]
    over_k = warmth.cooler_c - warmth.case_c
    above = [
        Warm(110.0, 10.0, 94.0, 34.0, warmth.case_c + _KEYS * over_k),
        Warm(40.0, 150.0, 60.0, 50.0, room_c + 0.5 * (warmth.case_c - room_c)),
    ]
    below = [
        Warm(110.0, 36.0, 46.0, 36.0, warmth.case_c + _CHIPS * over_k),
        Warm(166.0, 36.0, 40.0, 36.0, warmth.case_c + 0.9 * _CHIPS * over_k),
    ]
    return [
        (
            face.name,
            photographed(
                face_c(face, warm, room_c, spread, PIXEL_MM), face, room_c, at_s, f"{name}.csv", seed + k
            ),
        )
        for k, (face, warm, spread, name) in enumerate(
            ((ABOVE, above, 30.0, "above"), (BELOW, below, 34.0, "below"))
        )
    ]
