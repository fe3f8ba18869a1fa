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

from samovar.core.facts import Facts
from samovar.core.held_causes import FLAT_SHARE, GRAPHICS_SHARE, PEG_K, label_causes, limit_of
from samovar.core.held_signals import LoadSignals, Mask, collect
from samovar.core.phases import Phase, mask_runs
from samovar.core.recording import Array, Recording

BOUND_SHARE = 0.8
HELD_SHARE = 0.02
"""The clock must be this much under the reference, as a share, to count as held."""
LONGEST_TRANSITION_S = 20.0
"""A chip takes a few seconds to give up its burst: what leads straight into a held stretch belongs to it."""


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


def _reference(load: LoadSignals, facts: Facts, known_mhz: float | None) -> tuple[float | None, bool]:
    """The reference clock in MHz, and whether this run itself showed it free. None where the whole load
    was bound by something and nothing says what it would have reached."""
    clocks = load.clock[load.active]
    if len(clocks) == 0:
        return None, False
    interval = float(np.median(np.diff(load.time_s)))
    enough = max(3, round(3.0 / interval))
    own = float(np.sort(clocks)[-min(enough, len(clocks))])
    if known_mhz is not None and known_mhz > own * (1.0 + HELD_SHARE):
        return known_mhz, False
    if _plateau_bound(load, facts, own):
        boost = facts.cpu.boost_clock_mhz
        return (max(boost, own), False) if boost is not None else (None, False)
    return own, True


def _plateau_bound(load: LoadSignals, facts: Facts, top_mhz: float) -> bool:
    """Whether some known limit shows over nearly all of the highest plateau, so that it was not free."""
    limit, sustained = facts.cpu.temperature_limit_c, facts.cpu.sustained_power_w
    bound = np.zeros(len(load.clock), dtype=bool)
    if load.die is not None and limit is not None:
        bound |= load.die > limit - PEG_K
    if load.power is not None:
        for budget in (sustained, facts.cpu.burst_power_w):
            if budget is not None:
                bound |= np.abs(load.power - budget) < FLAT_SHARE * budget
        if load.gpu_power is not None and sustained is not None:
            # Together at the budget, and the graphics side takes a good part of it.
            together = load.power + load.gpu_power
            bound |= (load.gpu_power > GRAPHICS_SHARE * together) & (together > 0.9 * sustained)
    plateau = load.active & (load.clock > top_mhz * (1.0 - 0.75 * HELD_SHARE))
    return bool(plateau.any()) and float(np.mean(bound[plateau])) >= BOUND_SHARE


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
        load = collect(recording, phase, before)
        if load is None:
            continue
        reference, own = _reference(load, facts, reference_clock_mhz)
        found.extend(_stretches(load, facts, reference, own))
    return found


def _stretches(load: LoadSignals, facts: Facts, reference: float | None, own: bool) -> list[HeldStretch]:
    interval = float(np.median(np.diff(load.time_s)))
    held = load.active.copy()
    if reference is not None:
        held &= load.clock < reference * (1.0 - HELD_SHARE)
    labels = label_causes(load, facts, held, interval)
    if reference is None:
        # Held by something that shows, from an unknown height: what does not show is no evidence then.
        labels[labels == "unexplained"] = ""
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
                None if reference is None else 100.0 * (1.0 - clock / reference),
                _work_loss(load, held, stretch),
                confidence,
                evidence,
                clock,
                None if base is None else clock < base,
            )
        )
    return out


def _pieces(labels: NDArray[np.object_], time_s: Array, interval: float) -> list[tuple[str, int, int]]:
    """Runs of one cause; pieces of one kind a few seconds apart are one, blips are dropped."""
    pieces: list[tuple[str, int, int]] = []
    for kind in sorted({k for k in labels if k}):
        pieces.extend((kind, a, b) for a, b in mask_runs(np.asarray(labels == kind)))
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


def _work_loss(load: LoadSignals, held: Mask, stretch: slice) -> float | None:
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


def _evidence(label: str, load: LoadSignals, stretch: slice, facts: Facts, own: bool) -> tuple[float, str]:
    """Confidence from 0 to 1 and the evidence in words, with its figures."""
    limit = limit_of(load, facts)
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
        parts.append("reference clock not from this run, its cost is uncertain")
    return round(max(confidence, 0.3), 2), ", ".join(parts)
