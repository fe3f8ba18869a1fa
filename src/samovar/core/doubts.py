"""Facts that the recording speaks against: noticed and said, never silently believed or overruled."""

from __future__ import annotations

import numpy as np

from samovar.core.facts import Facts
from samovar.core.held.stretches import HeldStretch
from samovar.core.phases import Phase
from samovar.core.recording import Array, Recording
from samovar.core.window import inside

NOTICED_K = 3.0
NOTICED_SHARE = 0.04
LONG_ENOUGH_S = 30.0
EXCESS_S = 10.0
STANDS_STILL_S = 120.0
"""What sits on a chip has warmed by a step of any sensor within so much of a load."""
MOVED = 10.0
"""K or W: a load that moves nothing by so much need not move a regulator or a wall meter by a step either."""
LEAST_ALIKE = 10
"""Fewer values tell nothing of how they move."""
MOVES_WITH_LOAD = {("temperature", role) for role in ("die", "core", "gpu", "hotspot", "vrm")} | {
    ("power", role) for role in ("package", "wall")
}
"""What cannot stand still while a load is put on, by quantity and role."""


def doubts(recording: Recording, load: Phase | None, held: list[HeldStretch], facts: Facts) -> list[str]:
    """One sentence for each fact about the processor that this recording contradicts, with both figures and what to
    check, and for each sensor that is stuck; empty where all agree, or nothing was said."""
    if load is None:
        return []
    found = [
        *_limit(recording, load, held, facts),
        *_budget(recording, load, held, facts),
        *_clocks(recording, load, facts),
    ]
    return [*(f"facts: {text}" for text in found), *_stuck(recording, load)]


def _stuck(recording: Recording, load: Phase) -> list[str]:
    """Sensors of what warms, or draws, that gave one value alone before a load and well into it, while another moved."""
    if load.duration_s < STANDS_STILL_S:
        return []
    before = recording.between(max(0.0, load.start_s - LONG_ENOUGH_S), load.start_s)
    after = recording.between(load.start_s, load.start_s + STANDS_STILL_S)
    still: list[str] = []
    moved = False
    for k, channel in enumerate(recording.channels):
        if (channel.quantity, channel.role) not in MOVES_WITH_LOAD:
            continue
        idle, loaded = (
            row[np.isfinite(row)] for row in (recording.values[k, before], recording.values[k, after])
        )
        if min(len(idle), len(loaded)) < LEAST_ALIKE:
            continue
        moved |= bool(loaded.max() - idle.mean() >= MOVED)
        if np.ptp(np.concatenate([idle, loaded])) == 0.0:
            still.append(
                f"{channel.name}: stuck at {idle[0]:g} {channel.unit} before the load and {STANDS_STILL_S / 60:.0f} min "
                "into it: check its probe"
            )
    return still if moved else []


def _limit(recording: Recording, load: Phase, held: list[HeldStretch], facts: Facts) -> list[str]:
    limit = facts.cpu.temperature_limit_c
    if limit is None or recording.die is None:
        return []
    die = recording.values[recording.die]
    hot = [h for h in held if h.by == "thermal"]
    if sum(h.end_s - h.start_s for h in hot) >= LONG_ENOUGH_S:
        rows = np.concatenate([die[recording.between(h.start_s, h.end_s)] for h in hot])
        rows = rows[np.isfinite(rows)]
        edge = float(np.percentile(rows, 90)) if len(rows) else limit
        if edge < limit - NOTICED_K:
            return [
                f"the die was held at {edge:.0f} °C, {limit - edge:.0f} K under the stated limit of {limit:.0f} °C: "
                "check temperature_limit_c"
            ]
    over_s, most = _time_over(recording, die, load, limit + NOTICED_K)
    if over_s >= EXCESS_S:
        return [
            f"the die went up to {most:.0f} °C, over the stated limit of {limit:.0f} °C: check temperature_limit_c"
        ]
    return []


def _budget(recording: Recording, load: Phase, held: list[HeldStretch], facts: Facts) -> list[str]:
    sustained, index = facts.cpu.sustained_power_w, recording.package_power
    if sustained is None or index is None or any(h.by == "shared" for h in held):
        # Beside the graphics side a part of the budget is all there is.
        return []
    known = [w for w in (sustained, facts.cpu.burst_power_w) if w is not None]
    late = [h for h in held if h.by == "power" and h.end_s - h.start_s >= LONG_ENOUGH_S]
    if not late:
        return []
    row = recording.values[index][recording.between(late[-1].start_s, late[-1].end_s)]
    row = row[np.isfinite(row)]
    if len(row) == 0:
        return []
    level = float(np.median(row))
    if all(abs(level - w) > NOTICED_SHARE * w for w in known):
        return [
            f"the power was held at {level:.0f} W where {sustained:.0f} W are stated as sustained: check sustained_power_w"
        ]
    return []


def _clocks(recording: Recording, load: Phase, facts: Facts) -> list[str]:
    base, boost, clock = facts.cpu.base_clock_mhz, facts.cpu.boost_clock_mhz, recording.cpu_clock()
    if base is not None and boost is not None and base > boost:
        return [f"a base clock of {base:.0f} MHz over a boost clock of {boost:.0f} MHz: check both"]
    if boost is None or clock is None:
        return []
    over_s, most = _time_over(recording, clock, load, boost * (1.0 + NOTICED_SHARE))
    if over_s >= EXCESS_S:
        return [
            f"the cores ran at {most:.0f} MHz, over the stated boost of {boost:.0f} MHz: check boost_clock_mhz"
        ]
    return []


def _time_over(recording: Recording, row: Array, load: Phase, level: float) -> tuple[float, float]:
    """For how many seconds of the load a row was over a level, and the level it kept for that time at least."""
    part = row[inside(recording, load)]
    over = part[np.isfinite(part) & (part > level)]
    if len(over) == 0:
        return 0.0, level
    return len(over) * (recording.interval_s or 1.0), float(np.median(over))
