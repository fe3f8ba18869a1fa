"""What stands for the die: the one definition that guard, course, Bench and readings go by.

A machine tells its chip's temperature in unlike ways. In this order: sensors with the role die (what a reviewer
confirmed for a rig is such a role), of the processor first; else those of the cores; else of the package. Where
several stand for it, as two sockets or eight cores do, the hottest of them at each moment is the die.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from samovar.core.quantity import Channel

STOP_LEAST_C, STOP_MOST_C = 20.0, 150.0
"""A stop temperature lies between a cool room and what no chip, regulator or drive survives."""
STANDS_FOR_DIE = (("die", "cpu"), ("die", None), ("core", "cpu"), ("core", None), ("package", None))
"""Roles, and the domain they count in (None: any), the first that a machine has."""
WHAT_TO_DO = (
    "nothing here stands for the die (no temperature of a die, a core or a package): "
    "confirm in the rig which sensor is the die"
)


def die_channels(channels: Sequence[Channel]) -> tuple[int, ...]:
    """The places of those channels that stand for the die; empty where nothing can."""
    for role, domain in STANDS_FOR_DIE:
        found = tuple(
            k
            for k, c in enumerate(channels)
            if c.quantity == "temperature" and c.role == role and domain in (None, c.domain)
        )
        if found:
            return found
    return ()


def hottest(values: Sequence[float]) -> float:
    """The highest of the values that are known, °C; NaN where none is."""
    known = [v for v in values if math.isfinite(v)]
    return max(known) if known else math.nan


def is_stop_temperature(limit_c: float) -> bool:
    """Whether a temperature can be one to stop at, °C."""
    return math.isfinite(limit_c) and STOP_LEAST_C <= limit_c <= STOP_MOST_C


def stop_range() -> str:
    """The range of stop temperatures in words."""
    return f"from {STOP_LEAST_C:.0f} to {STOP_MOST_C:.0f} °C"
