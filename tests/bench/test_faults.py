"""Faults made on purpose: clocks set about, a machine that sleeps, two programs on one archive."""

from __future__ import annotations

import tempfile
import threading
import time
import unittest
from collections.abc import Sequence
from pathlib import Path
from unittest.mock import patch

import numpy as np

from samovar.archive import Archive
from samovar.bench.clock import MonotonicClock, running_time
from samovar.bench.course_spec import CourseSpec
from samovar.bench.recorder import Recorder
from samovar.core.marks import Change, Mark
from samovar.core.quantity import Channel
from samovar.core.recording import Recording
from samovar.recording.live import LiveRun
from samovar.simulator.machine import SimulatedMachine

DIE = Channel("Tdie", "temperature", "°C", "die", "cpu")


class Steady:
    """A source that always answers."""

    name = "steady"
    channels = (DIE,)

    def sample(self) -> list[float]:
        return [50.0]

    def close(self) -> None:
        pass


class Memory:
    def __init__(self) -> None:
        self.times: list[float] = []
        self.marks: list[Mark] = []

    def append(self, at_s: float, values: list[float]) -> None:
        self.times.append(at_s)

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        pass

    def change(self, change: Change) -> None:
        pass

    def mark(self, mark: Mark) -> None:
        self.marks.append(mark)


class SleepingClock:
    """A machine that sleeps for ten minutes in mid-run."""

    speed = 100.0

    def __init__(self) -> None:
        self.time = 1000.0

    def now(self) -> float:
        return self.time

    def wait_until(self, moment: float, wake: object = None) -> None:
        slept = 600.0 if self.time < 1030.0 <= moment else 0.0
        self.time = max(self.time, moment) + slept

    def started(self) -> str:
        return "2026-03-02T09:00:00Z"


class ClockTest(unittest.TestCase):
    def test_a_wall_clock_set_back_and_forward_leaves_the_runs_time_alone(self) -> None:
        sink, real = Memory(), time.time
        shifts = iter([0.0, -3600.0, 86400.0])
        recorder = Recorder([Steady()], MonotonicClock(), sink, rate_hz=20.0, for_s=0.9)
        shift = [0.0]
        for delay in (0.2, 0.5):
            threading.Timer(delay, lambda: shift.__setitem__(0, next(shifts) + 1.0)).start()
        with patch("time.time", lambda: real() + shift[0]):
            recorder.run()
        steps = np.diff(sink.times)
        self.assertAlmostEqual(sink.times[-1], 0.9, delta=0.1)
        self.assertTrue((steps > 0).all() and (steps < 0.3).all())
        self.assertEqual(sink.marks, [])

    def test_a_machine_that_slept_leaves_a_gap_and_a_mark_and_no_sample_is_made_up(self) -> None:
        sink = Memory()
        outcome = Recorder([Steady()], SleepingClock(), sink, rate_hz=1.0, for_s=700.0, patience_s=None).run()
        self.assertEqual(outcome.state, "sealed")
        times = np.array(sink.times)
        gaps = Recording((DIE,), times, np.full((1, len(times)), 50.0)).gaps()
        self.assertEqual(len(gaps), 1)
        self.assertAlmostEqual(gaps[0].end_s - gaps[0].start_s, 601.0, delta=1.0)
        self.assertIn("no sample for 60", sink.marks[0].text)
        self.assertLess(len(times), 110)

    def test_the_clock_counts_what_the_machine_slept_through(self) -> None:
        before = running_time()
        time.sleep(0.05)
        self.assertAlmostEqual(running_time() - before, 0.05, delta=0.04)


class TwoProgramsTest(unittest.TestCase):
    def test_two_on_one_archive_both_keep_every_sample(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            place = Path(folder) / "a.sqlite"
            archives = [Archive(place) for _ in range(2)]
            machines = [SimulatedMachine(name, speed=300.0) for name in ("Osprey 161", "Loam P")]
            spec = CourseSpec(
                "worst case", idle_least_s=5.0, idle_most_s=10.0, load_s=240.0, cool_down_most_s=20.0
            )
            runs = [LiveRun(a, m, spec) for a, m in zip(archives, machines, strict=True)]
            try:
                for run in runs:
                    run.start()
                for run in runs:
                    self.assertTrue(run.wait(60.0))
                self.assertNotEqual(runs[0].number, runs[1].number)
                for run, other in zip(runs, reversed(archives), strict=True):
                    kept = other.runs.recording(run.number)
                    np.testing.assert_array_equal(kept.values, run.recording().values)
                    entry = other.runs.run(run.number)
                    self.assertEqual(entry.state if entry else None, "sealed")
            finally:
                for machine in machines:
                    machine.close()
                for archive in archives:
                    archive.close()


if __name__ == "__main__":
    unittest.main()
