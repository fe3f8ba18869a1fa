"""A cause for every held sample: from limits and budgets that are known, else from what was kept constant.

A limit or a budget that the facts name is recognised by its level. Where they name none, or a wrong one,
`regulated` tells which quantity was kept constant while the others moved. A budget shared with the graphics side
shows in what the processor loses as the graphics side begins.
"""

from __future__ import annotations

import itertools

import numpy as np

from samovar.core.facts import Facts
from samovar.core.held_signals import LoadSignals, Mask, averaged, rolling
from samovar.core.phases import mask_runs
from samovar.core.recording import Array
from samovar.core.regulated import Kinds, carried, kept_constant, regulated, teeth

FLAT_SHARE = 0.012
"""A power within this share of a known budget is at that budget."""
PEG_K = 2.2
PEG_FREE_K = 0.8
FACT_K = 8.0
"""A temperature regulated within this of the stated limit is the chip's limit, stated a little wrong; one further
below it is the firmware's doing."""
HOT_C = 77.0
"""Where the limit is not known: a regulated temperature from here on is taken for the chip's own."""
GRAPHICS_SHARE = 0.15
HEAVIER = 1.04
SLOWER_WHEN_WARM = 0.965
SAME_CLOCK_SHARE = 0.003
SETTLES_S = 5.0
LEVEL_STEP = 0.03
KEPT_K = 1.2
COMES_BACK_SHARE = 0.02
"""So long after it began a stretch is at its level."""
SAW_S = 45.0
"""Teeth of a sawtooth stand no further apart than this."""
SAW_K = 25.0
LEAP_SHARE = 0.75
NEAR_K = 12.0


def label_causes(load: LoadSignals, facts: Facts, held: Mask) -> tuple[Kinds, Mask]:
    """A cause for every held sample, the empty string elsewhere; and which samples are held, those between the
    teeth of a sawtooth included. Both of shape (n,), as `held`."""
    kinds = regulated(load)
    pegged, eaten = _pegged(load, facts), _eaten_by_graphics(load, facts)
    held = held | (_between_teeth(load, held, pegged | (kinds == "temperature")) & load.active)
    for saw in teeth(load, load.active & ~eaten):
        kinds[saw] = "temperature"
        held[saw] |= load.active[saw]
    kinds[~held] = ""
    kinds = carried(load, kinds, held)
    _second_look(load, kinds, held)
    if load.die is None and load.power is not None:
        # Heat that holds makes the power sink: where it is not measured, only a power that never did is a budget's.
        for a, b in mask_runs(held):
            if not _at_once_there(load.power, load, a, b):
                kinds[a:b] = "unknown"
    labels: Kinds = np.full(len(held), "", dtype=object)
    for a, b in mask_runs(held):
        for first, last in _same(kinds, a, b):
            kind = str(kinds[first])
            for c, d in [(first, last)] if kind else levels_of(load, first, last):
                labels[c:d] = _cause(load, facts, kind, c, d)
    budgeted = at_a_budget(load, facts)
    near, limit = pegged.copy(), facts.cpu.temperature_limit_c
    if load.die is not None and limit is not None:
        # Coming up to its limit under a budget that is kept is not yet to be held by it.
        near &= (kinds != "power") | (load.die > limit - PEG_FREE_K) | _flagged(load)
    labels[held & near] = "thermal"
    # A chip held by its temperature cannot reach its budget: where it does, the budget is the cause.
    labels[held & budgeted] = "power"
    hot = (kinds == "temperature") & (load.die > HOT_C if load.die is not None else False)
    eaten = held & eaten & ~hot & ~pegged & ~budgeted
    labels[eaten] = "shared"
    labels = _majority(labels, held, load.samples(8.0))
    _clear_heavier_loads(load, labels, held, ~(pegged | budgeted), kinds)
    return labels, held


def _clear_heavier_loads(load: LoadSignals, labels: Kinds, held: Mask, no_limit: Mask, kinds: Kinds) -> None:
    """A chip that is held draws less than when it was free: one that draws more at a lower clock does other work, and
    nothing holds it. Nor is one held that draws no less, is hardly slower, and of which nothing but that shows: many
    are a little slower when warm. Stretches of that kind lose their cause, in place."""
    free = load.active & ~held
    if load.power is None or load.from_wall or float(free.sum()) * load.interval_s < 5.0:
        return
    free_w, free_mhz = (float(np.percentile(row[free], 75)) for row in (load.power, load.clock))
    for a, b in mask_runs((labels == "unexplained") | (labels == "power")):
        watts, mhz = float(np.median(load.power[a:b])), float(np.median(load.clock[a:b]))
        own_way = watts > free_w and mhz > SLOWER_WHEN_WARM * free_mhz and bool((kinds[a:b] != "power").all())
        if (watts > HEAVIER * free_w or own_way) and bool(no_limit[a:b].mean() > 0.5):
            labels[a:b] = ""


def _second_look(load: LoadSignals, kinds: Kinds, held: Mask) -> None:
    """Over a whole stretch of one level the slow changes tell a fixed clock from a fixed power better than any window
    does; the kinds are set right in place."""
    if load.power is None:
        return
    for a, b in mask_runs(held):
        # A governor that has given way as far as it can leaves the clock at its floor for a moment.
        open_ = set(kinds[a:b]) <= {"", "clock"}
        if load.die is not None and open_ and _kept_warm(load.die, load.power, load, a, b):
            kinds[a:b] = "temperature"
        whole = set(kinds[a:b]) <= {"power", "clock", ""} and _one_level(load, a, b, 0.06)
        for first, last in [(a, b)] if whole else _same(kinds, a, b):
            if whole or (kinds[first] in ("power", "clock") and _one_level(load, first, last)):
                begin = first + min(load.samples(SETTLES_S), (last - first) // 4)
                if told := kept_constant(load, begin, last):
                    kinds[first:last] = told
    # What a gap parts from it, at the very same clock, is still the same fixed clock.
    fixed = [float(np.median(load.clock[a:b])) for a, b in mask_runs(kinds == "clock")]
    for a, b in mask_runs(held & (kinds == "")):
        level = float(np.median(load.clock[a:b]))
        if any(abs(level - other) < SAME_CLOCK_SHARE * other for other in fixed):
            kinds[a:b] = "clock"


def _at_once_there(power: Array, load: LoadSignals, a: int, b: int) -> bool:
    """Whether the power of a stretch is a few seconds after its beginning what it is to its end."""
    early = power[a + load.samples(12.0) : a + load.samples(20.0)]
    late = power[a + 3 * (b - a) // 4 : b]
    if len(early) == 0 or len(late) == 0:
        return True
    return abs(float(np.median(early)) - float(np.median(late))) < 0.02 * float(np.median(late))


def _one_level(load: LoadSignals, a: int, b: int, share: float = 0.03) -> bool:
    """Whether a stretch is half a minute long, and its power, but for its beginning, at one level within a share."""
    assert load.power is not None
    if load.time_s[b - 1] - load.time_s[a] < 30.0:
        return False
    low, high = np.percentile(load.power[a + min(load.samples(10.0), (b - a) // 4) : b], [4, 96])
    return bool(high - low < share * high)


def limit_of(load: LoadSignals, facts: Facts) -> float | None:
    """The die's limit: from the facts, else the level at which the hottest part of the load stays put."""
    if facts.cpu.temperature_limit_c is not None:
        return facts.cpu.temperature_limit_c
    if load.die is None:
        return None
    edge = float(np.percentile(load.die, 99))
    return edge if edge >= HOT_C and float(np.mean(load.die > edge - 1.5)) > 0.2 else None


def _pegged(load: LoadSignals, facts: Facts) -> Mask:
    """Where the die is at its limit, as the facts or the kernel's own flags say."""
    pegged = np.zeros(len(load.clock), dtype=bool)
    limit = facts.cpu.temperature_limit_c
    if load.die is not None and load.raw_die is not None and limit is not None:
        # Not the smoothed one: of a fast sawtooth's points smoothing leaves nothing.
        raw = np.nan_to_num(load.raw_die, nan=-300.0)
        pegged = rolling(raw, load.samples(10.0), "max") > limit - PEG_K
        # A log that catches few of the points shows them all the same, and a clock that leaps in between.
        wide = load.samples(SAW_S)
        leaps = rolling(load.raw_clock, wide, "min") < LEAP_SHARE * rolling(load.raw_clock, wide, "max")
        near = rolling(load.die, wide, "min") > limit - NEAR_K
        pegged |= leaps & near & (rolling(raw, wide, "max") > limit - PEG_K)
    return np.asarray(pegged | _flagged(load))


def _flagged(load: LoadSignals) -> Mask:
    """Where the kernel's own counters say that heat throttles."""
    if load.throttled is None:
        return np.zeros(len(load.clock), dtype=bool)
    return np.asarray(rolling(load.throttled, load.samples(6.0), "max") > 0.5)


def at_a_budget(load: LoadSignals, facts: Facts) -> Mask:
    """Where the package draws what the facts name as one of its budgets, shape (n,)."""
    budgeted = np.zeros(len(load.clock), dtype=bool)
    if load.power is not None and not load.from_wall:
        for budget in (facts.cpu.sustained_power_w, facts.cpu.burst_power_w):
            if budget is not None:
                budgeted |= np.abs(load.power - budget) < FLAT_SHARE * budget
    return budgeted


def _between_teeth(load: LoadSignals, held: Mask, by_heat: Mask) -> Mask:
    """The short free moments between stretches that heat holds, where the die stays near its edge."""
    out = np.zeros(len(held), dtype=bool)
    if load.die is None:
        return out
    runs = [(a, b) for a, b in mask_runs(held) if by_heat[a:b].any()]
    for (a, b), (c, _) in itertools.pairwise(runs):
        if load.time_s[c] - load.time_s[b - 1] <= SAW_S:
            edge = max(float(load.die[a:b].max()), float(load.die[c : c + b - a].max()))
            out[b:c] = bool((load.die[b:c] > edge - SAW_K).all()) and bool(by_heat[b:c].mean() > 0.3)
    return out


def _same(kinds: Kinds, a: int, b: int) -> list[tuple[int, int]]:
    """Stretches of one kind each, from a to b."""
    edges = [a, *(np.flatnonzero(kinds[a + 1 : b] != kinds[a : b - 1]) + a + 1).tolist(), b]
    return list(itertools.pairwise(edges))


def _cause(load: LoadSignals, facts: Facts, kind: str, a: int, b: int) -> str:
    if kind == "":
        kind = _when_all_is_constant(load, facts, a, b)
    if kind == "power":
        return "power"
    if kind == "temperature" and load.die is not None:
        reach = load.samples(SAW_S)
        return _regulated_by(float(np.percentile(load.die[max(0, a - reach) : b + reach], 97)), facts)
    return "firmware" if kind.startswith("@") else "unexplained"


def _regulated_by(level_c: float, facts: Facts) -> str:
    """Whose limit a regulated temperature is."""
    limit = facts.cpu.temperature_limit_c
    floor = HOT_C if limit is None else limit - FACT_K
    return "thermal" if level_c > floor else "firmware"


def _when_all_is_constant(load: LoadSignals, facts: Facts, a: int, b: int) -> str:
    """What a stretch with hardly any movement in it was held by: by what still moves along with the temperature, power
    or clock; by how it began; else, where the power is constant and no known budget speaks against it, by a budget."""
    if load.power is None or load.time_s[b - 1] - load.time_s[a] < 8.0:
        return ""
    power = averaged(load.power[a:b], load.samples(10.0))
    tail = power[len(power) // 4 :]
    low, high = np.percentile(tail, [4, 96])
    if high - low > 0.02 * float(tail.mean()):
        return ""
    if load.die is not None:
        kept = kept_constant(load, a + min(load.samples(SETTLES_S), (b - a) // 4), b)
        if kept:
            return kept
    budget = facts.cpu.sustained_power_w
    if budget is not None and not load.from_wall and float(tail.mean()) < 0.93 * budget:
        return ""
    return "power"


def _kept_warm(die: Array, power: Array, load: LoadSignals, a: int, b: int) -> bool:
    """Whether the die rose to a level and stayed there while the power went its way: where a limit is run into fast, a
    governor gives way too far, and takes its time to give back. A budget's power is there at once."""
    if load.time_s[b - 1] - load.time_s[a] < 8.0:
        return False
    level = float(np.median(die[a:b]))
    till = max(1, a - load.samples(3.0))
    before = slice(max(0, min(till - 1, a - load.samples(15.0))), till)
    inside = np.abs(die[a:b] - level) < KEPT_K
    if (
        level < 50.0
        or float(np.median(die[before])) > level - 1.5
        or float(inside[len(inside) // 4 :].mean()) < 0.85
    ):
        return False
    slow, fast = np.percentile(load.clock[a:b][inside], [8, 92])
    if fast - slow < COMES_BACK_SHARE * fast / 2.0:
        return False
    low, high = np.percentile(averaged(power[a:b], load.samples(4.0))[inside], [8, 92])
    begun = a + load.samples(2.0)
    early = float(np.median(power[begun : max(begun + 1, a + load.samples(12.0))]))
    late = float(np.median(power[b - (b - a) // 4 - 1 : b]))
    return bool(high - low > COMES_BACK_SHARE * high) or early < (1.0 - COMES_BACK_SHARE) * late


def levels_of(load: LoadSignals, a: int, b: int) -> list[tuple[int, int]]:
    """The levels of power from a to b, one after another: a budget that is cut in steps is one budget after another.
    Half-open ranges of samples, touching each other."""
    reach = load.samples(4.0)
    if load.power is None or b - a < 8 * reach:
        return [(a, b)]
    power = averaged(load.power[a:b], reach)
    steps = np.zeros(b - a)
    steps[reach:-reach] = np.abs(
        np.log(np.maximum(power[2 * reach :], 0.01) / np.maximum(power[: -2 * reach], 0.01))
    )
    edges = [a]
    for first, last in mask_runs(steps > LEVEL_STEP):
        at = a + first + int(steps[first:last].argmax())
        if at - edges[-1] > 3 * reach and b - at > 3 * reach:
            edges.append(at)
    return list(itertools.pairwise([*edges, b]))


def _eaten_by_graphics(load: LoadSignals, facts: Facts) -> Mask:
    """Where the graphics side takes a noticeable part of the sum, and the processor gets less than it got without it,
    or than it is known to be allowed. Shape (n,)."""
    nothing = np.zeros(len(load.clock), dtype=bool)
    if load.gpu_power is None or load.power is None or load.from_wall:
        return nothing
    power, gpu = load.power, load.gpu_power
    part = (gpu > GRAPHICS_SHARE * (power + gpu)) & (gpu > 4.0)
    out = nothing.copy()
    for a, b in mask_runs(part):
        if load.time_s[b - 1] - load.time_s[a] < 4.0:
            continue
        lost = [
            change
            for edge, sign in ((a, 1.0), (b, -1.0))
            if (change := _lost_at(power, gpu, edge, sign, load)) is not None
        ]
        if lost:
            out[a:b] = max(lost) > 0.2
            continue
        # The graphics side was there from the beginning to the end: only a known budget, or a good part, tells.
        mean_w, graphics_w = float(np.median(power[a:b])), float(np.median(gpu[a:b]))
        sustained = facts.cpu.sustained_power_w
        if sustained is not None:
            out[a:b] = mean_w < 0.96 * sustained and mean_w + graphics_w > 0.9 * sustained
        else:
            out[a:b] = graphics_w > 0.25 * (mean_w + graphics_w)
    return np.asarray(out)


def _lost_at(power: Array, gpu: Array, edge: int, sign: float, load: LoadSignals) -> float | None:
    """How much of what the graphics side took, or gave back, at an edge the processor lost, or got; None where the
    edge is not seen."""
    width, aside = load.samples(10.0), load.samples(4.0)
    before = slice(max(0, edge - aside - width), max(0, edge - aside))
    after = slice(edge + aside, edge + aside + width)
    if before.stop - before.start < 2 or after.start >= len(power) - 2:
        return None
    if not (load.active[before].any() and load.active[after].any()):
        return None
    taken = sign * (float(np.median(gpu[after])) - float(np.median(gpu[before])))
    given = sign * (float(np.median(power[before])) - float(np.median(power[after])))
    return given / taken if taken > 2.0 else None


def _majority(labels: Kinds, held: Mask, reach: int) -> Kinds:
    """Each held sample takes the commonest cause around it, so that one odd sample splits nothing."""
    kinds = sorted({k for k in labels if k})
    if len(kinds) < 2:
        return labels
    # A window longer than the load is no window: convolving would then give back the window's length.
    width = min(2 * reach + 1, len(labels))
    counts = np.array([np.convolve(labels == k, np.ones(width), mode="same") for k in kinds])
    winners = np.array(kinds, dtype=object)[counts.argmax(axis=0)]
    return np.asarray(np.where(held, winners, ""), dtype=object)
