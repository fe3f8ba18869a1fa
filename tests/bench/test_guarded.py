"""Loads that cannot escape their guard: the die in all its forms, a stopped recorder, workers and stops that fail."""

from __future__ import annotations

import math
import os
import signal
import tempfile
import threading
import time
import unittest
from pathlib import Path

import psutil

from samovar.archive import Archive
from samovar.bench.clock import MonotonicClock
from samovar.bench.course_spec import CourseSpec
from samovar.bench.guard import Guard
from samovar.bench.loading import Loading
from samovar.bench.loads.heartbeat import END_AFTER_S, heart
from samovar.bench.loads.processor import ProcessorLoad
from samovar.bench.loads.protocol import LoadEnd, stop_all
from samovar.bench.machine import ThisMachine, die_watcher
from samovar.bench.recorder import Recorder
from samovar.core.die import die_channels, is_stop_temperature
from samovar.core.quantity import Channel
from samovar.recording.live import LiveRun
from samovar.recording.under_guard import UNGUARDED
from tests.bench.test_own_loads import lives, wait_for
from tests.bench.test_recorder import FakeLoad, FakeSource, Memory, quick
from tests.forked import Fork, call
from tests.recordings import DIE


def temperature(name: str, role: str, domain: str = "cpu") -> Channel:
    return Channel(name, "temperature", "°C", role, domain)


def tree(root: Path, **sensors: int) -> Path:
    """A kernel tree of temperatures in m°C: `zone_NAME` is a thermal zone, anything else a labelled sensor."""
    home = root / "sys/class/hwmon/hwmon0"
    home.mkdir(parents=True)
    (home / "name").write_text("board\n")
    for number, (label, value) in enumerate(sensors.items(), start=1):
        if label.startswith("zone_"):
            zone = root / f"sys/class/thermal/thermal_zone{number}"
            zone.mkdir(parents=True)
            (zone / "type").write_text(label[5:] + "\n")
            (zone / "temp").write_text(f"{value}\n")
        else:
            (home / f"temp{number}_label").write_text(label.replace("_", " ") + "\n")
            (home / f"temp{number}_input").write_text(f"{value}\n")
    (root / "proc").mkdir()
    (root / "proc/stat").write_text("cpu  1 0 0 1 0 0 0 0 0 0\n")
    return root


class DieTest(unittest.TestCase):
    def test_what_stands_for_the_die(self) -> None:
        die, cores = temperature("Tdie", "die"), [temperature(f"Core {k}", "core") for k in range(2)]
        package, board = temperature("Package", "package"), temperature("Zone", "other", "board")
        for channels, wanted in (
            ([board, *cores, die], (3,)),
            ([board, *cores, package], (1, 2)),
            ([package, board], (0,)),
            ([board], ()),
            ([temperature("Confirmed", "die", "board")], (0,)),
            ([die, temperature("Package 1", "die")], (0, 1)),
        ):
            with self.subTest(channels=[c.name for c in channels]):
                self.assertEqual(die_channels(channels), wanted)

    def test_the_guard_looks_at_the_hottest_core(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            watch = die_watcher(tree(Path(folder), Core_0=61000, Core_1=84000), MonotonicClock())
            assert watch is not None
            self.addCleanup(watch.close)
            self.assertEqual(watch(), 84.0)

    def test_a_limit_that_guards_nothing_is_refused(self) -> None:
        for limit in (math.nan, math.inf, 1e9, -5.0, 0.0):
            self.assertFalse(is_stop_temperature(limit))
            with self.assertRaises(ValueError):
                Guard(limit)
            with self.assertRaises(ValueError):
                Guard(95.0, limits={"vrm": limit})
        for rate in (math.nan, math.inf, -1.0, 0.0):
            with self.assertRaises(ValueError):
                Guard(95.0, rise_k_per_s=rate)

    def test_silence_is_silence_by_both_clocks(self) -> None:
        guard = Guard(95.0)
        guard.look(0.0, 50.0, 0.0)
        self.assertIsNone(guard.look(600.0, math.nan, 0.5))
        self.assertIsNone(guard.look(1.0, math.nan, 60.0))
        self.assertIsNotNone(guard.look(600.0, math.nan, 2.0))


class CallTest(unittest.TestCase):
    """The call a script makes, on trees without a sensor of the role die."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def record(self, root: Path, *more: str) -> tuple[int, str, str]:
        done = call(
            "record", "--sysroot", root, "--archive", self.folder / "a.sqlite", "--load", "everyday",
            "--threads", "1", "--for", "2", "--json", *more,
        )  # fmt: skip
        return done.returncode, done.stdout, done.stderr

    def test_cores_are_guarded(self) -> None:
        root = tree(self.folder / "m", Core_0=61000, Core_1=84000)
        status, _, said = self.record(root, "--stop-above", "70")
        self.assertEqual(status, 3, said)
        self.assertIn("84 °C, over the stop temperature of 70 °C", said)

    def test_nothing_to_watch_is_refused_or_marked(self) -> None:
        root = tree(self.folder / "m", zone_board=52000)
        status, out, said = self.record(root)
        self.assertEqual((status, out), (2, ""))
        self.assertIn("nothing here stands for the die", said)
        self.assertIn("--unguarded", said)
        status, _, said = self.record(root, "--unguarded")
        self.assertEqual(status, 0, said)
        with Archive(self.folder / "a.sqlite") as archive:
            (run,) = archive.runs.runs()
            self.assertTrue(run.unguarded)
            self.assertIn(UNGUARDED, [m.text for m in archive.runs.recording(run.number).marks])

    def test_numbers_that_are_none_are_refused(self) -> None:
        root = tree(self.folder / "m", Core_0=61000)
        for more in (
            ("--stop-above", "nan"), ("--stop-above", "1e9"), ("--stop-above=-5",), ("--for", "inf"),
            ("--for", "nan"), ("--rate", "nan"), ("--rate", "inf"), ("--stop-above", "90", "--unguarded"),
            ("--threads", "0"), ("--threads", "100000"),
        ):  # fmt: skip
            with self.subTest(more=more):
                status, out, said = self.record(root, *more)
                self.assertEqual((status, out), (2, ""), said)
        self.assertFalse((self.folder / "a.sqlite").exists())


def workers_of(pid: int) -> list[int]:
    try:
        return [p.pid for p in psutil.Process(pid).children() if "samovar.bench.loads.worker" in p.cmdline()]
    except psutil.Error:
        return []


class HeartTest(unittest.TestCase):
    def test_a_recorder_that_is_stopped_leaves_no_load_running(self) -> None:
        for number, state, words in (
            (signal.SIGSTOP, "did-not-finish", "no sign of life"),
            (signal.SIGTSTP, "stopped", "suspended"),
        ):
            with self.subTest(signal=number), tempfile.TemporaryDirectory() as folder:
                home = Path(folder)
                root = tree(home / "m", Core_0=61000)
                (home / "out").mkdir()
                call = ("record", "--sysroot", root, "--archive", home / "a.sqlite", "--load", "worst case")
                fork = Fork([*map(str, call), "--threads", "1", "--for", "12"], {}, home / "out")
                pid = fork.process.pid
                assert pid is not None
                try:
                    wait_for(lambda pid=pid: workers_of(pid), 60.0)
                    (worker,) = workers_of(pid)
                    os.kill(pid, number)
                    began = time.monotonic()
                    wait_for(lambda worker=worker: not lives(worker), 10.0)
                    self.assertLess(time.monotonic() - began, 3.0)
                    wait_for(lambda pid=pid: psutil.Process(pid).status() == psutil.STATUS_STOPPED, 10.0)
                    os.kill(pid, signal.SIGCONT)
                    fork.process.join(60)
                    self.assertIsNotNone(fork.process.exitcode)
                finally:
                    fork.process.kill()
                with Archive(home / "a.sqlite") as archive:
                    (run,) = archive.runs.runs()
                    self.assertEqual(run.state, state)
                    self.assertIn(words, run.reason or "")

    def test_what_vouches_no_more_ends_the_load(self) -> None:
        vouching = threading.Event()
        vouching.set()
        load = ProcessorLoad("everyday", threads=1)
        with heart().vouched(vouching.is_set):
            load.start()
            try:
                wait_for(lambda: load.work_done()[0] > 0)
                self.assertIsNone(load.ended())
                vouching.clear()
                wait_for(load.ended, END_AFTER_S + 5.0)
            finally:
                load.stop()


class StoppingTest(unittest.TestCase):
    def test_a_worker_that_is_killed_is_said_and_the_run_did_not_finish(self) -> None:
        load = ProcessorLoad("everyday", threads=1)
        sink = Memory()
        recorder = Recorder(
            [FakeSource(DIE, lambda t: 40.0)], MonotonicClock(), sink, course=quick(load_s=30.0), loads=[load],
            guard=Guard(95.0), rate_hz=10.0,
        )  # fmt: skip

        def kill() -> None:
            wait_for(lambda: load.work_done()[0] > 0)
            load._workers[0].kill()

        killer = threading.Thread(target=kill)
        killer.start()
        outcome = recorder.run()
        killer.join()
        self.assertEqual((outcome.state, outcome.by_guard), ("did-not-finish", False))
        self.assertIn("lost 1 of its 1 workers", outcome.reason or "")
        self.assertTrue(any("lost 1 of its 1 workers" in m.text for m in sink.marks))

    def test_a_stop_that_raises_or_takes_long_keeps_no_other_on(self) -> None:
        class Slow(FakeLoad):
            def stop(self) -> None:
                time.sleep(1.5)
                super().stop()

        class Broken(FakeLoad):
            def stop(self) -> None:
                raise OSError("no such process")

        plain, said = FakeLoad(), []
        plain.start()
        began = time.monotonic()
        telling = threading.Thread(target=lambda: said.extend(stop_all([Slow(), Broken(), plain], 0.5)))
        telling.start()
        wait_for(lambda: plain.stopped_at is not None, 1.0)
        telling.join()
        assert plain.stopped_at is not None
        self.assertLess(plain.stopped_at - began, 0.5)
        self.assertEqual(len(said), 2)
        self.assertIn("no such process", " ".join(said))

    def test_a_load_that_is_being_put_on_when_all_goes_off_does_not_stay(self) -> None:
        begun = threading.Event()

        class Slow(FakeLoad):
            def start(self) -> None:
                begun.set()
                time.sleep(0.5)
                super().start()

        slow = Slow()
        loading = Loading([slow], MonotonicClock())
        starting = threading.Thread(target=lambda: loading.step(0))
        starting.start()
        begun.wait()
        began = time.monotonic()
        loading.off()
        self.assertLess(time.monotonic() - began, 0.3)
        starting.join()
        self.assertFalse(slow.running or loading.on)

    def test_a_load_that_ends_by_itself_in_a_step_runs_again_in_the_next(self) -> None:
        class Short(FakeLoad):
            def ended(self) -> LoadEnd | None:
                return LoadEnd(0, 1.0) if self.running and self.starts == 1 else None

        load = Short()
        loading = Loading([load], MonotonicClock())
        loading.step(0)
        self.assertEqual([found.name for found, _ in loading.ended()], ["fake"])
        loading.step(1)
        self.assertEqual(load.starts, 2)

    def test_rest_needs_no_guard(self) -> None:
        spec = CourseSpec("idle", idle_least_s=0.0, idle_most_s=0.5, load_s=1.0, cool_down_most_s=0.0)
        with tempfile.TemporaryDirectory() as folder:
            root = tree(Path(folder) / "m", zone_board=52000)
            with Archive(Path(folder) / "a.sqlite") as archive:
                run = LiveRun(archive, ThisMachine(root), spec)
                self.assertEqual(run.run().state, "sealed")
                self.assertFalse(run.spec.unguarded)


if __name__ == "__main__":
    unittest.main()
