"""How well the Bench foresees where a die will settle, and when a course ends: over the demo's rigs and many seeds.

The truth is the simulator's own die, without a sensor, left under load for two hours more. The oracle sees
that die: it ends the load as soon as the last stretch that a course demands drifts less than the course tolerates.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from bench.table import Row
from samovar.bench.course import DRIFT_MARGIN, Course
from samovar.bench.course_spec import CourseSpec
from samovar.bench.guard import Guard
from samovar.bench.recorder import Recorder
from samovar.core.facts import Facts
from samovar.core.marks import Mark
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.core.steady import DRIFT_LIMIT_K_PER_MIN, POWER_DRIFT_PCT_PER_MIN
from samovar.demo import relay_site, van
from samovar.demo.plan import FACTS
from samovar.simulator.harbour import LOADS, SETUPS
from samovar.simulator.machine import SimulatedLoad, SimulatedMachine
from samovar.simulator.rig import SimulatedRig

SEEDS = 50
LOAD = "worst case"
LOOKS = (1 / 3, 0.42, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
"""When the forecast is looked at, in shares of the time to settle."""


@dataclass(frozen=True, slots=True)
class Truth:
    """The die without a sensor: when an oracle ends the load (s after load start), and where it ends up (°C)."""

    oracle_s: float
    steady_c: float


@dataclass(frozen=True, slots=True)
class Case:
    """One run: load time over the oracle's, the steady mean's error (K; None: none given), and for each look
    the forecast's error and half-width (K; None: no forecast)."""

    setup: str
    late: float
    error_k: float | None
    looks: tuple[tuple[float, float] | None, ...]


def facts_of(setup: str) -> Facts:
    """What is known of a setup's rig."""
    chip = SETUPS[setup].chip.name
    facts = {"Pebble K4": van.FACTS, "Ridge B7": relay_site.FACTS}.get(chip, FACTS)
    return replace(facts, cpu=replace(facts.cpu, sustained_power_w=SETUPS[setup].chip.sustained_w))


@lru_cache(maxsize=len(SETUPS))
def truth_of(setup: str) -> Truth:
    """The truth of a setup under the worst load, from idle."""
    rig = SimulatedRig(SETUPS[setup])
    rig.advance_to(500.0)
    rig.start(LOADS[LOAD])
    begin, dies, watts = rig.time_s, [], []
    for second in range(1, 9001):
        rig.advance_to(begin + second)
        dies.append(rig.die_c)
        watts.append(rig.power_w)
    die, power = np.array(dies), np.array(watts)
    # A die at its limit is flat at once: there the oracle looks at the power too, as the course does.
    share = 100.0 * power / power[-600:].mean()
    ends = (
        _calm_from(die, DRIFT_MARGIN * DRIFT_LIMIT_K_PER_MIN),
        _calm_from(share, DRIFT_MARGIN * POWER_DRIFT_PCT_PER_MIN),
    )
    return Truth(max(ends), float(die[-600:].mean()))


def _calm_from(x: np.ndarray, limit: float) -> float:
    """The end of the first stretch as long as a course demands after which x never drifts more than the limit
    per minute; x is taken each second."""
    least = round(CourseSpec(LOAD).steady_least_s)
    smooth = np.convolve(x, np.ones(30) / 30.0, mode="valid")
    drifting = np.flatnonzero(np.abs(smooth[least:] - smooth[:-least]) * 60.0 / least >= limit)
    return float((int(drifting[-1]) + 1 if len(drifting) else 0) + least + 15)


class _Sink:
    def __init__(self) -> None:
        self.times: list[float] = []
        self.rows: list[list[float]] = []
        self.marks: list[Mark] = []

    def append(self, at_s: float, values: list[float]) -> None:
        self.times.append(at_s)
        self.rows.append(list(values))

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        pass

    def mark(self, mark: Mark) -> None:
        self.marks.append(mark)

    def change(self, change: object) -> None:
        pass


def case_of(setup: str, seed: int) -> Case:
    """Record one run through tree, source, recorder and course, and look at its forecasts on the way."""
    truth = truth_of(setup)
    machine = SimulatedMachine(setup, seed=seed, speed=None)
    try:
        sink = _Sink()
        (source,), _ = machine.open_sources()
        course = Course(CourseSpec(LOAD, load_most_s=3600.0, cool_down_most_s=0.0))
        load = SimulatedLoad(machine.rig, LOADS[LOAD])
        recorder = Recorder(
            [source], machine.clock, sink, course=course, loads=[load], guard=Guard(130.0), patience_s=None
        )
        recorder.run()
    finally:
        machine.close()
    time_s, values = np.array(sink.times), np.array(sink.rows).T.copy()
    begin = next(m.at_s for m in sink.marks if m.text.startswith("load on"))
    looks: list[tuple[float, float] | None] = []
    facts = facts_of(setup)
    for share in LOOKS:
        end = int(np.searchsorted(time_s, begin + share * truth.oracle_s, "right"))
        part = Recording(recorder.channels, time_s[:end], values[:, :end])
        found = read(part, facts).forecast
        known = found is not None and found.half_width is not None
        looks.append((found.value - truth.steady_c, found.half_width) if found and known else None)
    whole = read(Recording(recorder.channels, time_s, values), facts)
    steady = whole.steady.get(whole.die or "")
    length = float(time_s[-1]) - begin
    return Case(
        setup, length / truth.oracle_s, steady.mean - truth.steady_c if steady else None, tuple(looks)
    )


def cases(seeds: int = SEEDS) -> list[Case]:
    """All demo rigs, each with so many seeds, on all cores."""
    jobs = [(setup, seed) for setup in SETUPS for seed in range(1, seeds + 1)]
    with ProcessPoolExecutor() as pool:
        return list(pool.map(case_of, *zip(*jobs, strict=True), chunksize=5))


def measure() -> Iterator[Row]:
    """Coverage of the forecast, and how late and how wrong the course ends."""
    found = cases()
    for setup in SETUPS:
        mine = [c for c in found if c.setup == setup]
        spread = [e for c in mine if (e := c.error_k) is not None]
        hits = [abs(x[0]) <= x[1] for c in mine for x in c.looks if x is not None]
        middle = [x for c in mine if (x := c.looks[2]) is not None]
        print(
            f"{setup:<15} oracle {truth_of(setup).oracle_s:5.0f} s  course {np.mean([c.late for c in mine]):.2f}"
            f" (most {max(c.late for c in mine):.2f})  error {np.mean(spread):+.2f}, at most {np.max(np.abs(spread)):.2f} K"
            f"  no steady {len(mine) - len(spread)}  covered {np.mean(hits):.2f} of {len(hits)}"
            f"  half-way {np.mean([m[0] for m in middle]):+.1f} ±{np.mean([m[1] for m in middle]):.1f} K",
            file=sys.stderr,
        )
    errors = [abs(c.error_k) for c in found if c.error_k is not None]
    missed = [not (x is not None and abs(x[0]) <= x[1]) for c in found for x in c.looks]
    late = np.array([c.late for c in found])
    yield Row(
        "forecast: true value outside its interval, from a third on", 100 * float(np.mean(missed)), 10.0, "%"
    )
    yield Row(
        "course ends later than an oracle: worst of all runs", 100 * (float(late.max()) - 1.0), 20.0, "%"
    )
    yield Row("steady die at the course's end, worst error", max(errors), 0.5, "K")
    yield Row("courses that ended without a steady figure", float(len(found) - len(errors)), 0.0, "")
