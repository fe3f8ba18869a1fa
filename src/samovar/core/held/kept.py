"""Which of its quantities a held chip was regulated by: told from what stays put while the others move.

Three things can be held constant, and only one at a time: the power (then the temperature goes where it will, and
the clock gives way a little as the leakage grows), a temperature (then the power sinks, or saws, as the heat soaks
in), or the clock itself (then the power follows the temperature). Once all is settled everything is constant and
nothing can be told; what was told before, at the same level, then holds still. The same is asked over windows of
several lengths, the shortest first, because a burst's end is over in seconds and a case takes half an hour to warm.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from samovar.core.load.bursts import COARSE_TELLS, FLAT_SHARE, MOVES_SHARE, after_a_burst, burst_ends
from samovar.core.load.levels import (
    BASE_S,
    KEPT_K,
    ONE_LEVEL_SHARE,
    kept_within_k,
    one_level,
    slope_over_die,
    upper_edge,
)
from samovar.core.load.series import Mask, Ranges, averaged, bridged, same
from samovar.core.load.signals import LoadSignals
from samovar.core.phases import mask_runs
from samovar.core.recording import Array

Kinds = NDArray[np.object_]
POWER, TEMPERATURE, CLOCK, FLOOR = "power", "temperature", "clock", "floor"
WINDOWS_S = (16.0, 45.0, 120.0)
CLOCK_SHARE = 0.0025
"""A clock that stays within this share is fixed: leakage over 2.5 K moves a regulated one by more."""
MOVES_K = 2.5
"""A die that goes so far while another quantity stands tells of the other's being kept."""
COOLEST_C = 48.0
"""No chip and no policy minds a die cooler than this."""
FLOOR_SHARE = 0.45
"""A clock under this share of its most is at its floor: no budget that leaves a chip at work takes so much."""
ELSEWHERE_K, ELSEWHERE_S, ELSEWHERE_DONE, ELSEWHERE_MOST = 0.6, 60.0, 0.8, 0.25
"""A kept temperature of another part stays within the kelvins; held for less nothing so slow is told; where the power has come to rest, it has done the first share of its rise; and the
die's own temperature was not kept for more than the other share of the stretch."""
SHORTEST_TEMPERATURE_S = 18.0
"""Where a burst ends the temperature stands still for a moment while the power sinks: a regulation lasts longer."""
AT_ONCE, STEP_S = 0.7, 6.0
"""A power that falls by more than this share of its fall within so long steps down; heat that soaks in takes its time."""


def kept_of(load: LoadSignals, held: Mask) -> Kinds:
    """What was kept constant at each of the load's samples.

    Returns:
        Shape (n,): POWER, TEMPERATURE (the die's), CLOCK, FLOOR, the name of another temperature with a leading `@`, or the
        empty string where nothing tells.
    """
    kinds: Kinds = np.full(len(load.clock), "", dtype=object)
    _by_windows(load, kinds)
    for a, b in mask_runs(np.asarray(kinds == TEMPERATURE)):
        if load.seconds(a, b) < SHORTEST_TEMPERATURE_S - load.interval_s:
            kinds[a:b] = ""
    kinds[~held] = ""
    if load.die is not None:
        edge = upper_edge(load)
        for a, b in mask_runs(np.asarray(kinds == TEMPERATURE)):
            low, high = np.percentile(edge[a:b], [10, 90])
            # Slow enough to be flat in every window, and yet on its way.
            if high - low > 1.5 * kept_within_k(load) or burst_ends(load, a, b):
                kinds[a:b] = ""
    _by_slopes(load, kinds, held)
    for a, b in mask_runs(np.asarray(kinds == CLOCK)):
        if after_a_burst(load, a, b):
            kinds[a:b] = ""
    _elsewhere(load, kinds, held)
    for a, b in mask_runs(held):
        if load.die is None:
            break
        # What has given way as far as it can, and does not give back as the die cools, is a policy.
        floor = float(np.median(load.clock[a:b])) < FLOOR_SHARE * float(load.clock.max())
        # A budget that leaves so little is a budget: the power is kept, and the clock follows the leakage.
        floor &= not bool((kinds[a:b] == POWER).any())
        if floor and load.die[b - 1] < load.die[a] - MOVES_K and load.die[a] > float(load.die.max()) - KEPT_K:
            kinds[a:b] = FLOOR
    return kinds


def _elsewhere(load: LoadSignals, kinds: Kinds, held: Mask) -> None:
    """Another part's temperature that is minded: it comes to rest as the power sinks, and not before. A budget that is
    given up slowly has done so long before anything but the die has warmed. In place."""
    if load.power is None:
        return
    power = averaged(load.power, load.samples(BASE_S))
    # What a gap parts is one stretch all the same: such a part is slow.
    for first, b in mask_runs(held | ~load.active):
        if not held[first:b].any():
            continue
        a = first + int(np.argmax(held[first:b]))
        # The averages of its last seconds see what comes after.
        b = max(a + 1, b - int(np.argmax(held[first:b][::-1])) - load.samples(BASE_S))
        begin, quarter = a + load.samples(2 * BASE_S), (b - a) // 4
        if load.seconds(a, b) < ELSEWHERE_S or float((kinds[a:b] == TEMPERATURE).mean()) > ELSEWHERE_MOST:
            continue
        end_w = float(np.median(power[b - quarter : b]))
        fall = float(power[begin]) - end_w
        step = load.samples(STEP_S)
        at_once = float(np.max(power[begin : b - step] - power[begin + step : b], initial=0.0))
        if fall < MOVES_SHARE * end_w or at_once > AT_ONCE * fall:
            continue
        done = begin + int(np.argmax(power[begin:b] < end_w + 0.1 * fall))
        for name, raw in load.elsewhere.items():
            row = averaged(raw, load.samples(BASE_S))
            level, cold = float(np.median(row[b - quarter : b])), float(row[0])
            rests = float(np.ptp(row[b - 2 * quarter : b])) < ELSEWHERE_K
            # What follows a power that fell for another reason falls with it.
            rests &= float(row[a:b].max()) - level < 2.0 * ELSEWHERE_K
            if rests and level - cold > MOVES_K and float(row[done]) - cold > ELSEWHERE_DONE * (level - cold):
                _fill(kinds[a:b], "@" + name, np.ones(b - a, dtype=bool))
                break


def _by_windows(load: LoadSignals, kinds: Kinds) -> None:
    base = load.samples(BASE_S)

    def ranges(x: Array | None, relative: bool) -> Ranges | None:
        # Where the load was not at its full demand, its edges above all, nothing is to be learnt.
        return None if x is None else Ranges(bridged(np.where(load.active, x, np.nan)), base, relative)

    clock, power, die = ranges(load.clock, True), ranges(load.power, True), ranges(load.die, False)
    assert clock is not None
    edge = ranges(None if load.die is None else upper_edge(load), False)
    # A governor that hunts around its budget keeps to it over longer windows all the same.
    slow_power = None if load.power is None else ranges(averaged(load.power, load.samples(20.0)), True)
    drawn = power or clock
    for window_s in WINDOWS_S:
        width = load.samples(window_s)
        if width < 4 or (width > len(kinds) and window_s > WINDOWS_S[0]):
            continue
        width = min(width, len(kinds))
        drifting = drawn.drifts(width, MOVES_SHARE if power else 0.5 * MOVES_SHARE, load.samples(STEP_S))
        if die is not None and edge is not None and load.die is not None:
            saws = die.moves(width, MOVES_K) & drawn.moves(width, 2 * MOVES_SHARE)
            seen = (load.die > COOLEST_C) & (averaged(load.die_seen.astype(float), width) > 0.7)
            _fill(kinds, TEMPERATURE, seen & edge.flat(width, kept_within_k(load)) & (drifting | saws))
        if power is not None and slow_power is not None:
            level = (slow_power if window_s >= 100.0 else power).flat(width, FLAT_SHARE)
            moving = clock.moves(width, CLOCK_SHARE) if die is None else die.moves(width, MOVES_K)
            fixed = (clock.span(width) < 0.3 * power.span(width)) & (power.span(width) > 0.5 * FLAT_SHARE)
            _fill(kinds, POWER, level & moving & ~fixed)
            if die is not None:
                # A clock that stands while the power follows the die, up or down; not while it goes its own way.
                told = max(0.5 * MOVES_SHARE, COARSE_TELLS * load.clock_step)
                follows = power.fall(width) * die.fall(width) > 0
                still = clock.flat(width, CLOCK_SHARE) & power.moves(width, told) & follows
                _fill(kinds, CLOCK, still & die.moves(width, MOVES_K))


def _fill(kinds: Kinds, name: str, where: Mask) -> None:
    kinds[(kinds == "") & where] = name


def _by_slopes(load: LoadSignals, kinds: Kinds, held: Mask) -> None:
    """Over a whole stretch of one level the slow changes tell a fixed clock from a fixed power better than any window
    does; the kinds are set right in place."""
    if load.power is None:
        return
    for a, b in mask_runs(held):
        whole = set(kinds[a:b]) <= {POWER, CLOCK, ""} and one_level(load, a, b, ONE_LEVEL_SHARE)
        for c, d in [(a, b)] if whole else same(kinds, a, b):
            if whole or (kinds[c] in (POWER, CLOCK) and one_level(load, c, d, ONE_LEVEL_SHARE / 2)):
                begin = c + min(load.samples(BASE_S), (d - c) // 4)
                if told := kept_by_slope(load, begin, d):
                    kinds[c:d] = told


def kept_by_slope(load: LoadSignals, a: int, b: int, where: Mask | None = None) -> str:
    """POWER or CLOCK, whichever is the one that does not go along with the die's temperature; the empty string
    where neither, or both, do. A fixed clock draws more as leakage grows, a fixed power gives less clock."""
    if load.power is None or load.die is None:
        return ""
    rises, gives = (slope_over_die(load, row, a, b, where) for row in (load.power, load.clock))
    if rises is None or gives is None:
        return ""
    if load.clock_step > 0.0:
        low, high = np.percentile(averaged(load.power[a:b], load.samples(8.0)), [4, 96])
        if high - low < COARSE_TELLS * load.clock_step * high:
            # Whatever it does within one of its steps, the clock does not show it.
            return POWER if gives.per_k < 0 and abs(rises.per_k) < abs(gives.per_k) and not rises.sure else ""
    # A budget that is given up bit by bit takes clock and temperature down with it: that is no fixed clock.
    if (
        rises.sure
        and rises.per_k > 0
        and abs(gives.per_k) < 0.25 * rises.per_k
        and _stays(load, load.clock, a, b)
    ):
        return CLOCK
    if (
        gives.sure
        and gives.per_k < 0
        and abs(gives.per_k) > 0.6 * abs(rises.per_k)
        and _stays(load, load.power, a, b)
    ):
        return POWER
    return ""


def _stays(load: LoadSignals, x: Array, a: int, b: int) -> bool:
    """Whether x stays about where it is from a to b: what does not is not what is kept."""
    low, high = np.percentile(averaged(x[a:b], load.samples(8.0))[load.active[a:b]], [4, 96])
    return bool(high - low < 2.0 * MOVES_SHARE * high)
