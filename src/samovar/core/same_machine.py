"""Whether the machine that is plugged in is the one a rig's facts were entered for."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

TELLING = {
    "cpu.name": "processor",
    "cpu.cores": "cores",
    "cpu.temperature_limit_c": "temperature limit",
    "board": "board",
}
"""What no firmware setting, part or budget changes: by the keys of `core.rig.RIG_FIELDS`, in words."""
LIMIT_APART_K = 0.6
"""Limits are stated in whole degrees; kernels tell some of them half a degree off."""


def unlike_machine(tells: Mapping[str, Any], entered: Mapping[str, Any]) -> list[str]:
    """In what the machine that is plugged in differs from a rig, in words; empty where nothing known speaks against it.

    Args:
        tells: what the machine says of itself.
        entered: what is known of the rig; both by the keys of `core.rig.RIG_FIELDS`.
    """
    found = []
    for key, word in TELLING.items():
        here, there = tells.get(key), entered.get(key)
        if here is None or there is None or _alike(here, there):
            continue
        unit = " °C" if key.endswith("_c") else ""
        found.append(f"{word} {_text(here)}{unit}, not {_text(there)}{unit}")
    return found


def _alike(here: Any, there: Any) -> bool:
    if isinstance(here, int | float) and isinstance(there, int | float):
        return abs(here - there) <= (LIMIT_APART_K if isinstance(here, float) else 0)
    one, other = (" ".join(str(x).casefold().split()) for x in (here, there))
    # A kernel's name of a chip has more words than the one people use, and the other way round.
    return one in other or other in one


def _text(value: Any) -> str:
    return f"{value:g}" if isinstance(value, int | float) else str(value)
