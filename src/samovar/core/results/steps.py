"""A run in steps: fans at 40, 60, 80 and 100 %, loads one after another. Each step gives results of its own.

Steps are told by what the recorder kept of its changes. A log of other making has none: there, loads that follow each
other are steps, and so are the levels of a fan that was set, which stands at each for a minute or more and goes from one
to the next at once, as a fan that is regulated never does.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from samovar.core.by_hand.reading import HandReading, results_by_hand
from samovar.core.despike import despiked
from samovar.core.held.stretches import HeldStretch
from samovar.core.marks import FANS, JOINS, LEAVES, LOAD
from samovar.core.phases import Phase
from samovar.core.reading import Reading
from samovar.core.recording import Array, Recording
from samovar.core.results.compute import results_under
from samovar.core.results.result import Result
from samovar.core.steady import SteadyWindow, find_steady

LEAST_STEP_S = 20.0
"""A shorter stretch between two changes is their joint transition, no step."""
LEAST_LEVEL_S = 60.0
"""A fan that is set stands at a level at least so long."""
AT_ONCE_S = 10.0
"""Within this a fan that is set has gone over to its next level."""
LEAST_JUMP = 0.10
"""Of its highest speed: a smaller difference is no other level."""
MOST_SPREAD = 0.04
"""Of its highest speed: the middle half of a level's values lies within this."""
EDGE_S = 2.0
"""The last seconds before a change may already be of it."""


@dataclass(frozen=True, slots=True)
class Step:
    """One step of a run, from and to, seconds from the first sample."""

    name: str
    start_s: float
    end_s: float


@dataclass(frozen=True, slots=True)
class StepResults:
    """A step with its results, those read by hand in it among them."""

    step: Step
    results: tuple[Result, ...]


def steps_of(recording: Recording, reading: Reading) -> list[Step]:
    """The steps of a run in order of time; none where it has but one."""
    ways = (
        [_of_changes(recording)] if recording.changes else [_of_loads(reading), _of_fans(recording, reading)]
    )
    return next((found for found in ways if len(found) > 1), [])


def results_of_steps(recording: Recording, reading: Reading, steps: Sequence[Step]) -> list[StepResults]:
    """What was measured in each of a run's steps."""
    return [StepResults(step, tuple(_results_of(recording, reading, step))) for step in steps]


def with_hands(steps: Sequence[StepResults], readings: Sequence[HandReading]) -> list[StepResults]:
    """Steps with what hands read in them."""
    out = []
    for one in steps:
        inside = [
            r
            for r in readings
            if r.at_s is not None and one.step.start_s <= r.at_s <= one.step.end_s + EDGE_S
        ]
        out.append(replace(one, results=(*one.results, *results_by_hand(inside, one.step.start_s))))
    return out


def _results_of(recording: Recording, reading: Reading, step: Step) -> list[Result]:
    span = (step.start_s, step.end_s)
    within = replace(
        reading,
        phases=[Phase("load", *span)],
        window=_window(recording, span),
        steady={},
        held=_clipped(reading.held, span),
        held_graphics=_clipped(reading.held_graphics, span),
    )
    return results_under(recording, within, span)


def _window(recording: Recording, span: tuple[float, float]) -> SteadyWindow | None:
    if recording.die is None:
        return None
    part = recording.between(*span)
    return find_steady(recording.time_s[part], despiked(recording.values[recording.die][part]))


def _clipped(stretches: Sequence[HeldStretch], span: tuple[float, float]) -> list[HeldStretch]:
    inside = [h for h in stretches if h.end_s > span[0] and h.start_s < span[1]]
    return [replace(h, start_s=max(h.start_s, span[0]), end_s=min(h.end_s, span[1])) for h in inside]


def _of_changes(recording: Recording) -> list[Step]:
    """The stretches between one change and the next, as long as a load was on."""
    load, fans, beside = "", "", list[str]()
    end = float(recording.time_s[-1]) if len(recording.time_s) else 0.0
    moments: list[tuple[float, str, str, tuple[str, ...]]] = []
    for change in recording.changes:
        if change.what == LOAD:
            load, beside = change.name, ([] if not change.name else beside)
        elif change.what == FANS:
            fans = change.words
        elif change.what == JOINS:
            beside = [*beside, change.name]
        elif change.what == LEAVES:
            beside = [name for name in beside if name != change.name]
        moments.append((change.at_s, load, fans, tuple(beside)))
    several = {m[1] for m in moments if m[1]}
    found = []
    for (at_s, on, set_to, joined), following in itertools.zip_longest(moments, moments[1:]):
        until = following[0] if following is not None else end
        if not on or until - at_s < LEAST_STEP_S:
            continue
        words = [on] if len(several) > 1 or not (set_to or joined) else []
        words += [set_to] if set_to else []
        words += [f"with {' and '.join(joined)}"] if joined else []
        found.append(Step(", ".join(words), at_s, until - EDGE_S))
    return found


def _of_loads(reading: Reading) -> list[Step]:
    loads = [p for p in reading.phases if p.name == "load"]
    return [
        Step(f"load {k}", p.start_s, p.end_s - EDGE_S)
        for k, p in enumerate(loads, 1)
        if p.duration_s > LEAST_STEP_S
    ]


def _of_fans(recording: Recording, reading: Reading) -> list[Step]:
    """The levels of a fan that was set by somebody, in a log that does not tell so."""
    load = reading.load_phase()
    if load is None or load.duration_s < 2 * LEAST_LEVEL_S:
        return []
    part = recording.between(load.start_s, load.end_s - EDGE_S)
    for index, unit in _fans(recording):
        levels = _levels(recording.time_s[part], recording.values[index][part])
        if len(levels) > 1:
            return [
                Step(f"{'fans' if unit == '%' else 'fan'} {level:.0f} {unit}", a, b) for a, b, level in levels
            ]
    return []


def _fans(recording: Recording) -> list[tuple[int, str]]:
    """Channels that tell how fast the fans are set, duties before speeds."""
    duties = [
        k
        for k in recording.find("load")
        if re.search(r"\bfan|\bpwm|duty|l[üu]fter", recording.channels[k].name, re.I)
    ]
    return [*((k, "%") for k in duties), *((k, "rpm") for k in recording.find("fan"))]


def _levels(time_s: Array, row: Array) -> list[tuple[float, float, float]]:
    """The levels a fan was set to: from, to, and its speed there; empty where it is regulated, or stands at one."""
    good = np.isfinite(row)
    time_s, row = time_s[good], row[good]
    if len(row) < 20:
        return []
    top = float(np.percentile(row, 98))
    reach = max(2, round(AT_ONCE_S / max(1e-6, float(np.median(np.diff(time_s))))))
    if top <= 0 or len(row) < 4 * reach:
        return []
    windows = np.lib.stride_tricks.sliding_window_view(row, reach)
    medians = np.median(windows, axis=1)
    jump = np.zeros(len(row))
    # The median of what comes after less that of what went before, with room for the transition between them.
    jump[reach : len(row) - 2 * reach + 1] = np.abs(
        medians[2 * reach :] - medians[: len(medians) - 2 * reach]
    )
    edges, at = [], np.flatnonzero(jump > LEAST_JUMP * top)
    for group in np.split(at, np.flatnonzero(np.diff(at) > reach) + 1):
        if len(group):
            # Both medians see an edge for as long as it lies between them: it is in the middle of that.
            edges.append(int(group.mean()) + reach // 2)
    bounds = [0, *edges, len(row)]
    found = []
    for a, b in itertools.pairwise(bounds):
        first, last = a + (reach if a else 0), b - (reach // 2 if b < len(row) else 0)
        if last - first < 3 or time_s[last - 1] - time_s[first] < LEAST_LEVEL_S - AT_ONCE_S:
            return []
        low, middle, high = np.percentile(row[first:last], (25, 50, 75))
        if high - low > MOST_SPREAD * top:
            return []
        found.append((float(time_s[a + (reach // 2 if a else 0)]), float(time_s[last - 1]), float(middle)))
    return found
