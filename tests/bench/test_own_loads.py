"""Loads of the reviewer's own: commands with their scores, several at once, paces, and nothing left behind."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest.mock import patch

import psutil

from samovar.archive import Archive
from samovar.bench.course_spec import CourseSpec
from samovar.bench.loads.catalogue import OwnLoad, check_own, load_body, load_of
from samovar.bench.loads.combined import make_load
from samovar.bench.loads.command import CommandLoad
from samovar.bench.loads.kernels import FILE_BYTES
from samovar.bench.loads.pace import GamePace, SteadyPace
from samovar.bench.loads.processor import ProcessorLoad
from samovar.bench.loads.protocol import LoadEnd, LoadError
from samovar.bench.loads.score import find_score, score_in
from samovar.recording.live import LiveRun
from samovar.simulator.machine import SimulatedMachine


def wait_for(true: object, seconds: float = 8.0) -> None:
    deadline = time.monotonic() + seconds
    while not true():  # type: ignore[operator]
        if time.monotonic() > deadline:
            raise AssertionError("it never came to pass")
        time.sleep(0.02)


def lives(pid: int) -> bool:
    try:
        return bool(psutil.Process(pid).status() != psutil.STATUS_ZOMBIE)
    except psutil.NoSuchProcess:
        return False


class CommandTest(unittest.TestCase):
    def test_status_time_and_score_are_kept(self) -> None:
        load = CommandLoad("build", "sleep 0.3; echo score: 11; echo 'score: 12,5 points'; exit 3")
        load.start()
        self.assertIsNone(load.ended())
        wait_for(load.ended)
        end = load.ended()
        assert end is not None
        self.assertEqual((end.status, end.failed), (3, True))
        self.assertEqual(find_score(end.output, r"score: ([0-9.,]+)"), (12.5, None))
        self.assertAlmostEqual(end.seconds, 0.5, delta=0.4)
        self.assertIn("ended with status 3", end.words)
        load.stop()
        load.stop()

    def test_a_score_is_the_last_match(self) -> None:
        self.assertEqual(score_in("a 1\nb 2.5e3\n", r"[ab] (\S+)"), 2500.0)
        self.assertEqual(score_in("took 81 s", r"\d+ s"), 81.0)
        self.assertIsNone(score_in("nothing", r"(\d+)"))

    def test_a_pattern_that_searches_for_ever_is_given_up(self) -> None:
        began = time.monotonic()
        score, why = find_score("a" * 60, "(a+)+b", patience_s=1.0)
        self.assertLess(time.monotonic() - began, 5.0)
        self.assertIsNone(score)
        self.assertIn("write a simpler one", why or "")

    def test_of_endless_output_the_end_is_kept(self) -> None:
        load = CommandLoad("chatter", "yes 0123456789 | head -c 30000000; echo last words")
        load.start()
        wait_for(load.ended, 20.0)
        end = load.ended()
        assert end is not None
        load.stop()
        self.assertEqual(len(end.output), 4 << 20)
        self.assertTrue(end.output.endswith("last words\n"))

    def test_what_slips_away_from_a_command_is_ended_too(self) -> None:
        away = "setsid sh -c 'echo $$ > {note}; exec sleep 60'"
        twice = (
            'python3 -c "import os,time; os.fork() and os._exit(0); os.setsid(); os.fork() and os._exit(0); '
            "open('{note}','w').write(str(os.getpid())); time.sleep(60)\""
        )
        for command, ending in ((away + " &", "stop"), (twice + ";", "stop"), (away + " &", "kill")):
            with self.subTest(command=command, ending=ending), tempfile.TemporaryDirectory() as folder:
                note = Path(folder) / "pid"
                load = CommandLoad("x", command.format(note=note) + " sleep 60")
                load.start()
                wait_for(lambda note=note: note.exists() and note.read_text().strip())
                child = int(note.read_text())
                if ending == "kill":
                    assert load._keeper is not None
                    load._keeper.kill()
                    wait_for(load.ended)
                    end = load.ended()
                    assert end is not None
                    self.assertIn("the process that kept it was ended from outside", end.words)
                load.stop()
                self.assertFalse(lives(child))

    def test_stopping_ends_all_it_started(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            note = Path(folder) / "pid"
            load = CommandLoad("x", f"sleep 60 & echo $! > {note}; wait")
            load.start()
            wait_for(lambda: note.exists() and note.read_text().strip())
            child = int(note.read_text())
            load.stop()
            wait_for(lambda: not lives(child))

    def test_a_killed_program_leaves_no_command_running(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            note = Path(folder) / "pid"
            code = (
                "import time; from samovar.bench.loads.command import CommandLoad\n"
                f"CommandLoad('x', 'echo $$ > {note}; sleep 60').start(); time.sleep(60)"
            )
            program = subprocess.Popen([sys.executable, "-c", code])
            wait_for(lambda: note.exists() and note.read_text().strip())
            child = int(note.read_text())
            os.kill(program.pid, signal.SIGKILL)
            program.wait()
            wait_for(lambda: not lives(child))


class OwnLoadTest(unittest.TestCase):
    def test_what_cannot_be_is_refused_with_what_would_do(self) -> None:
        for load, words in (
            (OwnLoad("", "by hand"), "needs a name"),
            (OwnLoad("worst case", "by hand"), "program's own"),
            (OwnLoad("x", "magic"), "no kind of load"),
            (OwnLoad("x", "ours", "volcano"), "none of the program's"),
            (OwnLoad("x", "ours", "memory", duty=1.5), "at most 100 %"),
            (OwnLoad("x", "ours", "memory", threads=0), "at least one thread"),
            (OwnLoad("x", "command"), "command is missing"),
            (OwnLoad("x", "command", command="true", score_pattern="("), "pattern is wrong"),
            (OwnLoad("x", "several", parts=("memory",)), "at least two"),
            (OwnLoad("x", "several", parts=("memory", "gone")), "no load 'gone'"),
        ):
            with self.subTest(words=words), self.assertRaisesRegex(LoadError, words):
                check_own(load, {})

    def test_every_load_is_kept_as_it_was(self) -> None:
        for load in (
            OwnLoad("a", "ours", "memory", threads=2, duty=0.5, seed=3),
            OwnLoad("b", "command", command="make", score_pattern="x", score_unit="p", note="as built"),
            OwnLoad("c", "several", parts=("memory", "a")),
            OwnLoad("d", "by hand"),
        ):
            self.assertEqual(load_of(load.name, load_body(load)), load)

    def test_several_at_once_and_loads_by_hand(self) -> None:
        own = {
            "pair": OwnLoad("pair", "several", parts=("compression", "half")),
            "half": OwnLoad("half", "ours", "worst case", threads=1, duty=0.5),
        }
        with patch("samovar.bench.loads.processor.usable_threads", lambda: 1):
            load = make_load("pair", None, own)
            load.start()
            try:
                wait_for(lambda: load.work_done()[0] > 0)
                self.assertIsNone(load.ended())
            finally:
                load.stop()
        hand = make_load("console", None, {"console": OwnLoad("console", "by hand")})
        self.assertTrue(hand.by_hand)
        self.assertNotEqual(hand.work_done()[0], hand.work_done()[0])

    def test_memory_and_disk_that_are_not_there_are_not_taken(self) -> None:
        with (
            patch("samovar.bench.loads.processor.free_memory_bytes", return_value=10e6),
            self.assertRaisesRegex(LoadError, "of memory, 10 MB are free"),
        ):
            ProcessorLoad("memory", 1).start()
        with (
            patch("shutil.disk_usage") as disk,
            self.assertRaisesRegex(LoadError, f"writes {FILE_BYTES / 1e6:.0f} MB, 1 MB are free"),
        ):
            disk.return_value.free = 1e6
            ProcessorLoad("storage", 1).start()

    def test_storage_leaves_nothing_behind(self) -> None:
        with tempfile.TemporaryDirectory() as folder, patch.dict(os.environ, {"SAMOVAR_STORAGE": folder}):
            load = ProcessorLoad("storage", 1)
            load.start()
            try:
                wait_for(lambda: load.work_done()[0] > 20, 20.0)
                self.assertEqual(list(Path(folder).iterdir()), [])
            finally:
                load.stop()


class PaceTest(unittest.TestCase):
    def drive(self, pace_of: object, seconds: float) -> float:
        """The busy share over some time, on a clock of its own."""
        now = [0.0]

        def sleep(s: float) -> None:
            now[0] += s

        pace = pace_of(lambda: now[0], sleep)  # type: ignore[operator]
        busy = 0.0
        while now[0] < seconds:
            now[0] += 0.002
            busy += 0.002
            pace.rest()
        return busy / now[0]

    def test_a_duty_is_kept(self) -> None:
        for duty in (0.1, 0.4, 0.8, 1.0):
            self.assertAlmostEqual(
                self.drive(lambda n, s, d=duty: SteadyPace(d, 1.0, n, s), 60.0), duty, delta=0.02
            )

    def test_a_game_is_uneven_and_the_same_each_time(self) -> None:
        shares = [self.drive(lambda n, s, k=k: GamePace(k, 7, n, s), 60.0) for k in range(3)]
        again = [self.drive(lambda n, s, k=k: GamePace(k, 7, n, s), 60.0) for k in range(3)]
        self.assertEqual(shares, again)
        self.assertGreater(shares[0], max(shares[1:]) + 0.1)


class RunTest(unittest.TestCase):
    """Whole runs on the simulated rig."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.archive = Archive(Path(folder.name) / "a.sqlite")
        self.addCleanup(self.archive.close)
        self.machine = SimulatedMachine("Osprey 161", speed=None)
        self.addCleanup(self.machine.close)

    def record(self, spec: CourseSpec) -> LiveRun:
        run = LiveRun(self.archive, self.machine, spec, patience_s=None)
        run.run()
        return run

    def test_fan_steps_are_visited_in_one_run(self) -> None:
        from samovar.bench.course_spec import read_step

        steps = tuple(read_step(f"fans {n} % for 3:00") for n in (40, 100))
        run = self.record(CourseSpec("worst case", idle_most_s=60.0, cool_down_most_s=30.0, steps=steps))
        recording = self.archive.runs.recording(run.number)
        self.assertIn("fans 40 %", [m.text for m in recording.marks])
        fan = recording.values[next(k for k, c in enumerate(recording.channels) if c.name == "CPU fan")]
        begins = [at for name, at in run.course.steps if name == "load"]  # type: ignore[union-attr]
        slow, fast = (float(fan[recording.between(b + 60, b + 170)].mean()) for b in begins)
        self.assertAlmostEqual(slow / fast, 0.4, delta=0.03)
        self.assertEqual(sum(m.text.startswith("load on") for m in recording.marks), 1)

    def test_another_load_in_a_step(self) -> None:
        from samovar.bench.course_spec import read_step

        steps = (read_step("worst case for 1:00"), read_step("everyday for 1:00"))
        run = self.record(CourseSpec("worst case", idle_most_s=60.0, cool_down_most_s=0.0, steps=steps))
        marks = [
            m.text for m in self.archive.runs.recording(run.number).marks if m.text.startswith("load on")
        ]
        self.assertEqual(marks, ["load on: worst case", "load on: everyday"])

    def test_a_command_that_fails_did_not_finish_and_its_score_is_kept(self) -> None:
        self.archive.plans.add_load(
            OwnLoad(
                "build",
                "command",
                command="echo 41 points; exit 2",
                score_pattern=r"(\d+) points",
                score_unit="points",
            )
        )
        with patch(
            "samovar.simulator.machine.RigClock.wait_until",
            autospec=True,
            side_effect=_slowly(self.machine.clock),
        ):
            run = self.record(
                CourseSpec(
                    "build", idle_least_s=1.0, idle_most_s=2.0, load_most_s=3000.0, cool_down_most_s=2.0
                )
            )
        entry = self.archive.runs.run(run.number)
        assert entry is not None
        self.assertEqual(entry.state, "did-not-finish")
        self.assertIn("status 2", entry.reason or "")
        kept = {r.kind: (r.value, r.unit) for r in self.archive.runs.hands.of(run.number)}
        self.assertEqual(kept["score"], (41.0, "points"))
        self.assertIn("time", kept)

    def test_an_end_in_words(self) -> None:
        self.assertEqual(LoadEnd(0, 61.4).words, "ended with status 0 after 61 s")


def _slowly(clock: object) -> object:
    """The rig's clock, with a moment of our own time in each step, for a command to run in."""
    wait = type(clock).wait_until

    def waiting(self: object, moment: float, wake: object = None) -> None:
        time.sleep(0.01)
        wait(self, moment, wake)  # type: ignore[arg-type]

    return waiting


if __name__ == "__main__":
    unittest.main()
