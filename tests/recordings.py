"""Recordings made for tests: plain physics with known answers, and runs of the simulator with its truth."""

from __future__ import annotations

from collections.abc import Sequence
from copy import deepcopy
from dataclasses import dataclass

import numpy as np

from samovar.bench.course import Course
from samovar.bench.course_spec import CourseSpec
from samovar.bench.guard import Guard
from samovar.bench.recorder import Recorder
from samovar.core.facts import Facts, ProcessorFacts, RoomFacts
from samovar.core.marks import Change, Mark
from samovar.core.quantity import Channel
from samovar.core.recording import Recording
from samovar.simulator.machine import SimulatedMachine
from samovar.simulator.rig import SimulatedRig
from samovar.simulator.spec import LoadSpec, SimulatedSetup

DIE = Channel("CPU die", "temperature", "°C", "die", "cpu")
CLOCK = Channel("Cores", "clock", "MHz", "core", "cpu")
POWER = Channel("Package power", "power", "W", "package", "cpu")
USE = Channel("Utilisation", "load", "%", "package", "cpu")
WORK = Channel("Work", "work", "1/s", "other", "cpu")
GPU = Channel("GPU power", "power", "W", "gpu", "gpu")

FACTS = Facts(ProcessorFacts("Halden 8", 8, 95.0, 3400.0, 4900.0, 95.0, 142.0, 28.0), room=RoomFacts(22.5))


def stepped(
    power_w: np.ndarray, stages: list[tuple[float, float]], base_c: float, base_w: float, step_s: float = 1.0
) -> np.ndarray:
    """The response of a Foster network (K/W, s) to power held between samples, exactly."""
    out = np.full(len(power_w), base_c)
    for resistance, tau in stages:
        state, keep = 0.0, np.exp(-step_s / tau)
        for k in range(1, len(power_w)):
            state = keep * state + (1 - keep) * resistance * (0.5 * (power_w[k] + power_w[k - 1]) - base_w)
            out[k] += state
    return out


def simple_run(
    load_s: int = 1200, idle_s: int = 120, cool_s: int = 200, noise_k: float = 0.15, seed: int = 1
) -> Recording:
    """Idle, burst, a budget of 95 W from 28 s on, cool-down. Steady at 22.5 + 0.5 · 95 ≈ 70 °C."""
    rng = np.random.default_rng(seed)
    n = idle_s + load_s + cool_s
    t = np.arange(n, dtype=float)
    busy = (t >= idle_s) & (t < idle_s + load_s)
    burst = busy & (t < idle_s + 28)
    power = np.where(burst, 140.0, np.where(busy, 95.0, 10.0))
    clock = np.where(burst, 4600.0, np.where(busy, 4000.0, 800.0)) + rng.normal(0, 5, n)
    die = stepped(power, [(0.2, 4.0), (0.3, 90.0)], 27.5, 10.0)
    die = np.round((die + rng.normal(0, noise_k, n)) * 8) / 8
    work = np.where(burst, 920.0, np.where(busy, 810.0, 0.0))
    use = np.where(busy, 100.0, 1.0)
    return Recording((DIE, CLOCK, POWER, USE, WORK), t, np.array([die, clock, power, use, work]))


@dataclass(frozen=True)
class SimulatedRun:
    """A run of the simulator: what the bench recorded, and what was really so."""

    recording: Recording
    truth: list[str]
    steady_die_c: float
    state: str


class _Sink:
    def __init__(self, machine: SimulatedMachine) -> None:
        self.times: list[float] = []
        self.rows: list[list[float]] = []
        self.marks: list[Mark] = []
        self.truth: list[str] = []
        self.at_load_off: SimulatedRig | None = None
        self._machine = machine

    def append(self, at_s: float, values: list[float]) -> None:
        self.times.append(at_s)
        self.rows.append(list(values))
        self.truth.append(self._machine.rig.truth().binding)

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        pass

    def change(self, change: Change) -> None:
        pass

    def mark(self, mark: Mark) -> None:
        self.marks.append(mark)
        if mark.text == "load off":
            self.at_load_off = deepcopy(self._machine.rig)


def simulate(
    setup: str | SimulatedSetup,
    load: str | LoadSpec,
    seed: int = 1,
    spec: CourseSpec | None = None,
    rate_hz: float = 1.0,
    far: bool = True,
) -> SimulatedRun:
    """Record one run through tree, source, recorder and course, as fast as it goes. `far`: live on for two hours to see
    where the die would have settled."""
    from samovar.simulator.harbour import LOADS
    from samovar.simulator.machine import SimulatedLoad
    from samovar.simulator.tree import KernelTree

    machine = SimulatedMachine(setup if isinstance(setup, str) else "Osprey 161", seed=seed, speed=None)
    try:
        if not isinstance(setup, str):
            machine.rig = SimulatedRig(setup)
            machine.rig.advance_to(400.0)
            tree = KernelTree(machine.sysroot, machine.rig, seed)
            machine.clock.rig, machine.clock.tree = machine.rig, tree
        load_spec = LOADS[load] if isinstance(load, str) else load
        sink = _Sink(machine)
        (source,), _ = machine.open_sources()
        course = Course(spec or CourseSpec(load_spec.name, cool_down_most_s=120.0))
        recorder = Recorder(
            [source], machine.clock, sink, course=course, loads=[SimulatedLoad(machine.rig, load_spec)],
            guard=Guard(course.spec.stop_above_c), patience_s=None, rate_hz=rate_hz,
        )  # fmt: skip
        outcome = recorder.run()
        recording = Recording(
            recorder.channels, np.array(sink.times), np.array(sink.rows).T.copy(), tuple(sink.marks),
            outcome.state == "did-not-finish",
        )  # fmt: skip
        # The truth of the steady state: the load goes on for two hours more, without a sensor in between.
        truth = sink.at_load_off or machine.rig
        if far:
            truth.start(load_spec)
            truth.advance_to(truth.time_s + 7200.0)
        return SimulatedRun(recording, sink.truth, truth.die_c if far else float("nan"), outcome.state)
    finally:
        machine.close()
