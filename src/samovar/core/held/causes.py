"""The causes: for each a score of what speaks for it at every moment of a load, in one table.

A score says how strong the evidence is: a limit that is STATED and reached, a quantity SEEN to be kept while others
moved, a level LIKE one at which that was seen elsewhere in the load, a state that FITS and that nothing contradicts, or
nothing but the loss itself. To add a cause, write its function and put it in SHOWN.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from samovar.core.facts import Facts
from samovar.core.held.kept import (
    CLOCK,
    CLOCK_SHARE,
    FLOOR,
    POWER,
    SHORTEST_TEMPERATURE_S,
    TEMPERATURE,
    Kinds,
)
from samovar.core.load.levels import CONSTANT_SHARE, at_once_there, levels_of, upper_edge
from samovar.core.load.limits import AT_BUDGET_SHARE, Limits, own_limit_from
from samovar.core.load.series import Mask, averaged
from samovar.core.load.signals import LoadSignals
from samovar.core.phases import mask_runs
from samovar.core.recording import Array

STATED, SEEN, LIKE, FITS, NOTHING = 1.0, 0.8, 0.64, 0.5, 0.3
AT_LIMIT, NEAR_LIMIT, SAME = 0.95, 0.6, 0.96
"""At its limit a chip that reaches its budget all the same is held by the budget; and one that comes up to its limit
under the SAME power as was kept before is not yet held by it."""
BESIDE_OTHERS = 0.05
"""The loss itself says next to nothing where something else is seen in the same stretch."""
SAME_LEVEL_K = 1.5
"""A die so near to a level at which it was kept is at that level."""
SAME_POWER_SHARE = 0.0036
"""A power so near to one that was kept is that power, even where the die is at a level that was kept, too."""
CONSTANT_S = 8.0
"""A power that is constant for less tells nothing."""
UNDER_BUDGET = 0.93
"""A constant power under this share of the stated budget is none of that budget's."""


@dataclass(frozen=True)
class Look:
    """All that the causes are judged by; masks of shape (n,). `kinds`: what was kept constant, from `kept`."""

    load: LoadSignals
    facts: Facts
    limits: Limits
    held: Mask
    kinds: Kinds


def thermal(look: Look) -> Array:
    """The die at its limit: the stated one, or a temperature that is kept so high that it can be no other."""
    score = np.where(look.limits.near, NEAR_LIMIT, 0.0)
    score = np.maximum(score, _kept_temperature(look, own=True))
    die = look.load.die if look.load.power is None else None
    for a, b in mask_runs(look.held) if die is not None else ():
        assert die is not None
        # A limit may be soft: the die is hot as the clock gives way, and does not cool for it.
        if die[a] > own_limit_from(look.facts) and die[a:b].min() > die[a] - SAME_LEVEL_K:
            score[a:b] = np.maximum(score[a:b], LIKE)
    score[look.limits.at & look.limits.near] = AT_LIMIT
    score[look.limits.flagged] = STATED
    return score


def power(look: Look) -> Array:
    """A power budget: a stated one that is reached, or a package power that is kept."""
    load, kept = look.load, look.kinds == POWER
    score = np.zeros(len(look.held))
    if load.power is None:
        return score
    score[_constant(look)] = FITS
    mean = averaged(load.power, load.samples(8.0))
    for a, b in mask_runs(np.asarray(kept)):
        level = float(np.median(load.power[a:b]))
        near = np.abs(load.power - level) < AT_BUDGET_SHARE * level
        score[near] = np.maximum(score[near], LIKE)
        if not look.limits.near[a:b].all():
            score[_lasting(np.abs(mean - level) < SAME_POWER_SHARE * level, load.samples(4.0))] = SAME
    score[kept] = np.maximum(score[kept], SEEN)
    # A budget that is kept is shared all the same where another part takes of it.
    score[look.limits.eaten] = np.minimum(score[look.limits.eaten], SEEN)
    score[look.limits.budget] = STATED
    if load.die is None:
        # Heat that holds makes the power sink: where it is not measured, only a power that never did is a budget's.
        for a, b in mask_runs(look.held):
            if not at_once_there(load, a, b):
                score[a:b] = np.where(look.limits.budget[a:b], score[a:b], 0.0)
    return score


def shared(look: Look) -> Array:
    """A budget of which the graphics side takes a part."""
    return np.where(look.limits.eaten, 0.5 * (SEEN + STATED), 0.0)


def firmware(look: Look) -> Array:
    """A policy: a temperature that is kept well under the chip's limit, the die's or another part's."""
    score = _kept_temperature(look, own=False)
    score[[kind == FLOOR or str(kind).startswith("@") for kind in look.kinds]] = SEEN
    return score


def unexplained(look: Look, others: Array) -> Array:
    """A clock that is fixed by nothing that shows; else no more than the loss itself, where nothing else is seen:
    `others` is the best score of the other causes, shape (n,)."""
    load, fixed = look.load, look.kinds == CLOCK
    score = np.full(len(look.held), NOTHING)
    for a, b in mask_runs(look.held):
        if float(others[a:b].max()) >= LIKE:
            score[a:b] = BESIDE_OTHERS
    for a, b in mask_runs(np.asarray(fixed)):
        level = float(np.median(load.clock[a:b]))
        score[np.abs(load.clock - level) < CLOCK_SHARE * level] = LIKE
    score[fixed] = SEEN
    return score


SHOWN: dict[str, Callable[[Look], Array]] = {
    "thermal": thermal, "power": power, "shared": shared, "firmware": firmware,
}  # fmt: skip
CAUSES = (*SHOWN, "unexplained")


def scores_of(look: Look) -> Array:
    """One row for each of CAUSES, shape (causes, n)."""
    shown = np.array([of(look) for of in SHOWN.values()])
    return np.vstack([shown, unexplained(look, shown.max(axis=0))])


def _kept_temperature(look: Look, own: bool) -> Array:
    """Where the die's temperature is kept at a level that is the chip's own limit, or its firmware's."""
    score = np.zeros(len(look.held))
    if look.load.die is None:
        return score
    edge = upper_edge(look.load)
    kept = look.kinds == TEMPERATURE
    pieces = []
    for a, b in mask_runs(np.asarray(kept)):
        level = float(np.percentile(edge[a:b], 90))
        if (level > own_limit_from(look.facts)) == own:
            pieces.append((a, b))
            like = look.held & (np.abs(edge - level) < SAME_LEVEL_K)
            if float((kept & like).sum()) * look.load.interval_s >= SHORTEST_TEMPERATURE_S:
                score[like] = LIKE
    for a, b in pieces:
        score[a:b] = SEEN
    return score


def _constant(look: Look) -> Mask:
    """Held stretches of one constant power, which no stated budget speaks against."""
    load, out = look.load, np.zeros(len(look.held), dtype=bool)
    assert load.power is not None
    sustained = look.facts.cpu.sustained_power_w
    for first, last in mask_runs(look.held):
        for a, b in levels_of(load, first, last):
            width = load.samples(10.0)
            watts = averaged(load.power[a:b], width)
            # Not what the next level has already reached.
            tail = watts[len(watts) // 4 : max(len(watts) // 4 + 2, len(watts) - width)]
            low, high = np.percentile(tail, [4, 96])
            fits = sustained is None or load.from_wall or float(tail.mean()) > UNDER_BUDGET * sustained
            out[a:b] = (
                fits and load.seconds(a, b) >= CONSTANT_S and high - low < CONSTANT_SHARE * float(tail.mean())
            )
    return out


def _lasting(where: Mask, samples: int) -> Mask:
    """`where`, and so many samples after: a mean sees what comes half its width before it is there."""
    out = where.copy()
    for k in range(1, samples + 1):
        out[k:] |= where[:-k]
    return out
