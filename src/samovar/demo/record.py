"""Recording one planned run of the demo through the ordinary bench, without waiting for the wall clock."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from samovar.bench.course import Course
from samovar.bench.course_spec import spec_of
from samovar.bench.guard import Guard
from samovar.bench.loads.catalogue import OwnLoad
from samovar.bench.recorder import Recorder
from samovar.core.facts import Facts
from samovar.core.marks import FANS, Change, Mark
from samovar.core.reading import read
from samovar.core.reading_plain import to_plain
from samovar.core.recording import Recording
from samovar.core.results.compute import results_of
from samovar.core.results.result import Result
from samovar.core.results.steps import StepResults, results_of_steps, steps_of
from samovar.core.sound.heard import Heard
from samovar.demo.heard import clip_of, heard_at
from samovar.demo.plan import PlannedRun
from samovar.simulator.machine import SimulatedMachine
from samovar.simulator.sound import Moment

LISTENED_TO = "voice booth"
"""The review whose rig has a microphone beside it."""
BEFORE_S = 40.0
"""So long before a step ends a reviewer reads the meter."""


@dataclass(frozen=True, slots=True)
class Warmth:
    """How warm a rig's parts were when its load last ran, °C: the regulators, the cooler's base, the air in the case."""

    regulator_c: float = float("nan")
    cooler_c: float = float("nan")
    case_c: float = float("nan")


class _Memory:
    """A sink that keeps everything in lists."""

    def __init__(self, machine: SimulatedMachine) -> None:
        self.times: list[float] = []
        self.rows: list[Sequence[float]] = []
        self.marks: list[Mark] = []
        self.changes: list[Change] = []
        self.truth: list[str] = []
        self.noise_dba = float("nan")
        self.warmth = Warmth()
        self.levels: list[float] = []
        self.rpms: list[float] = []
        self.loaded: Moment | None = None
        self._machine = machine

    def append(self, at_s: float, values: Sequence[float]) -> None:
        self.times.append(at_s)
        self.rows.append(values)
        self.truth.append(self._machine.rig.truth().binding)
        self.levels.append(self._machine.rig.noise_dba())
        self.rpms.append(self._machine.rig.rpm)
        if self._machine.rig.load is not None:
            self.noise_dba = self._machine.rig.noise_dba()
            self.loaded = Moment(self._machine.rig.setup, self._machine.rig.rpm)
            rig = self._machine.rig
            self.warmth = Warmth(rig.vrm_c, rig.cooler_c, rig.case_c)

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        """Its sources answer at once: nothing comes late."""

    def mark(self, mark: Mark) -> None:
        self.marks.append(mark)

    def change(self, change: Change) -> None:
        self.changes.append(change)


@dataclass(frozen=True)
class RecordedRun:
    """What one planned run gave: the recording, how it ended, its reading and results, the noise and how
    warm its parts were, and for tests the simulator's own truth: every sample's binding limit. `step_levels`: of a run in fan
    steps when, s, and how loud it was towards the end of each, dBA."""

    recording: Recording
    state: str
    reason: str | None
    reading: dict[str, Any]
    results: list[Result]
    noise_dba: float
    truth: list[str]
    warmth: Warmth
    step_levels: tuple[tuple[float, float], ...] = ()
    steps: tuple[StepResults, ...] = ()
    heard: tuple[HeardThen, ...] = ()


@dataclass(frozen=True)
class HeardThen:
    """What the booth's microphone heard at a moment of a run, s; `clip` is a piece of it as FLAC, empty where none is kept."""

    at_s: float
    heard: Heard
    clip: bytes = b""


def record(
    plan: PlannedRun, facts: Facts, course: dict[str, Any], own: Mapping[str, OwnLoad] | None = None
) -> RecordedRun:
    """Record one planned run through the bench, without waiting for the wall clock."""
    machine = SimulatedMachine(plan.setup, plan.room_c, plan.seed, speed=None)
    try:
        sink = _Memory(machine)
        (source,), _ = machine.open_sources()
        spec = spec_of(plan.load, course, facts.cpu.temperature_limit_c)
        if plan.stop_above_c is not None:
            spec = replace(spec, stop_above_c=plan.stop_above_c)
        recorder = Recorder(
            [source],
            machine.clock,
            sink,
            course=Course(spec),
            loads=[machine.make_load(part.load or plan.load, own=own) for part in spec.plan],
            set_fans=machine.set_fans,
            guard=Guard(spec.stop_above_c),
            patience_s=None,
        )
        outcome = recorder.run()
    finally:
        machine.close()
    recording = Recording(
        recorder.channels,
        np.array(sink.times),
        np.array(sink.rows).T.copy(),
        tuple(sink.marks),
        outcome.state == "did-not-finish",
        tuple(sink.changes),
    )
    reading = read(recording, facts)
    return RecordedRun(
        recording,
        outcome.state,
        outcome.reason,
        to_plain(reading),
        results_of(recording, reading),
        sink.noise_dba,
        sink.truth,
        sink.warmth,
        _step_levels(sink) if spec.steps else (),
        tuple(results_of_steps(recording, reading, steps_of(recording, reading))) if spec.steps else (),
        _heard(sink, plan, bool(spec.steps))
        if plan.review == LISTENED_TO and outcome.state == "sealed"
        else (),
    )


def _heard(sink: _Memory, plan: PlannedRun, in_steps: bool) -> tuple[HeardThen, ...]:
    """What the microphone heard before the load went off, and before each change of fans."""
    found: list[HeardThen] = []
    if sink.loaded is None:
        # Nothing ran that would be loud.
        return ()
    for at_s in _read_at(sink)[0 if in_steps else -1 :]:
        k = int(np.searchsorted(sink.times, at_s))
        heard, samples = heard_at(Moment(sink.loaded.setup, sink.rpms[k]), plan.seed + k)
        # What is kept of each run is short, and of runs in steps there would be a piece for each.
        found.append(HeardThen(at_s, heard, b"" if in_steps else clip_of(samples)))
    return tuple(found)


def _step_levels(sink: _Memory) -> tuple[tuple[float, float], ...]:
    """When and how loud it was a little before each change of fans, and before the load went off."""
    return tuple((t, sink.levels[int(np.searchsorted(sink.times, t))]) for t in _read_at(sink))


def _read_at(sink: _Memory) -> list[float]:
    """When a reviewer reads a meter: a little before each change of fans, and before the load goes off."""
    set_at = [c.at_s for c in sink.changes if c.what == FANS]
    off = [m.at_s for m in sink.marks if m.text == "load off"]
    return [at_s - BEFORE_S for at_s in (*set_at[1:], *off)]
