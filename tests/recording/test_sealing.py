"""What can go wrong around the end of a run, and costs neither the run nor what was typed for it."""

from __future__ import annotations

import sqlite3
import tempfile
import threading
import unittest
from pathlib import Path
from unittest.mock import patch

from samovar.archive import Archive
from samovar.archive.database import ArchiveError
from samovar.archive.samples import pack_block, unpack_blocks
from samovar.bench.course_spec import CourseSpec
from samovar.bench.loads.catalogue import OwnLoad
from samovar.bench.machine import ThisMachine
from samovar.bench.recorder import Recorder
from samovar.core.by_hand.reading import HandReading
from samovar.recording.hand_readings import keep_reading
from samovar.recording.live import LiveRun
from samovar.simulator.machine import SimulatedMachine
from tests.bench.test_guarded import tree
from tests.bench.test_own_loads import wait_for

QUICK = CourseSpec("worst case", idle_least_s=5.0, idle_most_s=10.0, load_s=30.0, cool_down_most_s=5.0)
NAN = float("nan")


class SealingTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.path = self.folder / "a.sqlite"
        self.archive = Archive(self.path)
        self.addCleanup(self.archive.close)

    def simulated(self, spec: CourseSpec = QUICK, speed: float | None = None) -> LiveRun:
        machine = SimulatedMachine("Osprey 161", speed=speed)
        self.addCleanup(machine.close)
        return LiveRun(self.archive, machine, spec, patience_s=None if speed is None else 0.25)

    def test_a_command_that_ends_while_another_program_holds_the_archive(self) -> None:
        self.archive.plans.add_load(
            OwnLoad(
                "job",
                "command",
                command="sleep 1; echo 77 points",
                score_pattern=r"(\d+) points",
                score_unit="points",
            )
        )
        root = tree(self.folder / "m", Core_0=50000)
        spec = CourseSpec("job", idle_least_s=0.0, idle_most_s=0.5, load_most_s=30.0, cool_down_most_s=0.5)
        live = LiveRun(self.archive, ThisMachine(root), spec, rate_hz=5.0)
        holder = sqlite3.connect(self.path, isolation_level=None)
        live.start()
        wait_for(lambda: live.step == "load", 20.0)
        holder.execute("BEGIN IMMEDIATE")
        wait_for(lambda: live.outcome is not None, 30.0)
        self.assertFalse(live.wait(1.5))
        holder.execute("COMMIT")
        holder.close()
        self.assertTrue(live.wait(20.0))
        run = self.archive.runs.run(live.number)
        assert run is not None
        self.assertEqual((run.state, live.error), ("sealed", None))
        kept = {r.kind: r.value for r in self.archive.runs.hands.of(live.number)}
        self.assertEqual(kept["score"], 77.0)
        self.assertAlmostEqual(kept["time"], 1.0, delta=0.8)

    def test_whatever_ends_the_recorder_the_run_is_sealed(self) -> None:
        for fault, state in (
            (ValueError("of ours"), "did-not-finish"),
            (KeyboardInterrupt(), "did-not-finish"),
        ):
            with self.subTest(fault=fault):
                live = self.simulated()
                broken = patch.object(Recorder, "_tell_a_leap", side_effect=[None, None, fault])
                with broken:
                    if isinstance(fault, KeyboardInterrupt):
                        self.assertRaises(KeyboardInterrupt, live.run)
                    else:
                        live.run()
                run = self.archive.runs.run(live.number)
                assert run is not None
                self.assertEqual(run.state, state)
                self.assertEqual(len(self.archive.runs.recording(live.number).time_s), 3)

    def test_an_archive_deleted_in_mid_run_costs_nothing_of_the_run(self) -> None:
        live = self.simulated(speed=60.0)
        keep_reading(live, HandReading(None, "noise", 27.5, 1.4, "dBA", "class 2"))
        live.start()
        wait_for(lambda: live.step == "load", 30.0)
        for file in self.folder.glob("a.sqlite*"):
            file.unlink()
        wait_for(lambda: live.moved_to is not None, 20.0)
        self.assertTrue(live.wait(30.0))
        assert live.moved_to is not None
        with Archive(live.moved_to) as rescued:
            (run,) = rescued.runs.runs()
            recording = rescued.runs.recording(run.number)
            self.assertEqual(run.state, "sealed")
            self.assertEqual(recording.time_s.tolist(), live.arrays()[0].tolist())
            self.assertEqual(recording.values.tobytes(), live.arrays()[1].astype(float).tobytes())
            marks = [m.text for m in recording.marks]
            self.assertIn("load on: worst case", marks)
            self.assertTrue(any("file was gone" in m for m in marks))
            self.assertEqual([r.kind for r in rescued.runs.hands.of(run.number)], ["noise"])
        live.archive.close()

    def test_what_is_typed_after_the_seal_goes_to_the_run_it_was_meant_for(self) -> None:
        live, other = self.simulated(), self.simulated()
        live.run()
        other.run()
        keep_reading(live, HandReading(None, "noise", 26.1, 1.4, "dBA", "class 2"))
        live.note("a rattle towards the end")
        self.assertEqual([r.value for r in self.archive.runs.hands.of(live.number)], [26.1])
        self.assertEqual(self.archive.runs.hands.of(other.number), [])
        marks = [m.text for m in self.archive.runs.recording(live.number).marks]
        self.assertIn("a rattle towards the end", marks)
        holder = sqlite3.connect(self.path, isolation_level=None)
        holder.execute("BEGIN IMMEDIATE")
        with self.assertRaisesRegex(ArchiveError, "type the reading again"):
            keep_reading(live, HandReading(None, "noise", 26.2, 1.4, "dBA", "class 2"))
        holder.close()

    def test_a_pattern_without_end_keeps_no_run_from_its_seal(self) -> None:
        self.archive.plans.add_load(
            OwnLoad("trap", "command", command=f"echo {'a' * 60}; sleep 0.3", score_pattern="(a+)+b")
        )
        root = tree(self.folder / "m", Core_0=50000)
        spec = CourseSpec("trap", idle_least_s=0.0, idle_most_s=0.3, load_most_s=30.0, cool_down_most_s=0.0)
        live = LiveRun(self.archive, ThisMachine(root), spec, rate_hz=5.0)
        with patch("samovar.bench.loads.score.SEARCH_PATIENCE_S", 1.0):
            live.start()
            self.assertTrue(live.wait(40.0))
        run = self.archive.runs.run(live.number)
        assert run is not None
        self.assertEqual(run.state, "sealed")
        self.assertTrue(
            any("write a simpler one" in m.text for m in self.archive.runs.recording(run.number).marks)
        )


class JournalTest(unittest.TestCase):
    def test_rows_of_one_moment_are_one_sample(self) -> None:
        blocks = [
            (2, pack_block([0.0, 1.0], [[10.0, NAN], [11.0, NAN]])),
            (2, pack_block([0.0, 2.0], [[NAN, 5.0], [12.0, 7.0]])),
            (1, pack_block([1.0], [[NAN, 6.0]])),
        ]
        time_s, values = unpack_blocks(blocks, 2)
        self.assertEqual(time_s.tolist(), [0.0, 1.0, 2.0])
        self.assertEqual(values.tolist(), [[10.0, 11.0, 12.0], [5.0, 6.0, 7.0]])

    def test_readings_from_another_thread_meet_samples(self) -> None:
        with tempfile.TemporaryDirectory() as folder, Archive(Path(folder) / "a.sqlite") as archive:
            machine = SimulatedMachine("Osprey 161", speed=200.0)
            self.addCleanup(machine.close)
            live = LiveRun(archive, machine, QUICK)
            typing = threading.Thread(
                target=lambda: [
                    keep_reading(live, HandReading(None, "other", float(k), None, "x", "")) for k in range(50)
                ]
            )
            live.start()
            typing.start()
            typing.join()
            self.assertTrue(live.wait(30.0))
            self.assertEqual(len(archive.runs.hands.of(live.number)), 50)


if __name__ == "__main__":
    unittest.main()
