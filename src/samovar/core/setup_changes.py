"""What was changed on a rig for one setup, in a form that a machine can compare, and how two setups differ."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from samovar.core.fields import Field, value_shown

CHANGES: tuple[Field, ...] = (
    Field("fan_rpm", "fan speed", "speed", section="cooling", example="1000 rpm"),
    Field("fan_share", "fan duty", "share", section="cooling"),
    Field("fan_profile", "fan profile", section="cooling", example="quiet"),
    Field("panel", "side panel", "choice", ("on", "off", "vented"), section="cooling"),
    Field(
        "orientation",
        "orientation",
        "choice",
        ("upright", "lying", "on edge", "upside down"),
        section="cooling",
    ),
    Field("paste", "paste", section="cooling", example="fresh Dab 6"),
    Field("sustained_power_w", "sustained budget", "power", section="firmware", example="95 W"),
    Field("burst_power_w", "burst budget", "power", section="firmware", example="142 W"),
    Field("burst_time_s", "burst time", "time", section="firmware", example="28 s"),
    Field("voltage_offset_v", "voltage offset", "voltage", section="firmware", example="-50 mV"),
    Field("power_plan", "power plan", section="firmware", example="balanced"),
    Field("background", "background programs", section="around it", example="browser open"),
    Field("surroundings", "surroundings", section="around it", example="in the flight case"),
    Field("other", "other", section="around it"),
)
"""Everything that can be changed, each with the value it then has."""
_BY_KEY = {f.key: f for f in CHANGES}


@dataclass(frozen=True, slots=True)
class Arrangement:
    """A setup as far as it can be compared: its rig, what is fitted as (kind, name), what was changed."""

    rig: str | None
    products: Sequence[tuple[str, str]] = ()
    changes: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Difference:
    """One thing in which two setups differ, and its two values in words."""

    what: str
    one: str
    other: str

    @property
    def words(self) -> str:
        """As a sentence's part: `fan speed: 1000 rpm, not 1500 rpm`."""
        return f"{self.what}: {self.one}, not {self.other}"


def change_words(changes: Mapping[str, Any]) -> list[str]:
    """The changes in words, in the order of CHANGES; older free ones behind them."""
    found = [f"{f.label} {value_shown(f, changes[f.key])}" for f in CHANGES if changes.get(f.key) is not None]
    return found + [f"{key} {value}" for key, value in changes.items() if key not in _BY_KEY]


def differences(a: Arrangement, b: Arrangement) -> list[Difference]:
    """Everything in which b's setup is not a's; empty where the two cannot be told apart."""
    found = []
    if a.rig != b.rig:
        found.append(Difference("rig", a.rig or "none named", b.rig or "none named"))
    kinds = list(dict.fromkeys(kind for kind, _ in (*a.products, *b.products)))
    for kind in kinds:
        one, other = (sorted(name for k, name in x.products if k == kind) for x in (a, b))
        if one != other:
            found.append(Difference(kind, ", ".join(one) or "none", ", ".join(other) or "none"))
    for key in dict.fromkeys([*(f.key for f in CHANGES), *a.changes, *b.changes]):
        one_value, other_value = a.changes.get(key), b.changes.get(key)
        if one_value == other_value:
            continue
        known = _BY_KEY.get(key)
        words = [
            "as the rig has it" if v is None else (value_shown(known, v) if known else str(v))
            for v in (one_value, other_value)
        ]
        found.append(Difference(known.label if known else key, *words))
    return found


def hand_work(before: Arrangement, after: Arrangement) -> list[str]:
    """What hands have to do to turn one setup into another, in the order it is done: `take off Tern 47`,
    `fit Fjord 280`, `side panel: off`."""
    moved = [f"go to {after.rig}"] if after.rig != before.rig and after.rig else []
    had, wanted = [name for _, name in before.products], [name for _, name in after.products]
    off = [f"take off {name}" for name in had if name not in wanted]
    fit = [f"fit {name}" for name in wanted if name not in had]
    products = {kind for kind, _ in (*before.products, *after.products)} | {"rig"}
    changed = [f"{d.what}: {d.other}" for d in differences(before, after) if d.what not in products]
    return [*moved, *off, *fit, *changed]
