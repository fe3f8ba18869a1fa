"""What held the clock below what the load would have reached, from when to when, and how that is known.

The reference clock is what the same load reached when free in this run, else what the caller knows
from other runs, else the facts. Evidence is read from the distribution of the die's temperature (its
upper edge), from a package power that stays flat, from the kernel's throttle flags, from a power that
sinks while the temperature is regulated, and from one domain's power rising as another's falls. A
lower utilisation, a spike or a gap is no evidence.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from samovar.core.despike import despiked
from samovar.core.facts import Facts
from samovar.core.phases import Phase
from samovar.core.recording import Array, Recording

HELD_SHARE = 0.02
"""The clock must be this much under the reference, as a share, to count as held."""
_PEG_K = 2.2
_FLAT_SHARE = 0.015
SHORTEST_REGULATION_S = 20.0
"""A temperature has to stay put this long before it can be called regulated."""
LONGEST_TRANSITION_S = 20.0
"""A chip takes a few seconds to give up its burst: what leads straight into a held stretch belongs to it."""
Mask = NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class HeldStretch:
    """One stretch in which the clock was held. Losses in percent of the reference, None where unknown;
    `below_base`: its mean clock was below the base clock, None where the base is not known."""

    by: str
    domain: str
    start_s: float
    end_s: float
    clock_loss_pct: float | None
    work_loss_pct: float | None
    confidence: float
    evidence: str
    mean_clock_mhz: float
    below_base: bool | None


@dataclass(frozen=True)
class _Load:
    """The signals of one load, all of shape (n,), smoothed where that is said."""

    time_s: Array
    clock: Array
    die: Array | None
    power: Array | None
    gpu_power: Array | None
    throttled: Array | None
    work: Array | None
    active: Mask
    base_c: float | None


def _smooth(x: Array, width: int) -> Array:
    """Running median over `width` samples, missing values bridged."""
    from scipy.ndimage import median_filter

    good = np.isfinite(x)
    if not good.any():
        return x
    index = np.arange(len(x))
    filled = np.interp(index, index[good], x[good])
    return np.asarray(median_filter(filled, size=max(1, width | 1), mode="nearest"))


def _rolling(x: Array, width: int, kind: str) -> Array:
    from scipy import ndimage

    function = ndimage.maximum_filter1d if kind == "max" else ndimage.minimum_filter1d
    return np.asarray(function(x, size=max(1, width | 1), mode="nearest"))


def _collect(recording: Recording, phase: Phase, before: Phase | None) -> _Load | None:
    """The load's signals, or None where there is no clock to be held."""
    clock = recording.cpu_clock()
    part = recording.between(phase.start_s, phase.end_s)
    if clock is None or part.stop - part.start < 8 or not np.isfinite(clock[part]).any():
        return None
    interval = recording.interval_s or 1.0
    three_s = round(3.0 / interval)

    def row(index: int | None) -> Array | None:
        return None if index is None else recording.values[index][part]

    die = row(recording.die)
    power, gpu = row(recording.package_power), row(recording.first("power", ["gpu"]))
    flags = recording.find("flag")
    throttled = None
    if flags:
        with np.errstate(all="ignore"):
            throttled = np.nan_to_num(recording.values[flags][:, part]).max(axis=0)
    base_c = None
    if before is not None and recording.die is not None:
        idle = recording.values[recording.die][recording.between(before.start_s, before.end_s)]
        idle = idle[np.isfinite(idle)]
        base_c = float(np.median(idle)) if len(idle) else None
    return _Load(
        recording.time_s[part],
        _smooth(clock[part], three_s),
        None if die is None else _smooth(despiked(die, 4.0), three_s),
        None if power is None else _smooth(power, three_s),
        None if gpu is None else _smooth(gpu, three_s),
        throttled,
        row(recording.first("work")),
        _active(recording, part, interval),
        base_c,
    )


def _active(recording: Recording, part: slice, interval: float) -> Mask:
    """Where the load kept up its demand: utilisation near its usual level, the edges left out."""
    n = part.stop - part.start
    active = np.ones(n, dtype=bool)
    index = recording.first("load", ["package", "die", "other"], "cpu")
    if index is not None:
        use = recording.values[index][part]
        finite = use[np.isfinite(use)]
        if len(finite):
            active = ~(use < 0.9 * np.percentile(finite, 90))
            active &= np.isfinite(use)
    edge = max(1, round(1.0 / interval))
    shrunk = active.copy()
    for k in range(1, edge + 1):
        shrunk[k:] &= active[:-k]
        shrunk[:-k] &= active[k:]
    shrunk[:edge] = False
    shrunk[-edge:] = False
    return shrunk


def _reference(load: _Load, facts: Facts, known_mhz: float | None) -> tuple[float, bool]:
    """The reference clock in MHz, and whether this run itself showed it free."""
    clocks = load.clock[load.active]
    if len(clocks) == 0:
        return float("nan"), False
    interval = float(np.median(np.diff(load.time_s)))
    enough = max(3, round(3.0 / interval))
    top = float(np.sort(clocks)[-min(enough, len(clocks))])
    own = top
    # The plateau counts as free only where something later pushed the clock below it.
    fell = float(np.mean(clocks < top * (1.0 - HELD_SHARE))) > 0.02
    if known_mhz is not None and known_mhz > own * (1.0 + HELD_SHARE):
        return known_mhz, False
    if not fell and facts.cpu.boost_clock_mhz and _bound_throughout(load, facts):
        return facts.cpu.boost_clock_mhz, False
    return own, True


def _bound_throughout(load: _Load, facts: Facts) -> bool:
    """Whether some limit shows over the whole load, so that its plateau cannot be called free."""
    limit = facts.cpu.temperature_limit_c
    if load.die is not None and limit is not None and float(np.median(load.die)) > limit - _PEG_K:
        return True
    if load.power is None:
        return False
    level = float(np.median(load.power))
    budgets = (facts.cpu.sustained_power_w, facts.cpu.burst_power_w)
    return any(b is not None and abs(level - b) < _FLAT_SHARE * b for b in budgets)


def find_held(
    recording: Recording,
    phases: list[Phase],
    facts: Facts,
    reference_clock_mhz: float | None = None,
) -> list[HeldStretch]:
    """All held stretches of a recording, in order of time.

    Args:
        recording: needs a clock channel; the rest makes the evidence.
        phases: from `phases.find_phases`.
        facts: what is known about the machine; every part of it may be missing.
        reference_clock_mhz: what this load reached when free in other runs of the review.
    """
    found: list[HeldStretch] = []
    for number, phase in enumerate(phases):
        if phase.name != "load":
            continue
        before = phases[number - 1] if number and phases[number - 1].name == "idle" else None
        load = _collect(recording, phase, before)
        if load is None:
            continue
        reference, own = _reference(load, facts, reference_clock_mhz)
        if not np.isfinite(reference):
            continue
        found.extend(_stretches(load, facts, reference, own))
    return found


def _stretches(load: _Load, facts: Facts, reference: float, own: bool) -> list[HeldStretch]:
    interval = float(np.median(np.diff(load.time_s)))
    held = load.active & (load.clock < reference * (1.0 - HELD_SHARE))
    labels = _labels(load, facts, held, interval)
    out = []
    for label, a, b in _pieces(labels, load.time_s, interval):
        stretch = slice(a, b)
        clock = float(np.mean(load.clock[stretch]))
        base = facts.cpu.base_clock_mhz
        confidence, evidence = _evidence(label, load, stretch, facts, own)
        out.append(
            HeldStretch(
                label,
                "cpu",
                float(load.time_s[a]),
                float(load.time_s[b - 1]),
                100.0 * (1.0 - clock / reference),
                _work_loss(load, held, stretch),
                confidence,
                evidence,
                clock,
                None if base is None else clock < base,
            )
        )
    return out


def _labels(load: _Load, facts: Facts, held: Mask, interval: float) -> NDArray[np.object_]:
    """A cause for every held sample, the empty string elsewhere."""
    labels = np.full(len(held), "", dtype=object)
    limit = _limit_of(load, facts)
    pegged = np.zeros(len(held), dtype=bool)
    if load.die is not None and limit is not None:
        # A sawtooth under a limit touches it again and again: the upper edge over ten seconds tells.
        pegged = _rolling(load.die, round(10.0 / interval), "max") > limit - _PEG_K
    if load.throttled is not None:
        pegged |= _rolling(load.throttled, round(6.0 / interval), "max") > 0.5
    budgeted = np.zeros(len(held), dtype=bool)
    if load.power is not None:
        for budget in (facts.cpu.sustained_power_w, facts.cpu.burst_power_w):
            if budget is not None:
                budgeted |= np.abs(load.power - budget) < 0.012 * budget
    labels[held & pegged] = "thermal"
    # A chip held by its temperature cannot reach its budget: where it does, the budget is the cause.
    labels[held & budgeted] = "power"
    rest = held & (labels == "")
    for a, b in _mask_runs(rest):
        labels[a:b] = _unlabelled(load, slice(a, b), facts, interval)
    return _majority(labels, held, max(1, round(8.0 / interval)))


def _limit_of(load: _Load, facts: Facts) -> float | None:
    """The die's limit: from the facts, else the level at which the hottest part of the load stays put."""
    if facts.cpu.temperature_limit_c is not None:
        return facts.cpu.temperature_limit_c
    if load.die is None:
        return None
    edge = float(np.percentile(load.die, 99))
    at_edge = float(np.mean(load.die > edge - 1.5))
    return edge if edge >= 84.0 and at_edge > 0.2 else None


def _unlabelled(load: _Load, stretch: slice, facts: Facts, interval: float) -> str:
    """The cause of a held stretch that neither a limit nor a known budget explains."""
    n = stretch.stop - stretch.start
    if load.power is None or n < max(4, round(5.0 / interval)):
        return "unexplained"
    power = load.power[stretch]
    power_range = _range(power) / max(float(power.mean()), 1.0)
    if load.gpu_power is not None:
        gpu = load.gpu_power[stretch]
        others = load.gpu_power[: max(stretch.start, 1)]
        together = power + gpu
        risen = float(gpu.mean()) - float(np.percentile(others, 10))
        noticeable = float(gpu.mean()) > 0.15 * float(together.mean()) and risen > 4.0
        if noticeable and _range(together) / float(together.mean()) < max(0.06, 0.5 * power_range):
            return "shared"
    if load.die is not None:
        die = load.die[stretch]
        base = load.base_c if load.base_c is not None else 25.0
        die_range = _range(die) / max(float(die.mean()) - base, 5.0)
        long_enough = n * interval >= SHORTEST_REGULATION_S
        regulated = long_enough and _range(die) < 2.5 and die_range < power_range
        if regulated and power_range > 0.012:
            return "firmware"
    if power_range < 2.0 * _FLAT_SHARE:
        return "power"
    return "unexplained"


def _range(x: Array) -> float:
    """Spread between the 4th and the 96th percentile."""
    low, high = np.percentile(x, [4, 96])
    return float(high - low)


def _mask_runs(mask: Mask) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]


def _majority(labels: NDArray[np.object_], held: Mask, reach: int) -> NDArray[np.object_]:
    """Each held sample takes the commonest cause around it, so that one odd sample splits nothing."""
    kinds = sorted({k for k in labels if k})
    if len(kinds) < 2:
        return labels
    width = 2 * reach + 1
    counts = np.array([np.convolve(labels == k, np.ones(width), mode="same") for k in kinds])
    winners = np.array(kinds, dtype=object)[counts.argmax(axis=0)]
    return np.asarray(np.where(held, winners, ""), dtype=object)


def _pieces(labels: NDArray[np.object_], time_s: Array, interval: float) -> list[tuple[str, int, int]]:
    """Runs of one cause; pieces of one kind a few seconds apart are one, blips are dropped."""
    pieces: list[tuple[str, int, int]] = []
    for kind in sorted({k for k in labels if k}):
        pieces.extend((kind, a, b) for a, b in _mask_runs(np.asarray(labels == kind)))
    pieces.sort(key=lambda p: p[1])
    joined: list[tuple[str, int, int]] = []
    for kind, a, b in pieces:
        if joined and joined[-1][0] == kind and time_s[a] - time_s[joined[-1][2] - 1] <= 8.0 + 2 * interval:
            joined[-1] = (kind, joined[-1][1], b)
        else:
            joined.append((kind, a, b))
    joined = _absorb_transitions(joined, time_s, interval)
    return [p for p in joined if p[2] - p[1] >= 2 and time_s[p[2] - 1] - time_s[p[1]] >= 3.0 - 0.5 * interval]


def _absorb_transitions(
    pieces: list[tuple[str, int, int]], time_s: Array, interval: float
) -> list[tuple[str, int, int]]:
    """A short stretch of no known cause takes the cause of the stretch it runs into."""
    out: list[tuple[str, int, int]] = []
    for kind, a, b in reversed(pieces):
        short = time_s[b - 1] - time_s[a] < LONGEST_TRANSITION_S
        if (
            kind == "unexplained"
            and short
            and out
            and time_s[out[-1][1]] - time_s[b - 1] <= 3.0 + 2 * interval
        ):
            kind = out[-1][0]
        if out and out[-1][0] == kind and time_s[out[-1][1]] - time_s[b - 1] <= 8.0 + 2 * interval:
            out[-1] = (kind, a, out[-1][2])
        else:
            out.append((kind, a, b))
    return out[::-1]


def _work_loss(load: _Load, held: Mask, stretch: slice) -> float | None:
    """Work done less than in the free part of the same load, percent; None without either."""
    if load.work is None:
        return None
    free = load.work[load.active & ~held]
    free = free[np.isfinite(free)]
    part = load.work[stretch]
    part = part[np.isfinite(part)]
    if len(free) < 3 or len(part) < 3 or float(np.median(free)) <= 0:
        return None
    return float(100.0 * (1.0 - part.mean() / np.median(free)))


def _evidence(label: str, load: _Load, stretch: slice, facts: Facts, own: bool) -> tuple[float, str]:
    """Confidence from 0 to 1 and the evidence in words, with its figures."""
    limit = _limit_of(load, facts)
    parts: list[str] = []
    confidence = {"thermal": 0.85, "power": 0.85, "shared": 0.8, "firmware": 0.75}.get(label, 0.5)
    die = None if load.die is None else float(np.mean(load.die[stretch]))
    power = None if load.power is None else float(np.mean(load.power[stretch]))
    if label == "thermal" and die is not None and limit is not None:
        known = facts.cpu.temperature_limit_c is not None
        confidence = 0.95 if known else 0.8
        parts.append(f"die at {die:.1f} °C, its {'' if known else 'apparent '}limit is {limit:.0f}")
        if power is not None:
            parts.append(f"power down to {power:.0f} W")
    if label == "thermal" and load.throttled is not None and float(load.throttled[stretch].max()) > 0:
        confidence = min(0.98, confidence + 0.03)
        parts.append("the kernel counted thermal throttling")
    if label == "power" and power is not None:
        budgets = (facts.cpu.sustained_power_w, facts.cpu.burst_power_w)
        known = any(b is not None and abs(power - b) < 0.02 * b for b in budgets)
        confidence = 0.97 if known else 0.8
        parts.append(f"package power flat at {power:.1f} W{'' if known else ' (level inferred)'}")
        if die is not None and limit is not None:
            parts.append(f"die {limit - die:.1f} K under its limit")
    if label == "shared" and power is not None and load.gpu_power is not None:
        gpu = float(np.mean(load.gpu_power[stretch]))
        parts.append(f"graphics draw {gpu:.0f} W while the processor gets {power:.0f} W of one budget")
    if label == "firmware" and die is not None:
        under = f", {limit - die:.0f} K under the limit" if limit is not None else ""
        parts.append(f"die regulated at {die:.1f} °C{under}, while power sinks")
    if label == "unexplained":
        missing = [
            n for n, row in (("die temperature", load.die), ("package power", load.power)) if row is None
        ]
        parts.append(f"no {' and no '.join(missing)} in this log" if missing else "no limit or budget shows")
    if not own:
        confidence -= 0.07
        parts.append("reference clock not from this run")
    return round(max(confidence, 0.3), 2), ", ".join(parts)
