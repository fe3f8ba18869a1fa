"""The evidence for one held stretch, in words and figures, and how far it is to be believed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np

from samovar.core.facts import Facts
from samovar.core.held_causes import FACT_K, limit_of
from samovar.core.held_signals import LoadSignals
from samovar.core.recording import Array
from samovar.core.regulated import kept_constant

Evidence = tuple[float, list[str]]
LEAST_CONFIDENCE = 0.3
ELSEWHERE_TOLD = 0.75
SAW_K = 3.0


def evidence_of(
    label: str, load: LoadSignals, stretch: slice, facts: Facts, own: bool, told: bool = False
) -> tuple[float, str]:
    """Confidence from 0 to 1 and the evidence in words, with its figures.

    Args:
        label: what held the clock, a kind of `held`.
        load: the signals; stretch: the samples in question.
        facts: what is known of the machine.
        own: whether this run itself showed the clock free.
        told: whether another stretch at the same power told a budget from a fixed clock.
    """
    tellers: dict[str, Callable[[LoadSignals, slice, Facts], Evidence]] = {
        "thermal": _thermal, "power": partial(_power, told=told), "shared": _shared, "firmware": _firmware,
    }  # fmt: skip
    confidence, parts = tellers.get(label, _unexplained)(load, stretch, facts)
    if not load.demand_known and label in ("power", "unexplained"):
        confidence -= 0.1
        parts.append("no utilisation in this log to rule out that the load eased off")
    if not own:
        confidence -= 0.07
        parts.append("reference clock not from this run, its cost is uncertain")
    return round(max(confidence, LEAST_CONFIDENCE), 2), ", ".join(parts)


def _thermal(load: LoadSignals, stretch: slice, facts: Facts) -> Evidence:
    limit, known = limit_of(load, facts), facts.cpu.temperature_limit_c is not None
    confidence, parts = 0.85, []
    if load.die is not None and load.raw_die is not None and limit is not None:
        # A pause of the load is no tooth.
        die = np.where(load.active[stretch], load.raw_die[stretch], np.nan)
        low, level = _range(die)
        confidence = 0.95 if known else 0.8
        if level - low > SAW_K and _returns(die, low, level) >= 3:
            parts.append(f"die saws between {low:.0f} and {level:.0f} °C")
        else:
            parts.append(f"die at {float(np.mean(load.die[stretch][load.working(stretch)])):.1f} °C")
        parts.append(f"its {'' if known else 'apparent '}limit is {limit:.0f}")
        if known and level < limit - 3.0:
            confidence = 0.8
            parts.append(f"held {limit - level:.0f} K under it: is the stated limit right")
    if load.die is not None and limit is None:
        confidence = 0.75
        parts.append(
            f"die kept at {float(np.median(load.die[stretch])):.1f} °C, what its limit is does not show"
        )
    if load.power is not None:
        parts.append(f"power down to {float(np.mean(load.power[stretch][load.working(stretch)])):.0f} W")
    if load.throttled is not None and float(load.throttled[stretch].max()) > 0:
        confidence = min(0.98, confidence + 0.03)
        parts.append("the kernel counted thermal throttling")
    return confidence, parts


def _power(load: LoadSignals, stretch: slice, facts: Facts, told: bool) -> Evidence:
    if load.power is None:
        return 0.5, []
    power, limit = float(np.mean(load.power[stretch])), limit_of(load, facts)
    budgets = (facts.cpu.sustained_power_w, facts.cpu.burst_power_w)
    known = not load.from_wall and any(b is not None and abs(power - b) < 0.02 * b for b in budgets)
    confidence = 0.97 if known else 0.8
    where = "power at the wall" if load.from_wall else "package power"
    parts = [f"{where} flat at {power:.1f} W{'' if known else ' (level inferred)'}"]
    if load.from_wall:
        confidence -= 0.1
    if load.die is None:
        confidence -= 0.1
        parts.append("no die temperature in this log to rule out heat")
        return confidence, parts
    if limit is not None:
        parts.append(f"die {limit - float(np.mean(load.die[stretch])):.1f} K under its limit")
    if not known and too_steady(load, stretch):
        if told:
            return ELSEWHERE_TOLD, parts
        confidence = min(confidence, 0.65)
        parts.append("too steady to tell a budget from a fixed clock")
    return confidence, parts


def too_steady(load: LoadSignals, stretch: slice) -> bool:
    """Whether so little moves in a stretch that a budget and a fixed clock would look the same."""
    if load.die is None:
        return False
    low, high = _range(load.die[stretch])
    return high - low < 2.5 and not kept_constant(load, stretch.start, stretch.stop)


def _shared(load: LoadSignals, stretch: slice, facts: Facts) -> Evidence:
    if load.power is None or load.gpu_power is None:
        return 0.5, []
    gpu, power = float(np.mean(load.gpu_power[stretch])), float(np.mean(load.power[stretch]))
    return 0.8, [f"graphics draw {gpu:.0f} W while the processor gets {power:.0f} W of one budget"]


def _firmware(load: LoadSignals, stretch: slice, facts: Facts) -> Evidence:
    limit = limit_of(load, facts)
    die = None if load.die is None else float(np.mean(load.die[stretch]))
    under = f"{limit - die:.0f} K under the limit" if limit is not None and die is not None else ""
    name = _kept_elsewhere(load, stretch)
    if name is not None:
        level = float(np.median(load.elsewhere[name][stretch]))
        parts = [f"{name} kept at {level:.1f} °C while power sinks"]
        return 0.7, [*parts, f"die {under}"] if under else parts
    if die is None:
        return 0.5, []
    return 0.75, [f"die regulated at {die:.1f} °C{', ' + under if under else ''}, while power sinks"]


def _unexplained(load: LoadSignals, stretch: slice, facts: Facts) -> Evidence:
    rows = (("die temperature", load.die), ("package power", load.power))
    missing = [name for name, row in rows if row is None]
    if missing:
        return 0.5, [f"no {' and no '.join(missing)} in this log"]
    if kept_constant(load, stretch.start, stretch.stop) == "clock":
        clock = float(np.mean(load.clock[stretch]))
        return 0.6, [
            f"clock fixed at {clock:.0f} MHz while power follows the temperature, by whom does not show"
        ]
    return 0.5, ["no limit or budget shows"]


def _kept_elsewhere(load: LoadSignals, stretch: slice) -> str | None:
    """Of the temperatures apart from the die's the one that stays put; None where the die does, or none does."""
    if not load.elsewhere:
        return None
    spans = {name: _span(row[stretch]) for name, row in load.elsewhere.items()}
    steadiest = min(spans, key=lambda n: spans[n])
    die = _span(load.die[stretch]) if load.die is not None else FACT_K
    return steadiest if spans[steadiest] < min(0.8, 0.5 * die) else None


def _range(x: Array) -> tuple[float, float]:
    known = x[np.isfinite(x)]
    return (float(np.percentile(known, 5)), float(np.percentile(known, 95))) if len(known) else (0.0, 0.0)


def _span(x: Array) -> float:
    low, high = _range(x)
    return high - low


def _returns(x: Array, low: float, high: float) -> int:
    """How often x comes up again from its lower third into its upper third."""
    third = (high - low) / 3.0
    where = np.where(x > high - third, 1, np.where(x < low + third, -1, 0))
    where = where[where != 0]
    return int(np.sum((where[1:] > 0) & (where[:-1] < 0)))
