"""Sawteeth: a clock that gives way each time the die comes up to one temperature, and lets it fall, again and again."""

from __future__ import annotations

import numpy as np

from samovar.core.load.series import Mask
from samovar.core.load.signals import LoadSignals
from samovar.core.phases import mask_runs
from samovar.core.recording import Array

TOOTH_K = 2.0
"""A tooth lets the die fall by as much: less is noise."""
TOOTH_SHARE = 0.94
"""At a tooth the clock falls to less than this share within a second: a budget's end does so but once."""
TOOTH_S = 120.0
"""Teeth further apart are not one sawtooth's."""
TOOTH_LEVEL_K = 3.5
"""A log catches each tooth's point a little early or late: so far apart they may look."""
LEAST_TEETH = 3
PAUSE_S = 4.0
"""A load that pauses so long and begins anew ends its burst as warm each time: that is the load's rhythm, no limit."""


def teeth(load: LoadSignals, allowed: Mask) -> list[slice]:
    """Stretches of sawteeth, from the first tooth to the end of the last. `allowed`, shape (n,), is where such a thing may be looked for."""
    if load.raw_die is None:
        return []
    clock, die, n = load.raw_clock, load.raw_die, len(load.raw_clock)
    back = max(1, load.samples(1.0))
    drops = np.zeros(n, dtype=bool)
    with np.errstate(invalid="ignore"):
        drops[back:] = clock[back:] < TOOTH_SHARE * clock[:-back]
    off = ~allowed & load.observed
    groups: list[list[tuple[int, float]]] = []
    for a, b in mask_runs(drops & allowed):
        top = _extreme(die[max(0, a - 2 * back) : a + back + 1], 1.0)
        after = _extreme(die[a : min(n, b + max(3, load.samples(8.0)))], -1.0)
        if top is None or after is None or top - after < TOOTH_K:
            continue
        last = groups[-1] if groups else None
        if (
            last is None
            or _pauses(off[last[-1][0] : a], load)
            or load.time_s[a] - load.time_s[last[-1][0]] > TOOTH_S
        ):
            groups.append([(a, top)])
        elif abs(top - _level(last)) < TOOTH_LEVEL_K:
            last.append((a, top))
        elif top > _level(last):
            groups.append([(a, top)])
    found = []
    for group in groups:
        if len(group) >= LEAST_TEETH:
            spacing_s = float(np.median(np.diff(load.time_s[[a for a, _ in group]])))
            found.append(slice(group[0][0], min(n, group[-1][0] + load.samples(1.5 * spacing_s))))
    return found


def _pauses(off: Mask, load: LoadSignals) -> bool:
    return any(b - a >= load.samples(PAUSE_S) for a, b in mask_runs(off))


def _level(group: list[tuple[int, float]]) -> float:
    return max(top for _, top in group[-6:])


def _extreme(x: Array, sign: float) -> float | None:
    known = x[np.isfinite(x)]
    return float(sign * (sign * known).max()) if len(known) else None
