"""A run under way as a whole: into the archive, through trouble, and out again without a trace."""

from __future__ import annotations

import sqlite3
import tempfile
import threading
import time
import unittest
from pathlib import Path

import numpy as np
import psutil
from bench.long_run import recorded

from samovar.archive import Archive
from samovar.bench.course_spec import CourseSpec
from samovar.bench.loads.protocol import LoadError
from samovar.core.by_hand.reading import HandReading
from samovar.core.reading import read
from samovar.demo.plan import FACTS
from samovar.recording.hand_readings import keep_reading
from samovar.recording.live import LiveRun
from samovar.simulator.machine import SimulatedMachine

QUICK = CourseSpec("worst case", idle_least_s=20.0, idle_most_s=30.0, load_s=60.0, cool_down_most_s=20.0)


class LiveRunTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "a.sqlite"
        self.archive = Archive(self.path)
        self.addCleanup(self.archive.close)
        self.machine = SimulatedMachine("Osprey 161", speed=None)
        self.addCleanup(self.machine.close)

    def live(self, spec: CourseSpec = QUICK, **named: object) -> LiveRun:
        return LiveRun(self.archive, self.machine, spec, facts=FACTS, **named)  # type: ignore[arg-type]

    def test_what_is_in_memory_is_what_is_kept(self) -> None:
        live = self.live()
        outcome = live.run()
        self.assertEqual(outcome.state, "sealed")
        kept = self.archive.runs.recording(live.number)
        time_s, values = live.arrays()
        self.assertEqual(kept.time_s.tolist(), time_s.tolist())
        self.assertEqual(kept.values.tobytes(), values.astype(float).tobytes())
        self.assertEqual([m.text for m in kept.marks], ["load on: worst case", "load off"])

    def test_the_samples_are_the_trees_one_for_one(self) -> None:
        seen: list[float] = []

        def sample(at_s: float, values: object) -> None:
            text = (self.machine.sysroot / "sys/class/hwmon/hwmon1/temp1_input").read_text()
            seen.append(int(text) / 1000.0)

        live = self.live(on_sample=sample, patience_s=None)
        live.run()
        recording = self.archive.runs.recording(live.number)
        assert recording.die is not None
        self.assertEqual(recording.values[recording.die].tolist(), seen)

    def test_a_long_run_of_many_channels_is_the_tree_one_for_one(self) -> None:
        # `make bench` does the same over two hours.
        recording, state, differing = recorded(300.0, 60.0)
        self.assertEqual((len(recording.channels), state, differing), (64, "sealed", 0))
        self.assertEqual(recording.time_s.tolist(), [float(k) for k in range(301)])
        power = recording.values[recording.package_power or 0]
        self.assertTrue(np.isfinite(power[1:]).all())

    def test_the_same_rig_and_seed_give_the_same_run(self) -> None:
        runs = []
        for _ in range(2):
            machine = SimulatedMachine("Tern 47", seed=7, speed=None)
            live = LiveRun(self.archive, machine, QUICK, facts=FACTS, patience_s=None)
            live.run()
            machine.close()
            runs.append(self.archive.runs.recording(live.number))
        self.assertEqual(runs[0].values[:, 1:].tobytes(), runs[1].values[:, 1:].tobytes())

    def test_a_load_that_cannot_be_had_is_refused_before_anything_is_entered(self) -> None:
        with self.assertRaisesRegex(LoadError, "no load 'volcano'"):
            self.live(CourseSpec("volcano"))
        self.assertEqual(self.archive.runs.runs(), [])

    def test_a_guard_trip_is_a_result(self) -> None:
        live = self.live(CourseSpec("worst case", idle_most_s=20.0, stop_above_c=60.0), patience_s=None)
        outcome = live.run()
        self.assertEqual(outcome.state, "did-not-finish")
        self.assertIsNone(self.machine.rig.load)
        reading = read(self.archive.runs.recording(live.number), FACTS)
        self.assertEqual(reading.judgement, "stopped")

    def test_a_fault_of_the_recorder_keeps_what_was_recorded(self) -> None:
        def fail(at_s: float, values: object) -> None:
            if at_s > 10.0:
                raise RuntimeError("a fault of ours")

        live = self.live(on_sample=fail, patience_s=None)
        outcome = live.run()
        self.assertEqual(outcome.state, "did-not-finish")
        self.assertIn("a fault of ours", live.error or "")
        self.assertGreaterEqual(len(self.archive.runs.recording(live.number).time_s), 11)
        self.assertIsNone(self.machine.rig.load)

    def test_sealing_waits_until_the_archive_is_free(self) -> None:
        live = self.live(patience_s=None)
        other = sqlite3.connect(self.path, isolation_level=None, check_same_thread=False)
        self.addCleanup(other.close)
        other.execute("begin immediate")
        live.start()
        self.assertFalse(live.wait(2.0))
        other.execute("rollback")
        self.assertTrue(live.wait(15.0))
        run = self.archive.runs.run(live.number)
        assert run is not None
        self.assertEqual(run.state, "sealed")
        self.assertGreater(run.duration_s, 90.0)

    def test_giving_up_leaves_the_journal_for_the_next_start(self) -> None:
        live = self.live(patience_s=None)
        other = sqlite3.connect(self.path, isolation_level=None, check_same_thread=False)
        self.addCleanup(other.close)
        other.execute("begin immediate")
        live.start()
        time.sleep(0.5)
        live.give_up.set()
        self.assertTrue(live.wait(15.0))
        other.execute("rollback")
        run = self.archive.runs.run(live.number)
        assert run is not None
        self.assertEqual(run.state, "recording")

    def test_readings_by_hand_are_kept_with_their_mark(self) -> None:
        live = self.live()
        thread = threading.Thread(target=live.run)
        keep_reading(live, HandReading(None, "noise", 23.4, 1.4, "dBA", "class 2 meter"))
        thread.start()
        thread.join(30.0)
        hands = self.archive.runs.hands.of(live.number)
        self.assertEqual([(h.kind, h.value, h.half_width) for h in hands], [("noise", 23.4, 1.4)])
        self.assertIn(
            "noise 23.4 ±1.4 dBA by hand", [m.text for m in self.archive.runs.recording(live.number).marks]
        )

    def test_an_evening_of_runs_leaks_neither_threads_nor_files(self) -> None:
        process = psutil.Process()
        self.live().run()
        time.sleep(0.5)
        threads, files = threading.active_count(), process.num_fds()
        for _ in range(5):
            self.live().run()
        time.sleep(0.5)
        self.assertLessEqual(threading.active_count(), threads)
        self.assertLessEqual(process.num_fds(), files + 1)

    def test_probing_while_fitting_is_safe(self) -> None:
        problems: list[Exception] = []

        def probe() -> None:
            try:
                for _ in range(10):
                    self.machine.probe()
            except Exception as problem:
                problems.append(problem)

        thread = threading.Thread(target=probe)
        thread.start()
        for name in ("Tern 47", "Loam P", "Osprey 161") * 3:
            self.machine.fit(name)
        thread.join()
        self.assertEqual(problems, [])


if __name__ == "__main__":
    unittest.main()
