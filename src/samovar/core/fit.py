"""Does it fit: a product's outline against the clearances of a rig, each answer with its margin.

Heights of coolers and panels are counted from the processor's lid, heights of memory modules and the free
height under a cooler's edge from the board, as both trades quote them.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from samovar.core.fields import Field
from samovar.core.product import Product
from samovar.core.units import shown

QUOTED_TO_M = 0.001
"""Makers quote such figures to the millimetre: a margin under it cannot be told from touching."""

CLEARANCES: tuple[Field, ...] = (
    Field("panel_m", "lid to panel", "length", example="165 mm", section="clearances"),
    Field(
        "memory_distance_m", "processor's centre to memory", "length", example="55 mm", section="clearances"
    ),
    Field("memory_height_m", "height of the memory", "length", example="44 mm", section="clearances"),
    Field("above_board_m", "board to panel", "length", example="172 mm", section="clearances"),
    Field("storage_height_m", "room over the storage slot", "length", example="15 mm", section="clearances"),
    Field("radiators", "radiator mounts", "words", example="280 top 55, 240 front 60", section="clearances"),
    Field("fan_mounts", "fan mounts", "words", example="140 rear, 120 front", section="clearances"),
    Field("socket", "socket", example="HL8", section="clearances"),
    Field("board_format", "board format", example="micro", section="clearances"),
)
"""What a rig says of the room in it. A mount is written as size in mm, place, and room for its depth in mm."""

STATES = ("fits", "touches", "does not fit", "not known")


@dataclass(frozen=True, slots=True)
class FitItem:
    """One check. `margin_m` is the room left (negative: too much by so much), None where it is not a length or
    not known; `missing` names the figures that would tell."""

    name: str
    state: str
    margin_m: float | None = None
    words: str = ""
    missing: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Mount:
    """A place for a radiator or fan: its length or size and the room for its depth, m (None: not known)."""

    length_m: float
    place: str
    depth_m: float | None = None


def mounts_of(texts: list[str] | tuple[str, ...] | None) -> list[Mount]:
    """Mounts as written (`280 top 55`); what cannot be read is left out."""
    found = []
    for text in texts or ():
        match = re.fullmatch(r"\s*(\d+)\s*(?:mm)?\s*([^\d]*?)\s*(?:(\d+)\s*(?:mm)?)?\s*", text)
        if match and 40 <= int(match[1]) <= 600:
            depth = int(match[3]) / 1000.0 if match[3] else None
            found.append(Mount(int(match[1]) / 1000.0, match[2].strip() or "mount", depth))
    return found


def _margin(name: str, room: float | None, need: float | None, room_is: str, need_is: str) -> FitItem:
    """Room against need, both m; `room_is` and `need_is` name the figures."""
    missing = tuple(label for label, value in ((room_is, room), (need_is, need)) if value is None)
    if room is None or need is None:
        return FitItem(name, "not known", None, f"needs the {' and the '.join(missing)}", missing)
    margin = room - need
    size = shown("length", abs(margin))
    if abs(margin) < QUOTED_TO_M:
        return FitItem(
            name,
            "touches",
            margin,
            f"{size} {'left' if margin >= 0 else 'too much'}: closer than such figures are quoted",
        )
    if margin > 0:
        return FitItem(name, "fits", margin, f"fits by {size}")
    return FitItem(name, "does not fit", margin, f"too much by {size}")


def _memory(product: Mapping[str, Any], rig: Mapping[str, Any]) -> FitItem:
    over, away = product.get("overhang_m"), rig.get("memory_distance_m")
    if over is None or away is None:
        return _margin(
            "memory beside", away, over, "processor's centre to memory", "centre to edge over the memory"
        )
    if over <= away:
        return FitItem(
            "memory beside", "fits", away - over, f"ends {shown('length', away - over)} before the memory"
        )
    return _margin(
        "memory under the edge", product.get("memory_clearance_m"), rig.get("memory_height_m"),
        "free height under the edge", "height of the memory",
    )  # fmt: skip


def _listed(name: str, offered: Any, wanted: Any, offered_is: str, wanted_is: str) -> FitItem:
    missing = tuple(label for label, value in ((offered_is, offered), (wanted_is, wanted)) if not value)
    if missing:
        return FitItem(name, "not known", None, f"needs the {' and the '.join(missing)}", missing)
    options = [str(o) for o in (offered if isinstance(offered, list | tuple) else [offered])]
    if str(wanted).lower() in [o.lower() for o in options]:
        return FitItem(name, "fits", None, f"{wanted} is among {', '.join(options)}")
    return FitItem(name, "does not fit", None, f"{wanted} is not among {', '.join(options)}")


def _radiator(product: Mapping[str, Any], rig: Mapping[str, Any]) -> FitItem:
    length, mounts = product.get("radiator_length_m"), mounts_of(rig.get("radiators"))
    missing = tuple(
        label
        for label, value in (("radiator length", length), ("radiator mounts", mounts or None))
        if value is None
    )
    if missing or length is None:
        return FitItem("radiator", "not known", None, f"needs the {' and the '.join(missing)}", missing)
    long_enough = [m for m in mounts if m.length_m >= length]
    if not long_enough:
        best = max(mounts, key=lambda m: m.length_m)
        return FitItem(
            "radiator",
            "does not fit",
            best.length_m - length,
            f"longer than the {best.place} mount by {shown('length', length - best.length_m)}",
        )
    depth = radiator_depth_m(product)
    # The mount with the most room; one whose depth is not known may have less than another that is.
    mount = max(long_enough, key=lambda m: -1.0 if m.depth_m is None else m.depth_m)
    found = _margin(
        f"radiator, {mount.place}",
        mount.depth_m,
        depth,
        f"depth of the {mount.place} mount",
        "radiator and fan thickness",
    )
    return found


def radiator_depth_m(product: Mapping[str, Any]) -> float | None:
    """Radiator and its fans, m; None where either is not known."""
    parts = [product.get("radiator_thickness_m"), product.get("fan_thickness_m")]
    return None if any(p is None for p in parts) else float(sum(p for p in parts if p is not None))


def _fan(product: Mapping[str, Any], rig: Mapping[str, Any]) -> FitItem:
    size, mounts = product.get("fan_size_m"), mounts_of(rig.get("fan_mounts"))
    missing = tuple(
        label for label, value in (("fan size", size), ("fan mounts", mounts or None)) if value is None
    )
    if missing or size is None:
        return FitItem("fan mount", "not known", None, f"needs the {' and the '.join(missing)}", missing)
    fitting = [m for m in mounts if abs(m.length_m - size) < QUOTED_TO_M]
    if fitting:
        return FitItem("fan mount", "fits", None, f"{shown('length', size)}: {fitting[0].place}")
    offered = ", ".join(shown("length", m.length_m) for m in mounts)
    return FitItem("fan mount", "does not fit", None, f"{shown('length', size)} is none of {offered}")


def check_fit(product: Product, rig: Mapping[str, Any]) -> list[FitItem]:
    """Every check that makes sense for this kind of product; none where nothing of it could be in the way.

    Args:
        rig: values by the keys of CLEARANCES, those that are known.
    """
    spec = product.specification
    socket = _listed("socket", spec.get("sockets"), rig.get("socket"), "product's sockets", "rig's socket")
    if product.kind in ("air cooler", "passive heatsink"):
        height = _margin(
            "height", rig.get("panel_m"), spec.get("height_m"), "lid to panel", "product's height"
        )
        return [height, _memory(spec, rig), socket]
    if product.kind == "liquid cooler":
        block = _margin(
            "block height", rig.get("panel_m"), spec.get("height_m"), "lid to panel", "height of the block"
        )
        return [_radiator(spec, rig), block, socket]
    if product.kind == "memory cooler":
        room, memory = rig.get("above_board_m"), rig.get("memory_height_m")
        left = None if room is None or memory is None else room - memory
        return [
            _margin(
                "height over the memory",
                left,
                spec.get("height_m"),
                "board to panel and height of the memory",
                "product's height",
            )
        ]
    if product.kind == "storage heatsink":
        return [
            _margin(
                "height",
                rig.get("storage_height_m"),
                spec.get("height_m"),
                "room over the storage slot",
                "product's height",
            )
        ]
    if product.kind in ("case", "heatsink case", "small-board case"):
        return [
            _listed(
                "board", spec.get("boards"), rig.get("board_format"), "boards it takes", "rig's board format"
            )
        ]
    if product.kind == "board":
        return [_listed("socket", spec.get("socket"), rig.get("socket"), "board's socket", "rig's socket")]
    if product.kind == "fan":
        return [_fan(spec, rig)]
    return []


def verdict(items: list[FitItem]) -> str:
    """All checks in one of STATES: the worst of them; empty where there is nothing to check."""
    order = ("does not fit", "touches", "not known", "fits")
    return next((state for state in order if any(i.state == state for i in items)), "")


def summary(items: list[FitItem]) -> str:
    """The verdict in a few words, with the margin that decides."""
    state = verdict(items)
    deciding = [i for i in items if i.state == state]
    if state == "fits":
        tightest = min(
            (i for i in items if i.margin_m is not None), key=lambda i: i.margin_m or 0.0, default=None
        )
        return (
            f"fits by {shown('length', tightest.margin_m)}"
            if tightest and tightest.margin_m is not None
            else "fits"
        )
    if state == "not known":
        return f"not known: {deciding[0].words}"
    return f"{state}: {deciding[0].name} {deciding[0].words}" if state else "nothing to check"
