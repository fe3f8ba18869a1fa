"""What held the clock below what the load would have reached, from when to when, what it cost, and how that is known.

The reference clock is what the same load reached when free in this run, else what the caller knows from other runs,
else the facts. A lower utilisation, a spike or a gap is no evidence.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from samovar.core.facts import Facts, ProcessorFacts
from samovar.core.held.causes import CAUSES, Look, scores_of
from samovar.core.held.kept import POWER, TEMPERATURE, kept_of
from samovar.core.held.path import likeliest
from samovar.core.held.reference import free_from, reference_of
from samovar.core.held.words import evidence_of
from samovar.core.load.graphics import awake
from samovar.core.load.levels import levels_of
from samovar.core.load.limits import limits_of
from samovar.core.load.series import Mask
from samovar.core.load.signals import LoadSignals, collect
from samovar.core.load.teeth import teeth
from samovar.core.phases import Phase
from samovar.core.recording import Array, Recording

DEEP_LOSS_SHARE = 0.10
"""Base unknown, so much under the reference is deep (the contract's word for throttling)."""
MANY_SAMPLES, FAST_ENOUGH_S = 150_000, 0.5
"""Longer recordings are looked at twice a second: no governor shows more."""
OTHER_BUDGET_SHARE, SHORTEST_BUDGET_S = 0.04, 20.0
"""One budget took over from another where they differ by the share, and each stood for so long."""
APART_S, LONGEST_GAP_S = 8.0, 60.0
"""Pieces of one cause nearer than this are one; so are those parted by nothing but a gap in the log of up to a minute."""
SHORTEST_S = 3.0
"""What holds for less is a blip."""
HEAVIER, SLOWER_WHEN_WARM = 1.04, 0.965
"""A chip that draws more than this times what it drew free does other work; one that draws no less, and is no slower
than this, goes its own way, warm."""


@dataclass(frozen=True, slots=True)
class HeldStretch:
    """One stretch in which the clock was held. Losses in percent of the reference, None where unknown;
    `mean_clock_mhz` is that of the fastest cores, which a base clock is stated for. `deep_s`: how long the clock was below
    base in it or, base unknown, more than 10 % below the reference; None where neither is known. `power_w`: what the
    package drew in it, its median, W; None where the package's own power was not measured."""

    by: str
    domain: str
    start_s: float
    end_s: float
    clock_loss_pct: float | None
    work_loss_pct: float | None
    confidence: float
    evidence: str
    mean_clock_mhz: float
    deep_s: float | None
    power_w: float | None = None


def find_held(
    recording: Recording,
    phases: list[Phase],
    facts: Facts,
    reference_clock_mhz: float | None = None,
    domain: str = "cpu",
) -> list[HeldStretch]:
    """All held stretches of a recording's processor, or of its graphics chip, in order of time.

    Args:
        recording: needs a clock channel; the rest makes the evidence.
        phases: from `phases.find_phases`.
        facts: what is known about the machine; every part of it may be missing.
        reference_clock_mhz: what this load reached when free in other runs of the review.
        domain: `cpu` or `gpu`.
    """
    if domain == "gpu":
        facts = Facts(ProcessorFacts(temperature_limit_c=facts.gpu.temperature_limit_c), room=facts.room)
    if len(recording.time_s) > MANY_SAMPLES and (interval := recording.interval_s):
        recording = recording.every(max(1, int(FAST_ENOUGH_S / interval + 1e-6)))
    found: list[HeldStretch] = []
    for number, phase in enumerate(phases):
        if phase.name != "load":
            continue
        before = phases[number - 1] if number and phases[number - 1].name == "idle" else None
        load = collect(recording, phase, before, domain, facts.cpu.temperature_limit_c)
        if load is not None:
            found.extend(replace(h, domain=domain) for h in _stretches(load, facts, reference_clock_mhz))
    return found


def _stretches(load: LoadSignals, facts: Facts, known_mhz: float | None) -> list[HeldStretch]:
    limits = limits_of(load, facts)
    load = replace(load, active=load.active & awake(load, limits.inside))
    reference, own = reference_of(load, limits, facts, known_mhz)
    held = load.active.copy()
    if reference is not None:
        held &= load.clock < free_from(load, reference)
    kinds = kept_of(load, held)
    for saw in teeth(load, load.active & ~limits.eaten):
        held[saw] |= load.active[saw]
        kinds[saw] = TEMPERATURE
    kinds[~held] = ""
    look = Look(load, facts, limits, held, kinds)
    scores = scores_of(look)
    pieces = [
        (cause, c, d)
        for cause, a, b in _pieces(look, scores)
        # Held by something that shows, from an unknown height: what does not show is no evidence then.
        if not (cause == "unexplained" and (load.light or reference is None))
        if not _own_way(look, cause, a, b)
        for c, d in (_budgets(load, a, b) if cause == "power" else [(a, b)])
    ]
    return [_stretch(look, cause, slice(a, b), reference, own, scores) for cause, a, b in pieces]


def _pieces(look: Look, scores: Array) -> list[tuple[str, int, int]]:
    """Runs of one cause; those a few seconds apart, or with nothing but a gap in the log between them, are one."""
    load, where = look.load, np.flatnonzero(look.held)
    if len(where) == 0:
        return []
    time_s = load.time_s[where]
    apart = np.diff(time_s, prepend=time_s[0])
    lasts = np.minimum(np.diff(load.time_s, append=load.time_s[-1] + load.interval_s), 2.5 * load.interval_s)
    chosen = likeliest(scores[:, where], lasts[where], apart > LONGEST_GAP_S)
    out: list[tuple[str, int, int]] = []
    for k in range(len(where)):
        at, cause = int(where[k]), CAUSES[chosen[k]]
        if out and out[-1][0] == cause and _is_one(load, out[-1][2] - 1, at):
            out[-1] = (cause, out[-1][1], at + 1)
        else:
            out.append((cause, at, at + 1))
    return [p for p in out if p[2] - p[1] >= 2 and load.seconds(*p[1:]) >= SHORTEST_S - 0.5 * load.interval_s]


def _is_one(load: LoadSignals, last: int, first: int) -> bool:
    """Whether two pieces of one cause, from `last` to `first`, belong together."""
    apart_s = float(load.time_s[first] - load.time_s[last])
    if apart_s <= APART_S + 2 * load.interval_s:
        return True
    seen = int(load.observed[last + 1 : first].sum()) * load.interval_s
    return apart_s <= LONGEST_GAP_S + load.interval_s and seen <= max(0.5 * APART_S, 2.5 * load.interval_s)


def _own_way(look: Look, cause: str, a: int, b: int) -> bool:
    """Whether a piece is no loss at all: a chip that is held draws less than when it was free. One that draws more at a
    lower clock does other work; one that draws no less, and is hardly slower, is warm."""
    load, free = look.load, look.load.active & ~look.held
    if cause not in ("unexplained", "power") or load.power is None or load.from_wall:
        return False
    if float(free.sum()) * load.interval_s < 5.0 or bool(look.limits.known[a:b].mean() > 0.5):
        return False
    free_w, free_mhz = (float(np.percentile(row[free], 75)) for row in (load.power, load.clock))
    watts, mhz = float(np.median(load.power[a:b])), float(np.median(load.clock[a:b]))
    warm = watts > free_w and mhz > SLOWER_WHEN_WARM * free_mhz and not bool((look.kinds[a:b] == POWER).any())
    return watts > HEAVIER * free_w or warm


def _budgets(load: LoadSignals, a: int, b: int) -> list[tuple[int, int]]:
    """A stretch held by power, parted where one budget took over from another for good."""
    assert load.power is not None
    out: list[tuple[int, int]] = []
    for c, d in levels_of(load, a, b):
        level = float(np.median(load.power[c:d]))
        if out:
            before = float(np.median(load.power[out[-1][0] : out[-1][1]]))
            stood = min(load.seconds(c, d), load.seconds(*out[-1])) >= SHORTEST_BUDGET_S
            if not (stood and abs(level / before - 1.0) > OTHER_BUDGET_SHARE):
                out[-1] = (out[-1][0], d)
                continue
        out.append((c, d))
    return out


def _stretch(
    look: Look, cause: str, part: slice, reference: float | None, own: bool, scores: Array
) -> HeldStretch:
    load, base = look.load, look.facts.cpu.base_clock_mhz
    # A pause of the load within a stretch is no part of what it costs.
    active = load.working(part)
    clock = float(np.mean(load.clock[part][active]))
    confidence, evidence = evidence_of(look, cause, part, own, scores)
    deep: Mask | None = None
    if base is not None:
        deep = load.fast_clock[part] < base * (1.0 - max(0.003, min(load.noise_share, 0.01)))
    elif reference is not None:
        deep = load.clock[part] < reference * (1.0 - DEEP_LOSS_SHARE)
    time_s = load.time_s[part]
    return HeldStretch(
        by=cause,
        domain="cpu",
        start_s=float(time_s[0]),
        end_s=float(time_s[-1]),
        clock_loss_pct=None if reference is None else 100.0 * (1.0 - clock / reference),
        work_loss_pct=_work_loss(look, part),
        confidence=confidence,
        evidence=evidence,
        mean_clock_mhz=float(np.mean(load.fast_clock[part][active])),
        deep_s=None if deep is None else float((deep & active).mean()) * float(time_s[-1] - time_s[0]),
        power_w=None if load.from_wall or load.power is None else float(np.median(load.power[part][active])),
    )


def _work_loss(look: Look, part: slice) -> float | None:
    """Work done less than in the free part of the same load, percent; None without either."""
    if look.load.work is None:
        return None
    free = look.load.work[look.load.active & ~look.held]
    free, done = free[np.isfinite(free)], look.load.work[part]
    done = done[np.isfinite(done)]
    if len(free) < 3 or len(done) < 3 or float(np.median(free)) <= 0:
        return None
    return float(100.0 * (1.0 - done.mean() / np.median(free)))
