"""The recorder killed: at any moment at most one second is lost, and no load worker is left."""

from __future__ import annotations

import json
import os
import random
import signal
import tempfile
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from samovar.archive import Archive
from tests.forked import Fork

KILLS = 100
AT_ONCE = 8
RATE_HZ = 10


def workers_of(marker: str) -> list[int]:
    """Load workers alive whose environment carries the marker."""
    found = []
    for entry in Path("/proc").iterdir():
        if not entry.name.isdigit():
            continue
        try:
            command = (entry / "cmdline").read_bytes()
            if (
                b"samovar.bench.loads.worker" in command
                and marker.encode() in (entry / "environ").read_bytes()
            ):
                found.append(int(entry.name))
        except OSError:
            continue
    return found


class Recording:
    """`samovar record` in a process of its own, fed by a tree that never changes."""

    def __init__(self, folder: Path, *options: str, load: str = "worst case") -> None:
        self.archive = folder / "archive.sqlite"
        self.marker = f"SAMOVAR_TEST={folder.name}"
        home = folder / "sys/devices/x/hwmon/hwmon0"
        home.mkdir(parents=True)
        (home / "name").write_text("halden\n")
        (home / "temp1_input").write_text("55000\n")
        (home / "temp1_label").write_text("Tdie\n")
        (folder / "sys/class/hwmon").mkdir(parents=True)
        (folder / "sys/class/hwmon/hwmon0").symlink_to(home)
        arguments = [
            "record", "--sysroot", str(folder), "--archive", str(self.archive),
            "--load", load, "--threads", "1", "--rate", str(RATE_HZ), "--json", *options,
        ]  # fmt: skip
        name, _, value = self.marker.partition("=")
        self.fork = Fork(arguments, {name: value}, folder)
        self.run = json.loads(self.fork.first_line())["run"]

    @property
    def returncode(self) -> int | None:
        return self.fork.process.exitcode

    def end(self, number: signal.Signals) -> None:
        """Send a signal and wait for the end."""
        assert self.fork.process.pid is not None
        os.kill(self.fork.process.pid, number)
        self.fork.process.join(20)

    def left(self, patience_s: float = 5.0) -> list[int]:
        """Workers still there after a while."""
        deadline = time.monotonic() + patience_s
        while (left := workers_of(self.marker)) and time.monotonic() < deadline:
            time.sleep(0.05)
        return left


@unittest.skipUnless(Path("/proc/self/environ").exists(), "needs /proc")
class KillTest(unittest.TestCase):
    def kill_once(self, seed: int) -> tuple[int, int, str, int]:
        """One kill: samples taken, samples lost, the state found afterwards, workers left."""
        with tempfile.TemporaryDirectory() as folder:
            # Two seconds of idle, two of load, two of cool-down: the moments fall into all of them.
            recording = Recording(Path(folder), "--for", "2", load="everyday")
            time.sleep(random.Random(seed).uniform(0.2, 5.6))
            recording.end(signal.SIGKILL)
            taken = recording.fork.taken()
            with Archive(recording.archive) as archive:
                run = archive.runs.run(recording.run)
                assert run is not None
                kept = len(archive.runs.recording(run.number).time_s)
                recovered = run.id in archive.recovered
            return taken, taken - kept, run.state if recovered else "not offered", len(recording.left())

    def test_a_hundred_kills(self) -> None:
        with ThreadPoolExecutor(AT_ONCE) as pool:
            results = list(pool.map(self.kill_once, range(KILLS)))
        for taken, lost, state, left in results:
            with self.subTest(taken=taken):
                # One second of samples, and the one that was being written.
                self.assertLessEqual(lost, RATE_HZ + 1)
                self.assertEqual(state, "interrupted")
                self.assertEqual(left, 0)
        self.assertGreater(max(taken for taken, _, _, _ in results), 3 * RATE_HZ)

    def asked(self, seed: int) -> int | None:
        """What a recording ends with that is asked to end at a moment of its first second."""
        with tempfile.TemporaryDirectory() as folder:
            recording = Recording(Path(folder), "--for", "30", "--rate", "20", load="everyday")
            time.sleep(random.Random(seed).uniform(0.1, 0.6))
            recording.end(signal.SIGTERM)
            return recording.returncode

    def test_a_signal_finds_the_recorder_at_any_moment(self) -> None:
        # The moment decides: asked while it waits for its next sample, it must not wait for itself.
        with ThreadPoolExecutor(4) as pool:
            self.assertEqual(list(pool.map(self.asked, range(12))), [0] * 12)

    def stopped_by(self, number: signal.Signals) -> tuple[int, int | None, list[int], str]:
        """Workers under load, exit status, workers left and state of a recording that a signal asks to stop."""
        with tempfile.TemporaryDirectory() as folder:
            recording = Recording(Path(folder), "--for", "20")
            deadline = time.monotonic() + 20.0
            while not (working := workers_of(recording.marker)) and time.monotonic() < deadline:
                time.sleep(0.1)
            recording.end(number)
            with Archive(recording.archive) as archive:
                run = archive.runs.run(recording.run)
                assert run is not None
                return len(working), recording.returncode, workers_of(recording.marker), run.state

    def test_signals_that_ask_stop_the_load_and_seal_the_run(self) -> None:
        numbers = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
        with ThreadPoolExecutor(len(numbers)) as pool:
            for number, found in zip(numbers, pool.map(self.stopped_by, numbers), strict=True):
                with self.subTest(signal=number.name):
                    self.assertEqual(found, (1, 0, [], "stopped"))

    def test_a_tripped_guard_ends_with_status_three(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            recording = Recording(Path(folder), "--for", "8", "--stop-above", "50")
            recording.fork.process.join(30)
            self.assertEqual(recording.returncode, 3)
            with Archive(recording.archive) as archive:
                run = archive.runs.run(recording.run)
                assert run is not None
                self.assertEqual(run.state, "did-not-finish")
                self.assertIn("stop temperature", run.reason or "")


if __name__ == "__main__":
    unittest.main()
