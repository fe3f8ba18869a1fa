"""The recorder killed: at any moment at most one second is lost, and no load worker is left."""

from __future__ import annotations

import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from samovar.archive import Archive

KILLS = 100
AT_ONCE = 6


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
        name, _, value = self.marker.partition("=")
        self.process = subprocess.Popen(
            [
                sys.executable, "-m", "samovar", "record", "--sysroot", str(folder), "--archive", str(self.archive),
                "--load", load, "--threads", "1", "--rate", "10", "--json", *options,
            ],
            stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env={**os.environ, name: value}, text=True,
        )  # fmt: skip
        assert self.process.stdout is not None
        self.run = json.loads(self.process.stdout.readline())["run"]
        self.began = time.monotonic()

    def end(self, number: signal.Signals) -> float:
        """Send a signal; the answer is for how long it had recorded, seconds."""
        lived = time.monotonic() - self.began
        self.process.send_signal(number)
        self.process.wait(10)
        assert self.process.stdout is not None
        self.process.stdout.close()
        return lived


@unittest.skipUnless(Path("/proc/self/environ").exists(), "needs /proc")
class KillTest(unittest.TestCase):
    def kill_once(self, seed: int) -> tuple[float, float, str, int]:
        """One kill: seconds recorded, seconds lost, the state found afterwards, workers left."""
        with tempfile.TemporaryDirectory() as folder:
            # Two seconds of idle, two of load, two of cool-down: the moments fall into all of them.
            recording = Recording(Path(folder), "--for", "2", load="everyday")
            time.sleep(random.Random(seed).uniform(0.2, 5.6))
            lived = recording.end(signal.SIGKILL)
            with Archive(recording.archive) as archive:
                run = archive.runs.run(recording.run)
                assert run is not None
                samples = archive.runs.recording(run.number)
                last = float(samples.time_s[-1]) if len(samples.time_s) else 0.0
                recovered = run.id in archive.recovered
            deadline = time.monotonic() + 2.0
            while (left := workers_of(recording.marker)) and time.monotonic() < deadline:
                time.sleep(0.05)
            return lived, lived - last, run.state if recovered else "not offered", len(left)

    def test_a_hundred_kills(self) -> None:
        with ThreadPoolExecutor(AT_ONCE) as pool:
            results = list(pool.map(self.kill_once, range(KILLS)))
        for lived, lost, state, left in results:
            with self.subTest(lived=round(lived, 2)):
                self.assertLessEqual(lost, 1.0)
                self.assertEqual(state, "interrupted")
                self.assertEqual(left, 0)

    def test_a_signal_finds_the_recorder_at_any_moment(self) -> None:
        # The moment decides: asked while it waits for its next sample, it must not wait for itself.
        for seed in range(12):
            with self.subTest(seed=seed), tempfile.TemporaryDirectory() as folder:
                recording = Recording(Path(folder), "--for", "30", "--rate", "20", load="everyday")
                time.sleep(random.Random(seed).uniform(0.1, 0.6))
                recording.end(signal.SIGTERM)
                self.assertEqual(recording.process.returncode, 0)

    def test_signals_that_ask_stop_the_load_and_seal_the_run(self) -> None:
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            with self.subTest(signal=number.name), tempfile.TemporaryDirectory() as folder:
                recording = Recording(Path(folder), "--for", "8")
                time.sleep(3.0)
                self.assertEqual(len(workers_of(recording.marker)), 1)
                recording.end(number)
                self.assertEqual(recording.process.returncode, 0)
                self.assertEqual(workers_of(recording.marker), [])
                with Archive(recording.archive) as archive:
                    run = archive.runs.run(recording.run)
                    assert run is not None
                    self.assertEqual(run.state, "stopped")

    def test_a_tripped_guard_ends_with_status_three(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            recording = Recording(Path(folder), "--for", "8", "--stop-above", "50")
            recording.process.wait(15)
            self.assertEqual(recording.process.returncode, 3)
            with Archive(recording.archive) as archive:
                run = archive.runs.run(recording.run)
                assert run is not None
                self.assertEqual(run.state, "did-not-finish")
                self.assertIn("stop temperature", run.reason or "")
            assert recording.process.stdout is not None
            recording.process.stdout.close()


if __name__ == "__main__":
    unittest.main()
