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

from samovar.core.held_signals import LoadSignals, Mask, averaged, bridged, rolling
from samovar.core.phases import mask_runs
from samovar.core.recording import Array

Kinds = NDArray[np.object_]
WINDOWS_S = (16.0, 45.0, 120.0, 300.0)
FLAT_SHARE = 0.008
"""A power that stays within this share of itself, its noise apart, is flat."""
MOVES_SHARE = 0.02
"""A power that changes by this share is not."""
CLOCK_SHARE = 0.0025
FLAT_K = 1.2
COOLEST_C = 48.0
"""No chip and no policy minds a die cooler than this."""
MOVES_K = 2.5
SHORTEST_REGULATION_S = 18.0
"""Where a burst ends the temperature stands still for a moment while the power sinks: a regulation lasts longer."""
UPPER_EDGE_S = 14.0
"""A sawtooth touches its limit again and again: its upper edge over this time is what is regulated."""
STEP_S = 6.0
LONGEST_BURST_END_S = 150.0
TOOTH_K = 2.0
PAUSE_S = 4.0
TOOTH_S = 120.0
TOOTH_SHARE = 0.94
TOOTH_LEVEL_K = 3.5
SURE = 4.0
KEPT_SHARE = 0.04
SAME_LEVEL_SHARE = 0.012
SAME_LEVEL_K = 1.5


def regulated(load: LoadSignals) -> Kinds:
    """What was regulated at each of the load's samples.

    Returns:
        Shape (n,): `power`, `temperature` (the die's), `clock`, the name of another temperature with a leading
        `@`, or the empty string where nothing tells.
    """
    n = len(load.clock)
    kinds: Kinds = np.full(n, "", dtype=object)
    power = None if load.power is None else _Series.of(load.power, load, True)
    clock = _Series.of(load.clock, load, True)
    die = None if load.die is None else _Series.of(load.die, load, False)
    edge = None if load.die is None else _Series.of(upper_edge(load), load, False)
    tolerance_k, warm = _tolerance_k(load)
    graphics = None
    if load.gpu_power is not None and load.power is not None:
        graphics = _Series.of(load.gpu_power / max(float(np.median(load.power)), 1e-6), load, False)
    others = {n: _Series.of(row, load, False) for n, row in load.elsewhere.items()}
    for window_s in WINDOWS_S:
        width = load.samples(window_s)
        if width < 4 or (width > n and window_s > WINDOWS_S[0]):
            continue
        width = min(width, n)
        slow = window_s >= 100.0
        undecided = kinds == ""
        step = load.samples(STEP_S)
        if power is not None:
            sinking = power.sinks(width, MOVES_SHARE, step)
        else:
            sinking = clock.sinks(width, 0.5 * MOVES_SHARE, step)
        if die is not None and edge is not None:
            saws = die.moves(width, MOVES_K) & (power or clock).moves(width, 2 * MOVES_SHARE)
            seen = warm & (averaged(load.die_seen.astype(np.float64), width) > 0.7)
            if graphics is not None and power is not None:
                # What the graphics side takes away at such a moment, no temperature does.
                seen &= graphics.span(width) < 0.05
            held_by_heat = seen & edge.flat(width, tolerance_k) & (sinking | saws)
            kinds[undecided & held_by_heat] = "temperature"
            undecided = kinds == ""
        if power is not None:
            moving = clock.moves(width, CLOCK_SHARE) if die is None else die.moves(width, MOVES_K)
            level = (power.slower(load) if slow else power).flat(width, FLAT_SHARE)
            fixed = clock.flatter_than(power, width)
            kinds[undecided & level & moving & np.logical_not(fixed)] = "power"
            undecided = kinds == ""
            kept = clock.flat(width, CLOCK_SHARE) & power.moves(width, 0.5 * MOVES_SHARE)
            if die is not None:
                kinds[undecided & kept & die.moves(width, MOVES_K)] = "clock"
        if window_s >= 120.0:
            for name, row in others.items():
                # A temperature that never moves at all regulates nothing.
                if bool(row.moves(width, MOVES_K).any()):
                    kinds[(kinds == "") & row.flat(width, 0.6) & sinking] = "@" + name
    _drop_short(kinds, "power", load.samples(6.0))
    _drop_short(kinds, "temperature", load.samples(SHORTEST_REGULATION_S))
    return kinds


def _tolerance_k(load: LoadSignals) -> tuple[float, Mask]:
    """Within how many kelvin a temperature is kept, a small share of the rise but no less than the sensor's digits;
    and where the die is warm enough for anything to mind."""
    if load.die is None:
        return FLAT_K, np.zeros(len(load.clock), dtype=bool)
    steps = np.abs(np.diff(load.raw_die)) if load.raw_die is not None else np.zeros(0)
    steps = steps[np.isfinite(steps) & (steps > 0)]
    digit = float(np.percentile(steps, 10)) if len(steps) else 0.0
    cold = load.base_c if load.base_c is not None else 30.0
    share = 0.04 * max(0.0, float(np.percentile(load.die, 90)) - cold)
    return max(min(FLAT_K, max(0.4, share)), min(1.05 * digit, FLAT_K)), np.asarray(load.die > COOLEST_C)


class _Series:
    """One signal with its ranges over windows: relative ones where its unit has a true zero and a scale."""

    def __init__(self, x: Array, noise: float) -> None:
        self._x = x
        self._noise = noise
        self._spans: dict[int, Array] = {}
        self._slower: _Series | None = None

    @classmethod
    def of(cls, x: Array, load: LoadSignals, relative: bool) -> _Series:
        # Where the load was not at its full demand, its edges above all, nothing is to be learnt.
        x = nearest_known(np.where(load.active, x, np.nan))
        scale = max(float(np.median(np.abs(x))), 1e-6) if relative else 1.0
        scaled = x / scale
        width = load.samples(5.0)
        slow = averaged(scaled, width)
        # What the running mean takes away is noise; what is left of it after averaging widens every range.
        rough = np.median(np.abs(scaled - slow)) * 1.4826 / np.sqrt(width)
        return cls(slow, float(rough))

    def slower(self, load: LoadSignals) -> _Series:
        """The same averaged over longer: a governor that hunts around its budget keeps to it all the same."""
        if self._slower is None:
            self._slower = _Series(averaged(self._x, load.samples(20.0)), 0.5 * self._noise)
        return self._slower

    def span(self, width: int) -> Array:
        """Range over a window around each sample, less what noise alone would give."""
        if width not in self._spans:
            whole = rolling(self._x, width, "max") - rolling(self._x, width, "min")
            self._spans[width] = np.maximum(0.0, whole - 4.0 * self._noise)
        return self._spans[width]

    def flat(self, width: int, tolerance: float) -> Mask:
        return np.asarray(self.span(width) < tolerance)

    def moves(self, width: int, least: float) -> Mask:
        return np.asarray(self.span(width) > least + 2.0 * self._noise)

    def sinks(self, width: int, least: float, step: int) -> Mask:
        """Whether it is lower at the window's end than at its beginning, by at least so much and apart from its greatest
        step of `step` samples: heat that soaks in takes its time, a budget that ends goes at once."""
        fallen = self._fall(width)
        at_once = rolling(self._fall(2 * (step // 2)), width, "max")
        return np.asarray(fallen - np.where(step < width // 4, at_once, 0.0) > least + 2.0 * self._noise)

    def _fall(self, width: int) -> Array:
        half = max(1, width // 2)
        padded = np.pad(self._x, (half, half), mode="edge")
        n = len(self._x)
        return np.asarray(padded[:n] - padded[2 * half : 2 * half + n])

    def flatter_than(self, other: _Series, width: int) -> Mask:
        """Whether it is clearly the steadier of the two, as a share of itself: then it is what is kept."""
        return np.asarray(
            (self.span(width) < 0.3 * other.span(width)) & (other.span(width) > 0.5 * FLAT_SHARE)
        )


def nearest_known(x: Array) -> Array:
    """x with its missing values bridged; zeros where nothing is known."""
    return bridged(x) if np.isfinite(x).any() else np.zeros(len(x))


def upper_edge(load: LoadSignals) -> Array:
    """The level that the die touches again and again, shape (n,): as high as it was within the last seconds, and will
    be within the next, whichever is the lower. It follows a rise and a fall, and bridges the teeth of a sawtooth."""
    assert load.die is not None
    width = load.samples(UPPER_EDGE_S)
    die = nearest_known(np.where(load.active, load.die, np.nan))
    both = rolling(np.pad(die, width, mode="edge"), width, "max")
    half = width // 2
    n = len(load.die)
    return np.minimum(both[width - half : width - half + n], both[width + half : width + half + n])


def kept_constant(load: LoadSignals, a: int, b: int) -> str:
    """`power` or `clock`, whichever is the one that does not go along with the die's temperature; the empty string
    where neither, or both, do. A fixed clock draws more as leakage grows, a fixed power gives less clock."""
    part = load.active[a:b]
    if load.power is None or load.die is None or int(part.sum()) < 12:
        return ""
    die = load.die[a:b][part]
    power, clock = load.power[a:b][part], load.clock[a:b][part]
    rises, rises_sure = _goes_along(die, power / max(float(power.mean()), 1e-6), load)
    gives, gives_sure = _goes_along(die, clock / max(float(clock.mean()), 1e-6), load)
    # A budget that is given up bit by bit takes clock and temperature down with it: that is no fixed clock.
    if rises_sure > SURE and rises > 0 and abs(gives) < 0.25 * rises and _keeps(load, load.clock, a, b):
        return "clock"
    if gives_sure > SURE and gives < 0 and abs(gives) > 0.6 * abs(rises) and _keeps(load, load.power, a, b):
        return "power"
    return ""


def _keeps(load: LoadSignals, x: Array, a: int, b: int) -> bool:
    """Whether x stays about where it is from a to b: what does not is not what is kept."""
    low, high = np.percentile(averaged(x[a:b], load.samples(8.0))[load.active[a:b]], [4, 96])
    return bool(high - low < KEPT_SHARE * high)


def _goes_along(die: Array, x: Array, load: LoadSignals) -> tuple[float, float]:
    """Slope of x over the die's temperature, 1/K, and how many of its standard errors it is. Neighbouring samples
    are no news of each other: one in five seconds counts."""
    off = die - die.mean()
    whole = float((off**2).sum())
    if whole <= 0.0:
        return 0.0, 0.0
    slope = float((off * (x - x.mean())).sum()) / whole
    rest = x - x.mean() - slope * off
    count = len(x) / load.samples(5.0)
    if count < 4:
        return slope, 0.0
    error = float(np.sqrt((rest**2).sum() / len(x) / (whole / len(x) * (count - 2.0))))
    return slope, abs(slope) / error if error > 0 else 0.0


def teeth(load: LoadSignals, allowed: Mask) -> list[slice]:
    """Stretches in which the clock gives way each time the die comes up to one and the same temperature, again and
    again, and lets it fall by some kelvin: a sawtooth under a limit, from its first tooth to the end of its last.
    `allowed`, shape (n,), is where such a thing may be looked for."""
    if load.raw_die is None:
        return []
    clock, die, n = load.raw_clock, load.raw_die, len(load.raw_clock)
    back = max(1, load.samples(1.0))
    drops = np.zeros(n, dtype=bool)
    with np.errstate(invalid="ignore"):
        drops[back:] = clock[back:] < TOOTH_SHARE * clock[:-back]
    seen_off = ~allowed & load.observed
    groups: list[list[tuple[int, float]]] = []
    for a, b in mask_runs(drops & allowed):
        top = _extreme(die[max(0, a - 2 * back) : a + back + 1], 1.0)
        after = _extreme(die[a : min(n, b + max(3, load.samples(8.0)))], -1.0)
        if top is None or after is None or top - after < TOOTH_K:
            continue
        last = groups[-1] if groups else None
        # A log catches each tooth's point a little early or late: their level is that of the highest of late.
        # A load that pauses and begins anew ends its burst as warm each time: that is the load's rhythm, no limit.
        whole = last is not None and not _pauses(seen_off[last[-1][0] : a], load.samples(PAUSE_S))
        if (
            last
            and whole
            and load.time_s[a] - load.time_s[last[-1][0]] < TOOTH_S
            and abs(top - _level(last)) < TOOTH_LEVEL_K
        ):
            last.append((a, top))
        elif (
            last is None
            or not whole
            or top > _level(last) - TOOTH_LEVEL_K
            or load.time_s[a] - load.time_s[last[-1][0]] > TOOTH_S
        ):
            groups.append([(a, top)])
    found = []
    for group in groups:
        if len(group) >= 3:
            spacing = float(np.median(np.diff(load.time_s[[a for a, _ in group]])))
            found.append(slice(group[0][0], min(n, group[-1][0] + load.samples(1.5 * spacing))))
    return found


def _pauses(off: Mask, least: int) -> bool:
    return any(b - a >= least for a, b in mask_runs(off))


def _level(group: list[tuple[int, float]]) -> float:
    return max(top for _, top in group[-6:])


def _extreme(x: Array, sign: float) -> float | None:
    known = x[np.isfinite(x)]
    return float(sign * (sign * known).max()) if len(known) else None


def _drop_short(kinds: Kinds, name: str, least: int) -> None:
    for first, last in mask_runs(np.asarray(kinds == name)):
        if last - first < least:
            kinds[first:last] = ""


def carried(load: LoadSignals, kinds: Kinds, held: Mask) -> Kinds:
    """Undecided samples take what was decided at their own level, wherever in this load that was; else what was
    decided nearest to them in the same stretch; else stay undecided. All of shape (n,)."""
    out = kinds.copy()
    _give_back_burst_ends(load, out)
    _begin_with_the_sinking(load, out, held)
    kinds = out.copy()
    open_ = held & (out == "")
    if load.power is not None:
        level = _levels(load.power, kinds == "power")
        near = _near(load.power, level, SAME_LEVEL_SHARE * np.abs(load.power))
        exact = _near(
            averaged(load.power, load.samples(8.0)), level, 0.3 * SAME_LEVEL_SHARE * np.abs(load.power)
        )
        out[open_ & ((near & ~_hot(load, kinds)) | exact)] = "power"
    if load.die is not None:
        edge = upper_edge(load)
        level = _levels(edge, kinds == "temperature")
        out[held & (out == "") & _near(edge, level, np.full(len(edge), SAME_LEVEL_K))] = "temperature"
    level = _levels(load.clock, kinds == "clock")
    out[held & (out == "") & _near(load.clock, level, CLOCK_SHARE * load.clock)] = "clock"
    for a, b in mask_runs(held):
        known = np.flatnonzero(out[a:b] != "")
        if len(known) == 0:
            continue
        index = np.arange(b - a)
        last = np.maximum.accumulate(np.where(out[a:b] != "", index, -1))
        out[a:b] = out[a:b][np.where(last < 0, known[0], last)]
    return out


def _give_back_burst_ends(load: LoadSignals, kinds: Kinds) -> None:
    """A budget that is given up slowly lets the temperature stand still for a while as the power sinks. Where a
    temperature seemed kept and the power then came to rest lower, without a step and with the die cooling, it was
    that: such a stretch is undecided again, in place."""
    if load.power is None or load.die is None:
        return
    near, long = load.samples(4.0), load.samples(200.0)
    far = max(near + 1, load.samples(25.0))
    tolerance_k, _ = _tolerance_k(load)
    for a, b in mask_runs(np.asarray(kinds == "temperature")):
        after = slice(b + near, b + far)
        if load.time_s[b - 1] - load.time_s[a] > LONGEST_BURST_END_S or after.stop > len(kinds):
            continue
        power = load.power
        before = slice(max(a, b - far), b)
        stepped = float(np.median(power[max(a, b - near) : b])) - float(np.median(power[b : b + near]))
        sunk = float(np.median(power[before])) - float(np.median(power[after]))
        level_w = float(np.median(power[before]))
        if sunk < -0.002 * level_w or stepped > 0.04 * level_w:
            continue
        rest = slice(b + near, min(len(kinds) - near, b + long))
        if rest.stop - rest.start < 2:
            continue
        low, high = np.percentile(averaged(power[rest], far), [5, 95])
        die = averaged(load.die[rest], far)
        goes = float(np.percentile(die, 97) - np.percentile(die, 3))
        if high - low < 2.0 * FLAT_SHARE * level_w and goes > 1.2 * tolerance_k:
            kinds[a:b] = ""


def _begin_with_the_sinking(load: LoadSignals, kinds: Kinds, held: Mask) -> None:
    """Long windows see a regulation before it begins: in a stretch that was held already, it begins where the power
    leaves its level. In place."""
    if load.power is None:
        return
    power = averaged(load.power, load.samples(8.0))
    for a, b in mask_runs(np.asarray(kinds == "temperature")):
        if a == 0 or not held[a - 1] or b - a < load.samples(30.0):
            continue
        level = float(np.median(power[max(0, a - load.samples(10.0)) : a + load.samples(6.0)]))
        noise = float(np.median(np.abs(load.power[a:b] - power[a:b])))
        left = np.flatnonzero(power[a:b] < level * (1.0 - 0.006) - noise)
        if len(left) and 0 < left[0] < load.samples(150.0):
            kinds[a : a + int(left[0])] = ""


def _hot(load: LoadSignals, kinds: Kinds) -> Mask:
    """Where the die sits at a level at which it was seen regulated: there a power that looks like a budget's is none."""
    if load.die is None or not (kinds == "temperature").any():
        return np.zeros(len(kinds), dtype=bool)
    edge = upper_edge(load)
    return _near(edge, _levels(edge, kinds == "temperature"), np.full(len(edge), SAME_LEVEL_K))


def _levels(x: Array, where: Mask) -> list[float]:
    return [float(np.median(x[a:b])) for a, b in mask_runs(np.asarray(where))]


def _near(x: Array, levels: list[float], tolerance: Array) -> Mask:
    out = np.zeros(len(x), dtype=bool)
    for level in levels:
        out |= np.abs(x - level) < tolerance
    return out
