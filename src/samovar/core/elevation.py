"""A side elevation of a product on its rig, in millimetres: boxes, lines and dimensions, to be drawn anywhere.

x runs along the board, 0 at the processor's centre, the memory to the right; z up from the board, whose upper
side stands for the processor's lid as well. What is not known has a place on paper but no size: it is marked.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from samovar.core.fit import FitItem, check_fit, mounts_of, radiator_depth_m
from samovar.core.product import Product

DRAWN = ("air cooler", "passive heatsink", "liquid cooler", "storage heatsink", "memory cooler")
_MODULES, _PITCH_MM, _MODULE_MM = 4, 9.5, 6.0


@dataclass(frozen=True, slots=True)
class Box:
    """A part seen from the side, mm. `part`: board, processor, cooler, memory, room or radiator; `known` False
    where its size is a stand-in."""

    name: str
    part: str
    x0: float
    x1: float
    z0: float
    z1: float
    known: bool = True


@dataclass(frozen=True, slots=True)
class Dimension:
    """A dimension line between two points of one axis, mm; `at` is its place on the other axis. `state`: one
    of `fit.STATES` for a clearance, empty for a plain measure."""

    text: str
    axis: str
    start: float
    end: float
    at: float
    state: str = ""


@dataclass(frozen=True, slots=True)
class Elevation:
    """The whole drawing: its boxes from back to front, the panel's height where there is one, dimensions."""

    title: str
    boxes: tuple[Box, ...]
    dimensions: tuple[Dimension, ...]
    panel_mm: float | None
    panel_known: bool
    items: tuple[FitItem, ...]

    def bounds(self, text_mm: float) -> tuple[float, float, float, float]:
        """x0, x1, z0, z1 of everything drawn, mm, with so much room for words beside dimension lines."""
        # A dimension's words stand outside its line: they need room of their own.
        xs = [v for b in self.boxes for v in (b.x0, b.x1)]
        xs += [d.at + (text_mm if d.at > 0 else -text_mm) for d in self.dimensions if d.axis == "z"]
        zs = [v for b in self.boxes for v in (b.z0, b.z1)] + [d.at for d in self.dimensions if d.axis == "x"]
        zs += [] if self.panel_mm is None else [self.panel_mm]
        return min(xs) - 4.0, max(xs) + 4.0, min(zs) - 4.0, max(zs) + 6.0


def _mm(value: float | None, stand_in: float) -> tuple[float, bool]:
    return (1000.0 * value, True) if value is not None else (stand_in, False)


def _text(millimetres: float, known: bool) -> str:
    return f"{millimetres:.4g}" if known else "?"


def _state(items: list[FitItem], *names: str) -> str:
    return next((i.state for i in items if any(i.name.startswith(n) for n in names)), "not known")


def elevation(product: Product, rig: Mapping[str, Any]) -> Elevation | None:
    """The drawing for a product on a rig with these clearances; None for kinds that have no height to draw."""
    if product.kind not in DRAWN:
        return None
    items = check_fit(product, rig)
    if product.kind == "storage heatsink":
        return _over_storage(product, rig, items)
    return _over_processor(product, rig, items)


def _over_storage(product: Product, rig: Mapping[str, Any], items: list[FitItem]) -> Elevation:
    height, height_known = _mm(product.specification.get("height_m"), 10.0)
    room, room_known = _mm(rig.get("storage_height_m"), height * 1.4)
    half = _mm(product.specification.get("depth_m"), 80.0)[0] / 2.0
    boxes = (
        Box("board", "board", -half - 12, half + 12, -1.6, 0.0),
        Box("storage", "memory", -40.0, 40.0, 0.0, 2.4),
        Box(product.name, "cooler", -half, half, 2.4, 2.4 + height, height_known),
    )
    dimensions = (
        Dimension(f"height {_text(height, height_known)}", "z", 2.4, 2.4 + height, -half - 6),
        Dimension(f"room {_text(room, room_known)}", "z", 2.4, 2.4 + room, half + 6, _state(items, "height")),
    )
    return Elevation(product.name, boxes, dimensions, 2.4 + room, room_known, tuple(items))


def _over_processor(product: Product, rig: Mapping[str, Any], items: list[FitItem]) -> Elevation:
    spec = product.specification
    height, height_known = _mm(spec.get("height_m"), 60.0)
    panel_source = rig.get("panel_m") if product.kind != "memory cooler" else rig.get("above_board_m")
    panel, panel_known = _mm(panel_source, height + 24.0)
    away, away_known = _mm(rig.get("memory_distance_m"), 58.0)
    modules_mm, modules_known = _mm(rig.get("memory_height_m"), 32.0)
    memory_end = away + (_MODULES - 1) * _PITCH_MM + _MODULE_MM
    boxes = [Box("processor", "processor", -20.0, 20.0, -3.0, 0.0)]
    memory = [
        Box(
            "memory",
            "memory",
            away + k * _PITCH_MM,
            away + k * _PITCH_MM + _MODULE_MM,
            0.0,
            modules_mm,
            modules_known and away_known,
        )
        for k in range(_MODULES)
    ]
    dimensions: list[Dimension] = []
    left = -56.0
    right = memory_end
    if product.kind in ("air cooler", "passive heatsink"):
        depth, depth_known = _mm(spec.get("depth_m"), 100.0)
        over, over_known = _mm(spec.get("overhang_m"), depth / 2.0)
        free, free_known = _mm(spec.get("memory_clearance_m"), min(38.0, 0.45 * height))
        left, right = over - depth, max(memory_end, over)
        free = min(free, height - 2.0)
        boxes.append(Box("base", "cooler", -19.0, 19.0, 0.0, min(free, height), height_known))
        boxes.append(
            Box(product.name, "cooler", left, over, free, height, height_known and depth_known and over_known)
        )
        edge = over + 0.0
        reach = _state(items, "memory")
        dimensions.append(
            Dimension(
                f"edge {_text(over, over_known)}",
                "x",
                0.0,
                edge,
                height + 5.0 if height + 9 < panel else free - 4.0,
            )
        )
        dimensions.append(
            Dimension(
                f"under the edge {_text(free, free_known)}",
                "z",
                0.0,
                free,
                max(right, memory_end) + 74.0,
                reach,
            )
        )
        if free_known and modules_known and free > modules_mm and edge > away:
            # What decides it: the room that is left between the modules and the edge over them.
            dimensions.append(
                Dimension(f"gap {free - modules_mm:.1f}", "z", modules_mm, free, memory_end + 3.0, reach)
            )
    elif product.kind == "liquid cooler":
        boxes.append(Box("block", "cooler", -34.0, 34.0, 0.0, height, height_known))
        left = -50.0
        right = _radiator(product, rig, items, boxes, dimensions, panel, memory_end + 64.0)
    else:
        boxes.append(
            Box(
                product.name,
                "cooler",
                away - 4.0,
                memory_end + 4.0,
                modules_mm,
                modules_mm + height,
                height_known,
            )
        )
    boxes += memory
    if product.kind != "memory cooler":
        dimensions.append(Dimension(f"height {_text(height, height_known)}", "z", 0.0, height, left - 10.0))
    else:
        dimensions.append(
            Dimension(
                f"height {_text(height, height_known)}", "z", modules_mm, modules_mm + height, left - 10.0
            )
        )
    top = modules_mm + height if product.kind == "memory cooler" else height
    names = ("block",) if product.kind == "liquid cooler" else ("height",)
    gap = panel - top
    known = panel_known and height_known
    dimensions.append(
        Dimension(
            f"{'gap' if gap >= 0 else 'over by'} {_text(abs(gap), known)}",
            "z",
            min(top, panel),
            max(top, panel),
            left - 10.0,
            _state(items, *names),
        )
    )
    dimensions.append(Dimension(f"panel {_text(panel, panel_known)}", "z", 0.0, panel, left - 68.0))
    # Beside a bay there is no room for its words: the memory's height then stands to its right at once.
    beside = memory_end + 8.0 if product.kind == "liquid cooler" else max(right, memory_end) + 8.0
    dimensions.append(Dimension(f"memory {_text(modules_mm, modules_known)}", "z", 0.0, modules_mm, beside))
    dimensions.append(Dimension(f"to the memory {_text(away, away_known)}", "x", 0.0, away, -12.0))
    x0, x1 = min(left - 72.0, -70.0), max(right, memory_end) + 8.0
    boxes.insert(0, Box("board", "board", x0 + 10.0, x1, -4.6, -3.0))
    return Elevation(product.name, tuple(boxes), tuple(dimensions), panel, panel_known, tuple(items))


def _radiator(
    product: Product, rig: Mapping[str, Any], items: list[FitItem], boxes: list[Box], dimensions: list[Dimension],
    panel: float, begin: float,
) -> float:  # fmt: skip
    """The radiator in the mount that has most room, drawn beside the board; answers where it ends, mm."""
    spec = product.specification
    length, length_known = _mm(spec.get("radiator_length_m"), 240.0)
    depth, depth_known = _mm(radiator_depth_m(spec), 52.0)
    mounts = mounts_of(rig.get("radiators"))
    fitting = [m for m in mounts if not length_known or 1000 * m.length_m >= length] or mounts
    mount = max(fitting, key=lambda m: -1.0 if m.depth_m is None else m.depth_m) if fitting else None
    room, room_known = _mm(mount.depth_m if mount else None, depth + 10.0)
    room_length, mount_known = _mm(mount.length_m if mount else None, length)
    # A bay of its own beside the board: which way it faces in the case does not matter for what fits in it.
    bottom = max(16.0, 0.5 * (panel - max(room, depth)))
    name = f"{mount.place} mount" if mount else "mount"
    boxes.append(
        Box(name, "room", begin, begin + room_length, bottom, bottom + room, room_known and mount_known)
    )
    known = length_known and depth_known
    boxes.append(Box(product.name, "radiator", begin, begin + length, bottom, bottom + depth, known))
    end = begin + max(length, room_length)
    room_text = f"{name} {_text(room_length, mount_known)} x {_text(room, room_known)}"
    dimensions.append(Dimension(room_text, "x", begin, begin + room_length, bottom + max(room, depth) + 10.0))
    dimensions.append(
        Dimension(f"radiator {_text(length, length_known)}", "x", begin, begin + length, bottom - 10.0)
    )
    state = _state(items, "radiator")
    dimensions.append(
        Dimension(f"depth {_text(depth, depth_known)}", "z", bottom, bottom + depth, end + 8.0, state)
    )
    return end + 16.0
