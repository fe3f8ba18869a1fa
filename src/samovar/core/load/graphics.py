"""What the graphics side takes of a budget that it has together with the processor; counted inside the package's power
or beside it, as the log itself shows."""

from __future__ import annotations

import numpy as np

from samovar.core.facts import Facts
from samovar.core.load.series import Mask, averaged
from samovar.core.load.signals import LoadSignals
from samovar.core.phases import mask_runs
from samovar.core.recording import Array

PART = 0.15
"""Of both together: what the graphics take less of is no reason for anything."""
LOST = 0.2
"""Of what the graphics took, or gave back, the processor lost, or got, at least this."""
SHORTEST_S = 4.0
USUAL_S = 20.0
"""Over so long a budget shows, whatever a governor does meanwhile."""
WIDTH_S, ASIDE_S = 10.0, 4.0
"""Before and after an edge so long is looked at, and so much around it left out, in which a governor reacts."""
SLOWED = 0.97
"""A clock that fell to less than this at an edge was slowed there."""
AWAKE_SHARE = 0.15
"""A power within this share of idle is no load's: a chip at its tightest budget draws more."""
AT_BUDGET = 0.04
"""So near to the stated budget, as a share, together they are at it."""


def counts_inside(load: LoadSignals, facts: Facts) -> bool:
    """Whether the package's power counts the graphics' too.

    At an edge of the graphics' power the package's goes up by as much if it counts them and had room, stays if it
    counts them and had none (the clock falls then), stays if it does not, and falls with the clock if they share a
    budget. Where no edge shows, what both draw in idle, and at the stated budget, tells.
    """
    power, gpu = load.power, load.gpu_power
    if power is None or gpu is None or load.from_wall or bool((gpu > 1.05 * power + 1.0).mean() > 0.02):
        return False
    votes = []
    for at, taken in _edges(load, gpu, power):
        before, after = _around(load, at)
        change = (float(np.median(power[after])) - float(np.median(power[before]))) / taken
        clock = float(np.median(load.clock[after])) / max(float(np.median(load.clock[before])), 1.0)
        slowed = clock < SLOWED if taken > 0 else clock > 1.0 / SLOWED
        votes.append(change > -0.4 if slowed else change > 0.5)
    if votes:
        return sum(votes) > 0.5 * len(votes)
    if not bool((gpu > PART * power).any()):
        return False
    if load.idle_w is not None and (load.gpu_idle_w or 0.0) > PART * float(np.median(power)):
        return load.idle_w > (load.gpu_idle_w or 0.0)
    sustained = facts.cpu.sustained_power_w
    return sustained is not None and abs(float(np.median(power)) / sustained - 1.0) < AT_BUDGET


def _edges(load: LoadSignals, gpu: Array, power: Array) -> list[tuple[int, float]]:
    """Where the graphics begin or end to take a good part while the processor works: the sample, and the W more."""
    found = []
    for a, b in mask_runs(gpu > PART * float(np.median(power))):
        for at in (a, b):
            before, after = _around(load, at)
            if before.stop - before.start < 2 or after.start >= len(gpu) - 2:
                continue
            if load.active[before].any() and load.active[after].any():
                taken = float(np.median(gpu[after])) - float(np.median(gpu[before]))
                if abs(taken) > 0.5 * PART * float(np.median(power)):
                    found.append((at, taken))
    return found


def _around(load: LoadSignals, at: int) -> tuple[slice, slice]:
    width, aside = load.samples(WIDTH_S), load.samples(ASIDE_S)
    return slice(max(0, at - aside - width), max(0, at - aside)), slice(at + aside, at + aside + width)


def own_power(load: LoadSignals, inside: bool) -> Array | None:
    """What the processor alone draws, W, shape (n,); None without a power."""
    return (
        load.power
        if load.power is None or load.gpu_power is None or not inside
        else load.power - load.gpu_power
    )


def awake(load: LoadSignals, inside: bool) -> Mask:
    """Where the processor draws more than in idle, shape (n,): asked where no utilisation says that it works."""
    own = own_power(load, inside)
    if load.demand_known or own is None or load.idle_w is None:
        return np.ones(len(load.clock), dtype=bool)
    idle_w = load.idle_w - (load.gpu_idle_w or 0.0 if inside else 0.0)
    return np.asarray(own > idle_w + AWAKE_SHARE * (float(np.percentile(own, 75)) - idle_w))


def eaten_by_graphics(load: LoadSignals, facts: Facts, inside: bool) -> Mask:
    """Where the graphics side takes a noticeable part of the sum, and the processor gets less than it got without it,
    or than it is known to be allowed. Shape (n,)."""
    out = np.zeros(len(load.clock), dtype=bool)
    own, gpu = own_power(load, inside), load.gpu_power
    if own is None or gpu is None or load.power is None or load.from_wall:
        return out
    edges = _edges(load, gpu, load.power)
    for a, b in mask_runs((gpu > PART * (own + gpu)) & (gpu > 0.5 * PART * float(np.median(load.power)))):
        if load.seconds(a, b) < SHORTEST_S:
            continue
        lost = []
        for at, taken in edges:
            if min(abs(at - a), abs(at - b)) <= load.samples(WIDTH_S):
                before, after = _around(load, at)
                lost.append((float(np.median(own[before])) - float(np.median(own[after]))) / taken)
        if lost:
            out[a:b] = max(lost) > LOST
            continue
        # The graphics side was there from the beginning to the end: only a known budget, or a good part, tells. It may give back
        # what it took, as it slows down itself: so each moment tells for itself.
        own_w, gpu_w = float(np.median(own[a:b])), float(np.median(gpu[a:b]))
        sustained = facts.cpu.sustained_power_w
        if sustained is not None:
            width = load.samples(USUAL_S)
            near, beside = averaged(own[a:b], width), averaged(gpu[a:b], width)
            out[a:b] = (near < (1.0 - AT_BUDGET) * sustained) & (near + beside > 0.9 * sustained)
        else:
            out[a:b] = gpu_w > 0.25 * (own_w + gpu_w)
    return out
