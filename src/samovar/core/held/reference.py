"""The clock that a load would have reached, and where one kind of load becomes another."""

from __future__ import annotations

import numpy as np

from samovar.core.facts import Facts
from samovar.core.held.kept import POWER, kept_by_slope
from samovar.core.held.limits import Limits
from samovar.core.held.series import Mask, averaged
from samovar.core.held.shared import own_power
from samovar.core.held.signals import LoadSignals
from samovar.core.recording import Array

HELD_SHARE = 0.02
"""The clock must be this much under the reference, as a share, to count as held: less is a chip's own play."""
MOST_NOISE = 0.01
"""A clock's jitter widens that by twice itself, but by no more than this: beyond, it is no jitter."""
BOUND_SHARE = 0.8
"""A plateau that shows a limit for this share of itself was not free."""
TOP_S = 3.0
"""The reference is what was kept up for so long; a log of a sample in five seconds shows a burst in two of them."""
SLOW_LOG_S = 2.5
ALONG_SHARE, ALONG_S, ALONG_K = 0.06, 60.0, 5.0
"""A plateau lies within the share of its top; it tells of a budget from the first second on where it lasts, and warms."""
UNDER_BOOST = 0.93
"""All cores together reach a few per cent less than the stated boost, not more."""
STEP_WINDOW_S, STEP_SHARE = 8.0, 0.02
STEEPEST, STEEP_MARGIN = 4.0, 0.15
"""A chip's power goes with its clock to the fourth at most, the voltage going along: what steps by more is threads."""
LASTS_S = (12.0, 40.0)
"""A change of load is still one a while before and after it; an overshoot made good is none."""
SHORTEST_KIND_S = 12.0


def free_from(load: LoadSignals, reference: Array) -> Array:
    """The clock from which on a load counts as free, shape (n,): the reference less what is a chip's own play."""
    return reference * (1.0 - HELD_SHARE - 2.0 * min(load.noise_share, MOST_NOISE))


def references(
    load: LoadSignals, limits: Limits, facts: Facts, known_mhz: float | None
) -> tuple[Array, Mask]:
    """The reference clock at each sample, MHz, NaN where nothing tells it, and whether this run itself showed it free;
    both of shape (n,)."""
    reference, own = np.full(len(load.clock), np.nan), np.ones(len(load.clock), dtype=bool)
    kinds = kinds_of_load(load, own_power(load, limits.inside))
    for part in kinds:
        # What other runs reached is known of the load as it began, not of what it turned into.
        mhz, seen = _reference(load, limits, facts, known_mhz if len(kinds) == 1 else None, part)
        reference[part], own[part] = np.nan if mhz is None else mhz, seen
    return reference, own


def _reference(
    load: LoadSignals, limits: Limits, facts: Facts, known_mhz: float | None, part: slice
) -> tuple[float | None, bool]:
    active = np.zeros(len(load.clock), dtype=bool)
    active[part] = load.active[part]
    # A slow log shows a short burst in its load's first sample, or not at all.
    clocks = load.clock[part] if load.interval_s >= SLOW_LOG_S else load.clock[active]
    if len(clocks) == 0 or not active.any():
        return None, False
    enough = max(3 if load.interval_s < SLOW_LOG_S else 2, load.samples(TOP_S))
    # The highest of many noisy values is too high by about two deviations.
    own = float(np.sort(clocks)[-min(enough, len(clocks))]) * (1.0 - 2.0 * min(load.noise_share, MOST_NOISE))
    if known_mhz is not None and known_mhz > own * (1.0 + HELD_SHARE):
        return known_mhz, False
    plateau = active & (load.clock > own * (1.0 - 0.75 * HELD_SHARE))
    # That the graphics side eats from the first second on is known where together they are at a stated budget.
    shows = limits.known | (limits.eaten if facts.cpu.sustained_power_w is not None else False)
    bound = bool(plateau.any()) and float(shows[plateau].mean()) >= BOUND_SHARE
    boost = facts.cpu.boost_clock_mhz
    along = _budget_all_along(load, own, active)
    if along and not bound and boost is not None and own > UNDER_BOOST * boost:
        # A stated boost is one core's: so little under it the budget has hardly cost anything.
        along = False
    if bound or along:
        if boost is None:
            return None, False
        # The boost is stated for the fastest cores; `own` is the mean of all that work.
        with np.errstate(invalid="ignore", divide="ignore"):
            slower = float(np.nanmedian(load.clock[active] / load.fast_clock[active]))
        return max(boost * min(slower, 1.0), own), False
    return own, True


def _budget_all_along(load: LoadSignals, top_mhz: float, active: Mask) -> bool:
    """Whether the highest plateau was one power, kept while the die warmed by kelvins and the clock gave way for it: a
    budget from the first second on, so that nothing here was free. A free chip's power follows its leakage."""
    plateau = np.flatnonzero(active & (load.clock > top_mhz * (1.0 - ALONG_SHARE)))
    if load.power is None or load.die is None or load.from_wall or load.light or len(plateau) < 12:
        return False
    a, b = int(plateau[0]) + load.samples(4.0), int(plateau[-1]) + 1
    inside = active[a:b] & (load.clock[a:b] > top_mhz * (1.0 - ALONG_SHARE))
    if float(inside.sum()) * load.interval_s < ALONG_S or float(inside.mean()) < 0.9:
        return False
    cool, warm = np.percentile(averaged(load.die[a:b], load.samples(8.0))[inside], [3, 97])
    return bool(warm - cool > ALONG_K) and kept_by_slope(load, a, b, inside) == POWER


def kinds_of_load(load: LoadSignals, power_w: Array | None) -> list[slice]:
    """Stretches of one kind of load each, in order, touching.

    Where the clock steps down while the power steps up, or the other way round, the load itself has become another
    one: a limit takes power away with the clock. So it has where the power steps by far more than a chip's does with
    its clock: threads have come or gone. Without a power there is no telling, and all is one. `power_w`: the
    processor's own, shape (n,).
    """
    n = len(load.clock)
    width = load.samples(STEP_WINDOW_S)
    reach = width // 2 + load.samples(2.0)
    if power_w is None or n <= 2 * reach + 2:
        return [slice(0, n)]

    def steps(row: Array, floor: float) -> Array:
        logs = np.log(np.maximum(averaged(row, width), floor))
        out = np.zeros(n)
        out[reach:-reach] = logs[2 * reach :] - logs[: -2 * reach]
        return out

    clock, power = steps(load.clock, 1.0), steps(power_w, 0.01)
    far = np.abs(clock) > STEP_SHARE
    change = far & (np.abs(power) > STEP_SHARE) & (clock * power < 0)
    change |= far & (clock * power > 0) & (np.abs(power) > STEEPEST * np.abs(clock) + STEEP_MARGIN)
    change &= load.active
    # What lies within a window of the load's beginning is the way up, not a change of the load.
    change[: 2 * reach] = False
    strength = np.where(change, np.minimum(np.abs(clock), np.abs(power)), 0.0)
    edges = [0]
    while strength.max(initial=0.0) > 0.0:
        at = int(strength.argmax())
        if _lasts(load, power_w, at, reach):
            edges.append(at)
        strength[max(0, at - 2 * reach) : at + 2 * reach] = 0.0
    kept: list[int] = []
    for edge in sorted(edges):
        if not kept or load.time_s[edge] - load.time_s[kept[-1]] >= SHORTEST_KIND_S:
            kept.append(edge)
    return [slice(a, b) for a, b in zip(kept, [*kept[1:], n], strict=True)]


def _lasts(load: LoadSignals, power_w: Array, at: int, reach: int) -> bool:
    """Whether a change of the load at `at` is still one a while before and after it: where a limit is run into, or an
    overshoot made good, clock and power part ways for a moment only."""
    for seconds in LASTS_S:
        long = load.samples(seconds)
        before, after = (
            slice(max(0, at - reach - long), max(1, at - reach)),
            slice(at + reach, at + reach + long),
        )
        if min(int(load.active[before].sum()), int(load.active[after].sum())) < 2:
            continue
        clock, power = (
            np.log(max(float(np.median(row[after][load.active[after]])), 0.01))
            - np.log(max(float(np.median(row[before][load.active[before]])), 0.01))
            for row in (load.clock, power_w)
        )
        if clock * power > 0 and abs(power) <= STEEPEST * abs(clock) + STEEP_MARGIN:
            return False
    return True
