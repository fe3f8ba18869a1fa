"""Where a load stands at a limit or a budget that the facts state, or that the kernel's counters show."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from samovar.core.facts import Facts
from samovar.core.load.graphics import counts_inside, eaten_by_graphics
from samovar.core.load.series import Mask, averaged, greatest
from samovar.core.load.signals import LoadSignals

AT_BUDGET_SHARE = 0.012
"""A power within this share of a stated budget is at it: meters and governors agree no better."""
NEAR_LIMIT_K, AT_LIMIT_K = 2.2, 0.8
"""A die so near to its limit may be held by it; one so near is: governors keep a margin of a kelvin or two."""
TOUCH_S = 10.0
"""A die that touches its limit once in this time is at it."""
FLAG_S = 6.0
"""A counter of the kernel is up for as long around each count."""
HOT_C = 77.0
"""Where the limit is not known: a regulated temperature from here on is taken for the chip's own."""
FACT_K = 8.0
"""A temperature regulated within this of the stated limit is the chip's limit, stated a little wrong; one further
below it is the firmware's doing."""


@dataclass(frozen=True)
class Limits:
    """Where which known limit shows, all of shape (n,).

    Attributes:
        near, at: the die is near its stated limit, or at it.
        flagged: the kernel counted thermal throttling.
        budget: the power is at a stated budget, the graphics' share apart.
        eaten: the graphics side takes from the processor's budget.
        inside: the package's power counts the graphics' too.
    """

    near: Mask
    at: Mask
    flagged: Mask
    budget: Mask
    eaten: Mask
    inside: bool

    @property
    def known(self) -> Mask:
        """Where any of them shows by itself; that the graphics eat shows only in what the processor has lost."""
        return self.near | self.flagged | self.budget


def limits_of(load: LoadSignals, facts: Facts) -> Limits:
    """The known limits of a load."""
    n = len(load.clock)
    near, at, flagged, budget = (np.zeros(n, dtype=bool) for _ in range(4))
    limit = facts.cpu.temperature_limit_c
    if load.die is not None and load.raw_die is not None and limit is not None:
        # Not the smoothed one: of a fast sawtooth's points smoothing leaves nothing.
        raw = np.nan_to_num(load.raw_die, nan=-300.0)
        near = greatest(raw, load.samples(TOUCH_S)) > limit - NEAR_LIMIT_K
        at = load.die > limit - AT_LIMIT_K
    if load.throttled is not None:
        flagged = greatest(load.throttled, load.samples(FLAG_S)) > 0.5
    inside = counts_inside(load, facts)
    eaten = eaten_by_graphics(load, facts, inside)
    if load.power is not None and not load.from_wall:
        power = averaged(load.power, load.samples(4.0))
        for watts in (facts.cpu.sustained_power_w, facts.cpu.burst_power_w):
            if watts is not None:
                budget |= np.abs(power - watts) < AT_BUDGET_SHARE * watts
    return Limits(near, at, flagged, budget & ~(eaten & inside), eaten, inside)


def limit_of(load: LoadSignals, facts: Facts) -> float | None:
    """The die's limit: from the facts, else the level at which the hottest part of the load stays put."""
    if facts.cpu.temperature_limit_c is not None:
        return facts.cpu.temperature_limit_c
    if load.die is None:
        return None
    edge = float(np.percentile(load.die, 99))
    return edge if edge >= HOT_C and float(np.mean(load.die > edge - 1.5)) > 0.2 else None


def own_limit_from(facts: Facts) -> float:
    """The temperature from which on a regulated one is the chip's own limit, °C, and not its firmware's."""
    limit = facts.cpu.temperature_limit_c
    return HOT_C if limit is None else limit - FACT_K
