"""What held the clock below what the load would have reached, from when to when, and how that is known.

The reference clock is what the same load reached when free in this run, else what the caller knows
from other runs, else the facts. Evidence is read from the distribution of the die's temperature (its
upper edge), from a package power that stays flat, from the kernel's throttle flags, from a power that
sinks while the temperature is regulated, and from one domain's power rising as another's falls. A
lower utilisation, a spike or a gap is no evidence.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from samovar.core.facts import Facts, ProcessorFacts
from samovar.core.held_causes import GRAPHICS_SHARE, PEG_K, at_a_budget, label_causes, levels_of
from samovar.core.held_evidence import evidence_of, too_steady
from samovar.core.held_signals import LoadSignals, Mask, averaged, collect, kinds_of_load
from samovar.core.phases import Phase, mask_runs
from samovar.core.recording import Array, Recording
from samovar.core.regulated import Kinds, kept_constant

BOUND_SHARE = 0.8
HELD_SHARE = 0.02
ALONG_SHARE = 0.06
GIVES_SHARE = 0.018
"""A clock that a kept power makes give way by less could be any chip's, a little slower when warm."""
"""The clock must be this much under the reference, as a share, to count as held."""
DEEP_LOSS_SHARE = 0.10
MANY_SAMPLES = 150_000
FAST_ENOUGH_S = 0.5
SHORTEST_BUDGET_S = 20.0
OTHER_BUDGET_SHARE = 0.04
SAME_BUDGET_SHARE = 0.006
LONGEST_GAP_S = 60.0
"""Over a longer stretch that the log does not show nothing is said."""
LONGEST_ISLAND_S = 18.0
LONGEST_TRANSITION_S = 20.0
"""A chip takes a few seconds to give up its burst: what leads straight into a held stretch belongs to it."""


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


def _reference(
    load: LoadSignals, facts: Facts, known_mhz: float | None, part: slice
) -> tuple[float | None, bool]:
    """The reference clock in MHz for one kind of load, and whether this run itself showed it free. None where the
    whole of it was bound by something and nothing says what it would have reached."""
    active = np.zeros(len(load.clock), dtype=bool)
    active[part] = load.active[part]
    clocks = load.clock[active]
    if len(clocks) == 0:
        return None, False
    # A log of a sample in five seconds shows a burst in two of them.
    enough = 3 if load.interval_s < 2.5 else 2
    enough = max(enough, load.samples(3.0))
    # The highest of many noisy values is too high by about two deviations.
    own = float(np.sort(clocks)[-min(enough, len(clocks))]) * (1.0 - 2.0 * min(load.noise_share, 0.01))
    if known_mhz is not None and known_mhz > own * (1.0 + HELD_SHARE):
        return known_mhz, False
    if _plateau_bound(load, facts, own, active) or _regulated_all_along(load, own, active):
        boost = facts.cpu.boost_clock_mhz
        return (max(boost, own), False) if boost is not None else (None, False)
    return own, True


def _plateau_bound(load: LoadSignals, facts: Facts, top_mhz: float, active: Mask) -> bool:
    """Whether some known limit shows over nearly all of the highest plateau, so that it was not free."""
    limit, sustained = facts.cpu.temperature_limit_c, facts.cpu.sustained_power_w
    bound = np.zeros(len(load.clock), dtype=bool)
    if load.die is not None and limit is not None:
        bound |= load.die > limit - PEG_K
    if load.power is not None and not load.from_wall:
        bound |= at_a_budget(load, facts)
        if load.gpu_power is not None and sustained is not None:
            # Together at the budget, and the graphics side takes a good part of it.
            together = load.power + load.gpu_power
            bound |= (load.gpu_power > GRAPHICS_SHARE * together) & (together > 0.9 * sustained)
    plateau = active & (load.clock > top_mhz * (1.0 - 0.75 * HELD_SHARE))
    return bool(plateau.any()) and float(np.mean(bound[plateau])) >= BOUND_SHARE


def _regulated_all_along(load: LoadSignals, top_mhz: float, active: Mask) -> bool:
    """Whether the highest plateau was one power, kept while the die warmed by kelvins and the clock gave way for it: a
    budget from the first second on, so that nothing here was free. A free chip's power follows its leakage."""
    plateau = np.flatnonzero(active & (load.clock > top_mhz * (1.0 - ALONG_SHARE)))
    if load.power is None or load.die is None or load.from_wall or load.light or len(plateau) < 12:
        return False
    a, b = int(plateau[0]) + load.samples(4.0), int(plateau[-1]) + 1
    inside = active[a:b] & (load.clock[a:b] > top_mhz * (1.0 - ALONG_SHARE))
    if float(inside.sum()) * load.interval_s < 60.0 or float(inside.mean()) < 0.9:
        return False
    width = load.samples(8.0)
    ranges = []
    for row in (load.power, load.clock, load.die):
        low, high = np.percentile(averaged(row[a:b], width)[inside], [3, 97])
        ranges.append(float(high - low) / (1.0 if row is load.die else max(float(high), 1e-6)))
    power, clock, die = ranges
    return die > 5.0 and power < 0.004 and clock > GIVES_SHARE and kept_constant(load, a, b) == "power"


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
        # No governor shows more at ten samples a second than at two.
        recording = recording.every(max(1, int(FAST_ENOUGH_S / interval + 1e-6)))
    found: list[HeldStretch] = []
    for number, phase in enumerate(phases):
        if phase.name != "load":
            continue
        before = phases[number - 1] if number and phases[number - 1].name == "idle" else None
        load = collect(recording, phase, before, domain)
        if load is None:
            continue
        found.extend(replace(h, domain=domain) for h in _stretches(load, facts, reference_clock_mhz))
    return found


def _stretches(load: LoadSignals, facts: Facts, known_mhz: float | None) -> list[HeldStretch]:
    n = len(load.clock)
    reference, own = np.full(n, np.nan), np.ones(n, dtype=bool)
    kinds = kinds_of_load(load)
    for part in kinds:
        # What other runs reached is known of the load as it began, not of what it turned into.
        mhz, seen = _reference(load, facts, known_mhz if len(kinds) == 1 else None, part)
        reference[part], own[part] = np.nan if mhz is None else mhz, seen
    known = np.isfinite(reference)
    free_to = 1.0 - HELD_SHARE - 2.0 * min(load.noise_share, 0.01)
    held = load.active & ~(known & (load.clock >= np.where(known, reference, 0.0) * free_to))
    labels, held = label_causes(load, facts, held)
    # Held by something that shows, from an unknown height: what does not show is no evidence then.
    labels[(labels == "unexplained") & ~known] = ""
    if load.light:
        labels[labels == "unexplained"] = ""
    pieces = [
        (label, c, d)
        for label, a, b in _pieces(labels, load)
        for c, d in (_budgets(load, a, b) if label == "power" else [(a, b)])
    ]
    told = _told_levels(load, pieces)
    return [
        _stretch(load, facts, held, label, slice(a, b), reference, bool(own[a:b].all()), told)
        for label, a, b in pieces
    ]


def _budgets(load: LoadSignals, a: int, b: int) -> list[tuple[int, int]]:
    """A stretch held by power, parted where one budget took over from another for good."""
    assert load.power is not None
    out: list[tuple[int, int]] = []
    for c, d in levels_of(load, a, b):
        level = float(np.median(load.power[c:d]))
        lasts = load.time_s[d - 1] - load.time_s[c] >= SHORTEST_BUDGET_S
        if out:
            before = float(np.median(load.power[out[-1][0] : out[-1][1]]))
            earlier = load.time_s[out[-1][1] - 1] - load.time_s[out[-1][0]] >= SHORTEST_BUDGET_S
            if not (lasts and earlier and abs(level / before - 1.0) > OTHER_BUDGET_SHARE):
                out[-1] = (out[-1][0], d)
                continue
        out.append((c, d))
    return out


def _told_levels(load: LoadSignals, pieces: list[tuple[str, int, int]]) -> list[float]:
    """The powers, W, of the stretches in which something moved enough to tell a budget by: it is one elsewhere, too."""
    if load.power is None:
        return []
    parts = [slice(a, b) for label, a, b in pieces if label == "power"]
    if len(parts) < 2:
        return []
    return [float(np.median(load.power[p])) for p in parts if not too_steady(load, p)]


def _stretch(
    load: LoadSignals,
    facts: Facts,
    held: Mask,
    label: str,
    part: slice,
    reference: Array,
    own: bool,
    told_w: list[float],
) -> HeldStretch:
    # A pause of the load within a stretch is no part of what it costs.
    active = load.working(part)
    clock, base = float(np.mean(load.clock[part][active])), facts.cpu.base_clock_mhz
    level = reference[part][np.isfinite(reference[part])]
    loss = 100.0 * (1.0 - clock / float(level.mean())) if len(level) else None
    watts = None if load.power is None else float(np.median(load.power[part][active]))
    told = watts is not None and any(abs(w - watts) < SAME_BUDGET_SHARE * watts for w in told_w)
    confidence, evidence = evidence_of(label, load, part, facts, own, told)
    deep: Mask | None = None
    if base is not None:
        deep = load.fast_clock[part] < base * (1.0 - max(0.003, min(load.noise_share, 0.01)))
    elif len(level):
        deep = load.clock[part] < reference[part] * (1.0 - DEEP_LOSS_SHARE)
    time_s = load.time_s[part]
    return HeldStretch(
        label,
        "cpu",
        float(time_s[0]),
        float(time_s[-1]),
        loss,
        _work_loss(load, held, part),
        confidence,
        evidence,
        float(np.mean(load.fast_clock[part][active])),
        None if deep is None else float((deep & active).mean()) * float(time_s[-1] - time_s[0]),
        None if load.from_wall else watts,
    )


def _pieces(labels: Kinds, load: LoadSignals) -> list[tuple[str, int, int]]:
    """Runs of one cause; pieces of one kind a few seconds apart, or with nothing but a gap in the log between them,
    are one; blips are dropped."""
    time_s, interval = load.time_s, load.interval_s
    pieces: list[tuple[str, int, int]] = []
    for kind in sorted({k for k in labels if k}):
        pieces.extend((kind, a, b) for a, b in mask_runs(np.asarray(labels == kind)))
    pieces.sort(key=lambda p: p[1])
    joined: list[tuple[str, int, int]] = []
    for kind, a, b in pieces:
        if joined and joined[-1][0] == kind and _is_one(load, joined[-1][2] - 1, a):
            joined[-1] = (kind, joined[-1][1], b)
        else:
            joined.append((kind, a, b))
    joined = _absorb_transitions(_absorb_islands(joined, load), load)
    return [p for p in joined if p[2] - p[1] >= 2 and time_s[p[2] - 1] - time_s[p[1]] >= 3.0 - 0.5 * interval]


def _is_one(load: LoadSignals, last: int, first: int) -> bool:
    """Whether two pieces of one kind, from `last` to `first`, belong together."""
    apart_s = float(load.time_s[first] - load.time_s[last])
    if apart_s <= 8.0 + 2 * load.interval_s:
        return True
    seen = int(load.observed[last + 1 : first].sum()) * load.interval_s
    return apart_s <= LONGEST_GAP_S + load.interval_s and seen <= max(4.0, 2.5 * load.interval_s)


def _absorb_islands(pieces: list[tuple[str, int, int]], load: LoadSignals) -> list[tuple[str, int, int]]:
    """A short piece between two much longer ones of one other kind is a moment's misreading, and theirs."""

    def lasts(piece: tuple[str, int, int]) -> float:
        return float(load.time_s[piece[2] - 1] - load.time_s[piece[1]])

    out = list(pieces)
    k = 1
    while k < len(out) - 1:
        before, piece, after = out[k - 1 : k + 2]
        sides = min(lasts(before), lasts(after))
        near = _is_one(load, before[2] - 1, piece[1]) and _is_one(load, piece[2] - 1, after[1])
        if near and before[0] == after[0] and lasts(piece) < min(LONGEST_ISLAND_S, 0.3 * sides):
            out[k - 1 : k + 2] = [(before[0], before[1], after[2])]
        else:
            k += 1
    return out


def _absorb_transitions(pieces: list[tuple[str, int, int]], load: LoadSignals) -> list[tuple[str, int, int]]:
    """A short stretch of no known cause takes the cause of the stretch it runs into."""
    time_s, interval = load.time_s, load.interval_s
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
        if out and out[-1][0] == kind and _is_one(load, b - 1, out[-1][1]):
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
