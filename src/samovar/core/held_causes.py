"""A cause for every held sample: from limits and budgets that are known, else from the shape of the signals.

A power budget keeps the power flat while the temperature goes where it will; a temperature limit, the
chip's or the firmware's, keeps the temperature flat while the power sinks. Where both stay flat, what
held the clock before holds it still. A budget shared with the graphics side shows in the sum.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from samovar.core.facts import Facts
from samovar.core.held_signals import LoadSignals, Mask, rolling, spread
from samovar.core.phases import mask_runs
from samovar.core.recording import Array

Labels = NDArray[np.object_]
FLAT_SHARE = 0.012
"""A power that stays within this share of itself is flat."""
FLAT_K = 0.9
WINDOW_S = 25.0
PEG_K = 2.2
UNDER_LIMIT_K = 4.0
"""A temperature regulated further below the chip's limit than this is the firmware's doing."""
HOT_C = 84.0
"""Where the limit is not known: a regulated temperature from here on is taken for the chip's own."""
GRAPHICS_SHARE = 0.15
SHORTEST_REGULATION_S = 20.0


def label_causes(load: LoadSignals, facts: Facts, held: Mask, interval: float) -> Labels:
    """A cause for every held sample, the empty string elsewhere.

    Args:
        load: the signals, each of shape (n,).
        facts: limit and budgets, as far as they are known.
        held: which samples were held, shape (n,).
        interval: seconds between samples.
    """
    labels: Labels = np.full(len(held), "", dtype=object)
    pegged = np.zeros(len(held), dtype=bool)
    limit = facts.cpu.temperature_limit_c
    if load.die is not None and limit is not None:
        # A sawtooth under a limit touches it again and again: the upper edge over ten seconds tells.
        pegged = rolling(load.die, round(10.0 / interval), "max") > limit - PEG_K
    if load.throttled is not None:
        pegged |= rolling(load.throttled, round(6.0 / interval), "max") > 0.5
    budgeted = np.zeros(len(held), dtype=bool)
    if load.power is not None:
        for budget in (facts.cpu.sustained_power_w, facts.cpu.burst_power_w):
            if budget is not None:
                budgeted |= np.abs(load.power - budget) < FLAT_SHARE * budget
    labels[held & pegged] = "thermal"
    # A chip held by its temperature cannot reach its budget: where it does, the budget is the cause.
    labels[held & budgeted] = "power"
    for a, b in mask_runs(held & (labels == "")):
        labels[a:b] = _from_shape(load, a, b, facts, interval)
    return _majority(labels, held, max(1, round(8.0 / interval)))


def limit_of(load: LoadSignals, facts: Facts) -> float | None:
    """The die's limit: from the facts, else the level at which the hottest part of the load stays put."""
    if facts.cpu.temperature_limit_c is not None:
        return facts.cpu.temperature_limit_c
    if load.die is None:
        return None
    edge = float(np.percentile(load.die, 99))
    return edge if edge >= HOT_C and float(np.mean(load.die > edge - 1.5)) > 0.2 else None


def _from_shape(load: LoadSignals, a: int, b: int, facts: Facts, interval: float) -> Labels:
    """Causes of one held stretch that neither a limit nor a known budget explains."""
    out: Labels = np.full(b - a, "unexplained", dtype=object)
    if load.power is None or b - a < max(4, round(5.0 / interval)):
        return out
    power = load.power[a:b]
    width = max(5, round(WINDOW_S / interval))
    power_flat = _flat(power / max(float(power.mean()), 1.0), width, FLAT_SHARE)
    die_flat = np.zeros(b - a, dtype=bool) if load.die is None else _flat(load.die[a:b], width, FLAT_K)
    kinds: Labels = np.full(b - a, "", dtype=object)
    kinds[power_flat & ~die_flat] = "power"
    long_enough = (b - a) * interval >= SHORTEST_REGULATION_S
    if long_enough and load.die is not None:
        kinds[die_flat & ~power_flat] = "regulated"
    for first, last in mask_runs(np.asarray(kinds == "regulated")):
        if (last - first) * interval < SHORTEST_REGULATION_S:
            kinds[first:last] = ""
    if not (kinds != "").any() and bool((power_flat & die_flat).mean() > 0.5):
        # All is settled already: power kept to the digit is a budget, a temperature kept so is a limit.
        kinds[:] = "power"
    _carry_on(kinds)
    kinds = _second_look(kinds, power, None if load.die is None else load.die[a:b], interval)
    out[kinds == "power"] = "power"
    for first, last in mask_runs(np.asarray(kinds == "regulated")):
        assert load.die is not None
        out[first:last] = _regulated_by(float(np.median(load.die[a + first : a + last])), facts)
    shared = _shared(load, a, b, facts, width)
    out[shared & (kinds != "regulated")] = "shared"
    return out


def _flat(x: Array, width: int, tolerance: float) -> Mask:
    """Where x stays within a tolerance over a window around each sample; noise widens the tolerance."""
    jitter = float(np.median(np.abs(np.diff(x)))) if len(x) > 2 else 0.0
    span = rolling(x, width, "max") - rolling(x, width, "min")
    return np.asarray(span < max(tolerance, 5.0 * jitter))


def _carry_on(kinds: Labels) -> None:
    """Undecided samples take what was decided before them; those before the first decision take that."""
    known = np.flatnonzero(kinds != "")
    if len(known) == 0:
        return
    last = np.maximum.accumulate(np.where(kinds != "", np.arange(len(kinds)), -1))
    kinds[:] = kinds[np.where(last < 0, known[0], last)]


def _second_look(kinds: Labels, power: Array, die: Array | None, interval: float) -> Labels:
    """Over a whole piece the slow changes show that a window misses: judge each piece by them."""
    out = kinds.copy()
    for a, b in [*mask_runs(np.asarray(kinds == "power")), *mask_runs(np.asarray(kinds == "regulated"))]:
        if (b - a) * interval < 40.0 or die is None:
            continue
        settled = slice(a + (b - a) // 5, b)
        sinking = spread(power[settled]) / max(float(power[settled].mean()), 1.0)
        moving = spread(die[settled])
        if kinds[a] == "power" and sinking > 2.5 * FLAT_SHARE and moving < 1.3:
            out[a:b] = "regulated"
        elif kinds[a] == "regulated" and sinking < FLAT_SHARE and moving > 2.0:
            out[a:b] = "power"
    return out


def _regulated_by(level_c: float, facts: Facts) -> str:
    """Whose limit a regulated temperature is."""
    limit = facts.cpu.temperature_limit_c
    if limit is not None:
        return "thermal" if level_c > limit - UNDER_LIMIT_K else "firmware"
    return "thermal" if level_c >= HOT_C else "firmware"


def _shared(load: LoadSignals, a: int, b: int, facts: Facts, width: int) -> Mask:
    """Where the graphics side takes a noticeable part of a sum that stays flat, and the processor gets
    less than it is known, or was seen, to be allowed."""
    nothing = np.zeros(b - a, dtype=bool)
    if load.gpu_power is None or load.power is None:
        return nothing
    power, gpu = load.power[a:b], load.gpu_power[a:b]
    together = power + gpu
    part = (gpu > GRAPHICS_SHARE * together) & (gpu > 4.0)
    flat = _flat(together / max(float(together.mean()), 1.0), width, 2.0 * FLAT_SHARE)
    sustained = facts.cpu.sustained_power_w
    if sustained is not None:
        less = power < 0.96 * sustained
    else:
        alone = load.power[(load.gpu_power < 0.5 * float(gpu.mean())) & load.active]
        seen = float(np.percentile(alone, 75)) if len(alone) > 3 else None
        # Never seen alone: only a graphics side that takes a good part of the sum is worth the guess.
        less = power < 0.95 * seen if seen is not None else gpu > 0.25 * together
    return np.asarray(part & flat & less)


def _majority(labels: Labels, held: Mask, reach: int) -> Labels:
    """Each held sample takes the commonest cause around it, so that one odd sample splits nothing."""
    kinds = sorted({k for k in labels if k})
    if len(kinds) < 2:
        return labels
    # A window longer than the load is no window: convolving would then give back the window's length.
    width = min(2 * reach + 1, len(labels))
    counts = np.array([np.convolve(labels == k, np.ones(width), mode="same") for k in kinds])
    winners = np.array(kinds, dtype=object)[counts.argmax(axis=0)]
    return np.asarray(np.where(held, winners, ""), dtype=object)
