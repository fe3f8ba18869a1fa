"""Another machine beside the one under test, in the same run: its channels bear its name and stand for nothing here."""

from __future__ import annotations

import os
import signal
import sys
import tempfile
import threading
import time
import unittest
from pathlib import Path

import numpy as np
import psutil

from samovar.archive import Archive
from samovar.bench.clock import MonotonicClock
from samovar.bench.course_spec import CourseSpec
from samovar.bench.machine import ThisMachine
from samovar.core.instrument import instruments_of
from samovar.core.units import Unreadable
from samovar.recording.beside_machine import REACHED_WITHIN_S
from samovar.recording.instruments import look_at, open_instruments
from samovar.recording.live import LiveRun


def kernel_tree(root: Path, driver: str, millidegrees: int) -> Path:
    """A folder as the kernel would show a machine with one die."""
    home = root / "sys/devices/c/hwmon/hwmon0"
    home.mkdir(parents=True)
    (home / "name").write_text(f"{driver}\n")
    (home / "temp1_label").write_text("Tdie\n")
    (home / "temp1_input").write_text(f"{millidegrees}\n")
    (root / "proc").mkdir()
    (root / "proc/stat").write_text("cpu  100 0 100 800 0 0 0 0 0 0\n")
    classes = root / "sys/class/hwmon"
    classes.mkdir(parents=True)
    (classes / "hwmon0").symlink_to("../../devices/c/hwmon/hwmon0")
    return root


class BesideMachineTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.near = kernel_tree(folder / "near", "halden", 61000)
        self.far = kernel_tree(folder / "far", "halden", 41250)
        self.archive = self.enterContext(Archive(folder / "a.sqlite"))
        self.pids = folder / "pids"

    def described(self, command: str) -> dict[str, object]:
        return {"instrument": [{"name": "feeder", "address": f"agent:{command}"}]}

    def command(self) -> str:
        # The shell notes who becomes the agent.
        agent = f"exec {sys.executable} -m samovar agent --sysroot {self.far}"
        return f"sh -c 'echo $$ >> {self.pids}; {agent}'"

    def test_both_are_in_one_run_and_a_cut_wire_is_a_gap_in_the_others_channels(self) -> None:
        beside = open_instruments(instruments_of(self.described(self.command())), MonotonicClock())
        run = LiveRun(
            self.archive, ThisMachine(self.near), CourseSpec("none"), for_s=9.0, rate_hz=4.0, beside=beside
        )

        def cut() -> None:
            os.kill(int(self.pids.read_text().split()[-1]), signal.SIGKILL)

        threading.Timer(2.5, cut).start()
        run.run()
        recording = self.archive.runs.recording(run.number)
        by_name = {c.name: k for k, c in enumerate(recording.channels)}
        channel = recording.channels[by_name["feeder Tdie"]]
        self.assertEqual((channel.role, channel.domain, channel.quantity), ("other", "case", "temperature"))
        self.assertTrue(channel.id.startswith("feeder:hwmon:halden:"))
        self.assertEqual(recording.channels[recording.die or 0].name, "Tdie")
        theirs = recording.values[by_name["feeder Tdie"]]
        self.assertEqual(set(theirs[np.isfinite(theirs)]), {41.25})
        self.assertTrue(np.isnan(theirs[10:14]).any())
        self.assertTrue(np.isfinite(theirs[-4:]).any(), "it is back")
        ours = recording.values[by_name["Tdie"]]
        self.assertEqual(set(ours[np.isfinite(ours)]), {61.0})
        # The cut takes some seconds of the other's values; of our own a machine that stands still may cost a sample or two.
        self.assertLessEqual(int(np.isnan(ours).sum()), 2)
        self.assertIn("feeder", " ".join(m.text for m in recording.marks))
        self.assertEqual(self.archive.runs.run(run.number).state, "sealed")
        agents = [int(pid) for pid in self.pids.read_text().split()]
        until = time.monotonic() + 5.0
        while any(psutil.pid_exists(pid) for pid in agents):
            self.assertLess(time.monotonic(), until, "no agent outlives the run")
            time.sleep(0.05)

    def test_one_that_is_reached_late_joins_the_run_from_then_on(self) -> None:
        slow = self.command().replace("echo", f"sleep {REACHED_WITHIN_S + 1.5}; echo", 1)
        machine = ThisMachine(self.near)
        beside = open_instruments(instruments_of(self.described(slow)), machine.clock)
        run = LiveRun(self.archive, machine, CourseSpec("none"), for_s=8.0, rate_hz=2.0, beside=beside)
        run.run()
        recording = self.archive.runs.recording(run.number)
        theirs = next(k for k, c in enumerate(recording.channels) if c.name == "feeder Tdie")
        known = np.isfinite(recording.values[theirs])
        self.assertFalse(known[0])
        self.assertTrue(known[-3:].all())
        self.assertEqual(set(recording.values[theirs][known]), {41.25})

    def test_what_it_says_is_looked_at_and_what_is_no_agent_says_why(self) -> None:
        found = look_at(instruments_of(self.described(self.command())), MonotonicClock())
        die = next(one for one in found if one.channel.name == "feeder Tdie")
        self.assertEqual((die.value, die.status), (41.25, "ok"))
        (nobody,) = look_at(instruments_of(self.described("echo hello")), MonotonicClock())
        self.assertEqual(nobody.status, "unreadable")
        self.assertIn("is no agent", nobody.reason or "")

    def test_its_description_has_a_command_and_nothing_else(self) -> None:
        for more, words in (
            ({"address": "agent:"}, "names no command"),
            ({"channel": [{"name": "x", "quantity": "power"}]}, "leave it out"),
            ({"map": "m.toml"}, "map: another machine has none"),
        ):
            body = {"name": "feeder", "address": "agent:ssh a@b samovar agent", **more}
            with self.assertRaisesRegex(Unreadable, words):
                instruments_of({"instrument": [body]})


if __name__ == "__main__":
    unittest.main()
