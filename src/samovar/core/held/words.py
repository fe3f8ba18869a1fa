"""The evidence for one held stretch, in words and figures, and how far it is to be believed."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from samovar.core.held.causes import CAUSES, FITS, SEEN, Look
from samovar.core.held.kept import CLOCK, FLOOR, POWER, kept_by_slope
from samovar.core.load.graphics import own_power
from samovar.core.load.limits import limit_of
from samovar.core.load.series import range_of, returns
from samovar.core.recording import Array

LEAST_CONFIDENCE, MOST_CONFIDENCE = 0.3, 0.98
RIVAL = 0.3
"""What speaks for the next best cause takes away this share of itself."""
NOT_RULED_OUT = 0.1
"""Taken away for a column that would rule out another cause, and is not there."""
ELSEWHERE_REFERENCE = 0.07
"""Taken away where the reference clock is not of this run: its cost is the less sure."""
SAW_K, SAW_TIMES = 3.0, 3
"""A die that goes to and fro by so much, so many times, saws."""
TOO_STEADY_K = 2.5
"""A die that moves less cannot tell a kept power from a fixed clock."""

Words = tuple[float, list[str]]
"""What is taken from the confidence, and the evidence in words."""


def evidence_of(look: Look, cause: str, part: slice, own: bool, scores: Array) -> tuple[float, str]:
    """Confidence from 0 to 1 and the evidence in words, with its figures.

    The confidence is what most of the stretch has for its cause, less a share of what it has for the next best.

    Args:
        look: what the causes were judged by; part: the samples in question.
        own: whether this run itself showed the clock free.
        scores: of all causes, shape (causes, n).
    """
    taken, parts = _WORDS[cause](look, part)
    mine = CAUSES.index(cause)
    # What is seen in a part of a stretch at one level holds for all of it.
    best = float(np.percentile(scores[mine, part], 80))
    if cause == "power" and not _stated(look, part):
        # Surely of one level, and yet a level that nobody has stated.
        best = min(best, SEEN)
    rival = float(np.mean(np.delete(scores[:, part], mine, axis=0).max(axis=0)))
    confidence = min(best, MOST_CONFIDENCE) - RIVAL * max(0.0, rival - 0.5) - taken
    if not look.load.demand_known and cause in ("power", "unexplained"):
        confidence -= NOT_RULED_OUT
        parts.append("no utilisation in this log to rule out that the load eased off")
    if not own:
        confidence -= ELSEWHERE_REFERENCE
        parts.append("reference clock not from this run, its cost is uncertain")
    return round(min(max(confidence, LEAST_CONFIDENCE), MOST_CONFIDENCE), 2), ", ".join(parts)


def _thermal(look: Look, part: slice) -> Words:
    load, stated = look.load, look.facts.cpu.temperature_limit_c
    limit, parts = limit_of(load, look.facts), []
    working = load.working(part)
    if load.die is not None and load.raw_die is not None:
        # A pause of the load is no tooth.
        die = np.where(load.active[part], load.raw_die[part], np.nan)
        low, level = range_of(die)
        if level - low > SAW_K and returns(die, low, level) >= SAW_TIMES:
            parts.append(f"die saws between {low:.0f} and {level:.0f} °C")
        else:
            parts.append(f"die at {float(np.mean(load.die[part][working])):.1f} °C")
        if limit is None:
            parts.append("what its limit is does not show")
        else:
            parts.append(f"its {'' if stated is not None else 'apparent '}limit is {limit:.0f}")
        if stated is not None and level < stated - SAW_K:
            parts.append(f"held {stated - level:.0f} K under it: is the stated limit right")
    if load.power is not None:
        parts.append(f"power down to {float(np.mean(load.power[part][working])):.0f} W")
    if bool(look.limits.flagged[part].any()):
        parts.append("the kernel counted thermal throttling")
    return 0.0, parts


def _power(look: Look, part: slice) -> Words:
    load = look.load
    if load.power is None:
        return 0.3, []
    watts, limit = float(np.mean(load.power[part])), limit_of(load, look.facts)
    stated = _stated(look, part)
    where = "power at the wall" if load.from_wall else "package power"
    taken = NOT_RULED_OUT if load.from_wall else 0.0
    parts = [f"{where} flat at {watts:.1f} W{'' if stated else ' (level inferred)'}"]
    if load.die is None:
        return taken + NOT_RULED_OUT, [*parts, "no die temperature in this log to rule out heat"]
    if limit is not None:
        parts.append(f"die {limit - float(np.mean(load.die[part])):.1f} K under its limit")
    low, high = range_of(load.die[part])
    if not stated and high - low < TOO_STEADY_K and not kept_by_slope(load, part.start, part.stop):
        seen = bool((look.kinds[part] == POWER).any())
        if not seen:
            return taken + (SEEN - FITS) / 2, [*parts, "too steady to tell a budget from a fixed clock"]
    return taken, parts


def _stated(look: Look, part: slice) -> bool:
    return bool(look.limits.budget[part].mean() > 0.5)


def _shared(look: Look, part: slice) -> Words:
    own, gpu = own_power(look.load, look.limits.inside), look.load.gpu_power
    if own is None or gpu is None:
        return 0.3, []
    counted = ", both in the package's power" if look.limits.inside else ""
    drawn, left = float(np.mean(gpu[part])), float(np.mean(own[part]))
    return NOT_RULED_OUT, [
        f"graphics draw {drawn:.0f} W while the processor gets {left:.0f} W of one budget{counted}"
    ]


def _firmware(look: Look, part: slice) -> Words:
    load, limit = look.load, limit_of(look.load, look.facts)
    die = None if load.die is None else float(np.mean(load.die[part]))
    under = f"{limit - die:.0f} K under the limit" if limit is not None and die is not None else ""
    named = [str(kind)[1:] for kind in look.kinds[part] if str(kind).startswith("@")]
    if named and len(named) > 0.2 * (part.stop - part.start):
        name = max(set(named), key=named.count)
        level = float(np.median(load.elsewhere[name][part]))
        parts = [f"{name} kept at {level:.1f} °C while power sinks"]
        return NOT_RULED_OUT, [*parts, f"die {under}"] if under else parts
    if die is None or load.die is None:
        return 0.3, []
    if bool((look.kinds[part] == FLOOR).mean() > 0.5):
        return NOT_RULED_OUT, [
            f"clock at its floor since the die was at {load.die[part][0]:.1f} °C, and not given back"
        ]
    return 0.05, [f"die regulated at {die:.1f} °C{', ' + under if under else ''}, while power sinks"]


def _unexplained(look: Look, part: slice) -> Words:
    load = look.load
    rows = (("die temperature", load.die), ("package power", load.power))
    missing = [name for name, row in rows if row is None]
    # That nothing shows is itself known well enough: what is said is no more than that.
    if missing:
        return -0.2, [f"no {' and no '.join(missing)} in this log"]
    if bool((look.kinds[part] == CLOCK).any()):
        clock = float(np.mean(load.clock[part]))
        words = f"clock fixed at {clock:.0f} MHz while power follows the temperature, by whom does not show"
        return 0.2, [words]
    return -0.2, ["no limit or budget shows"]


_WORDS: dict[str, Callable[[Look, slice], Words]] = {
    "thermal": _thermal, "power": _power, "shared": _shared, "firmware": _firmware, "unexplained": _unexplained,
}  # fmt: skip
