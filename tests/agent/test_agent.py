"""Another machine: its agent as one file, what is measured through it, and what becomes of its load when the wire is cut."""

from __future__ import annotations

import contextlib
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest.mock import patch

import psutil
from hypothesis import given
from hypothesis import strategies as st

from samovar.agent.link import ClockOffset, Link, LinkError, Unreachable
from samovar.agent.machine import FarMachine
from samovar.agent.pack import modules, write_agent
from samovar.agent.wire import SILENT_S, decoded, encoded
from samovar.archive import Archive
from samovar.bench.clock import running_time
from samovar.bench.course_spec import CourseSpec
from samovar.bench.guard import Guard
from samovar.bench.loads.protocol import LoadError
from samovar.core.recording import Recording
from samovar.recording.live import LiveRun
from samovar.sources.linux import discover
from tests.agent.oldest import oldest_python

OUTLIVES_S = 3.0
TRIES = int(os.environ.get("SAMOVAR_CUTS", "6"))
RELAY = Path(__file__).with_name("relay.py")


def still_there(processes: list[psutil.Process], seconds: float) -> list[psutil.Process]:
    """Those that still do something after a while; one that has ended may wait for a parent that stands still."""
    until = time.monotonic() + seconds

    def does_something(process: psutil.Process) -> bool:
        try:
            return bool(process.status() != psutil.STATUS_ZOMBIE)
        except psutil.NoSuchProcess:
            return False

    while left := [p for p in processes if does_something(p)]:
        if time.monotonic() > until:
            break
        time.sleep(0.02)
    return left


class Far(unittest.TestCase):
    """A machine under test: a folder as the kernel would show it, and a wire to it that can be cut."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.root = self.folder / "far"
        self.put("sys/devices/c/hwmon/hwmon0/name", "halden")
        self.put("sys/devices/c/hwmon/hwmon0/temp1_input", "41250")
        self.put("sys/devices/c/hwmon/hwmon0/temp1_label", "Tdie")
        self.put("proc/stat", "cpu  100 0 100 800 0 0 0 0 0 0\n")
        classes = self.root / "sys/class/hwmon"
        classes.mkdir(parents=True)
        (classes / "hwmon0").symlink_to("../../devices/c/hwmon/hwmon0")
        self.pids, self.down = self.folder / "pids", self.folder / "down"

    def put(self, path: str, text: str) -> None:
        target = self.root / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(f"{text}\n")

    def agent(self) -> list[str]:
        return [sys.executable, "-m", "samovar", "agent", "--sysroot", str(self.root)]

    @property
    def command(self) -> str:
        """What reaches it."""
        return " ".join([sys.executable, str(RELAY), str(self.pids), str(self.down), *self.agent()])

    def signal(self, number: int, whom: int = 0) -> None:
        """Send a signal to the wire (0) or the agent (1)."""
        with contextlib.suppress(ProcessLookupError):
            os.kill(int(self.pids.read_text().split()[whom]), number)

    def workers(self) -> list[psutil.Process]:
        """The processes of a load that the agent has put on."""
        found = []
        agent = int(self.pids.read_text().split()[1])
        with contextlib.suppress(psutil.Error):
            found = psutil.Process(agent).children(recursive=True)
        return found

    def until(self, true: Callable[[], bool], seconds: float = 10.0) -> float:
        began = time.monotonic()
        while not true():
            self.assertLess(time.monotonic() - began, seconds)
            time.sleep(0.02)
        return time.monotonic() - began


class WireTest(unittest.TestCase):
    @given(
        st.dictionaries(
            st.text(max_size=5),
            st.recursive(st.floats() | st.text(max_size=9) | st.none(), st.lists, max_leaves=5),
        )
    )
    def test_whatever_is_said_is_one_line_that_is_read_back(self, message: dict[str, object]) -> None:
        line = encoded(message)
        self.assertEqual(line.count(b"\n"), 1)
        self.assertEqual(encoded(decoded(line)), line)

    def test_the_clock_there_is_known_within_half_a_beats_way(self) -> None:
        chance = random.Random(7)
        offset = ClockOffset()
        for k in range(200):
            sent = 0.5 * k
            there, back = (0.002 + chance.expovariate(30.0) for _ in "ab")
            drift = 1e-4 * sent
            offset.heard(sent, sent + there + back, sent + there + 512.0 + drift)
        assert offset.error_s is not None
        self.assertLess(offset.error_s, 0.02)
        # What it drifted while a beat is held counts beside that.
        self.assertLess(abs(offset.offset_s - 512.0 - 1e-4 * 100.0), offset.error_s + 1e-4 * 30.0)


class PackedTest(Far):
    def test_one_file_is_all_that_is_needed_there(self) -> None:
        file = self.folder / "agent.pyz"
        self.assertLess(write_agent(file), 400_000)
        # -I and -S: nothing of this machine's own packages.
        machine = FarMachine(f"{oldest_python()} -I -S {file} --sysroot {self.root}")
        self.addCleanup(machine.close)
        here = {p.channel.id: (p.status, p.channel.role) for p in discover(self.root)}
        there = machine.probe()
        self.assertEqual({p.channel.id: (p.status, p.channel.role) for p in there}, here)
        self.assertEqual(next(p.value for p in there if p.channel.role == "die"), 41.25)
        self.assertIn("compression", machine.loads())
        self.assertIn("numpy", machine.missing()["worst case"])
        with self.assertRaises(LoadError):
            machine.make_load("worst case")
        machine.open_sources()
        machine.guarded_by(None)
        load = machine.make_load("compression", 1)
        load.start()
        self.until(lambda: sum(s.sample() is None for s in machine._sources) or load.work_done()[0] > 0.0)
        load.stop()

    def test_it_imports_no_interface_and_no_numerics(self) -> None:
        self.assertEqual(
            [m for m in modules() if m.startswith(("samovar.tui", "samovar.archive", "samovar.cli"))], []
        )
        code = (
            "import sys, samovar.agent.serve\n"
            "print(sorted({'numpy', 'textual', 'pydantic', 'sqlalchemy', 'typer', 'rich'} & set(sys.modules)))"
        )
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        self.assertEqual(done.stdout.strip(), "[]")


class CutTest(Far):
    def machine(self) -> FarMachine:
        machine = FarMachine(self.command)
        self.addCleanup(machine.close)
        return machine

    def test_no_load_outlives_a_cut_wire(self) -> None:
        chance = random.Random(TRIES)
        ways = {
            "cut": lambda: self.signal(signal.SIGKILL),
            "held up": lambda: self.signal(signal.SIGSTOP),
            "its agent stopped": lambda: self.signal(signal.SIGSTOP, 1),
            "its agent killed": lambda: self.signal(signal.SIGKILL, 1),
        }
        for k in range(TRIES):
            way = list(ways)[k % len(ways)]
            with self.subTest(way=way, k=k):
                self.down.unlink(missing_ok=True)
                machine = FarMachine(self.command)
                machine.guarded_by(Guard(95.0))
                machine.open_sources()
                machine.make_load("compression", 1).start()
                self.until(lambda: bool(self.workers()))
                time.sleep(chance.uniform(0.0, 1.0))
                on = self.workers()
                self.down.touch()
                ways[way]()
                left = still_there(on, OUTLIVES_S)
                self.signal(signal.SIGCONT)
                self.signal(signal.SIGCONT, 1)
                machine.close()
                self.assertEqual(left, [])
                # Nor does the agent itself.
                with contextlib.suppress(psutil.NoSuchProcess):
                    psutil.Process(int(self.pids.read_text().split()[1])).wait(OUTLIVES_S)

    def test_the_guard_there_stops_it_whatever_the_wire_does(self) -> None:
        machine = self.machine()
        machine.guarded_by(Guard(60.0))
        machine.open_sources()
        load = machine.make_load("compression", 1)
        load.start()
        self.until(lambda: bool(self.workers()))
        self.signal(signal.SIGSTOP)
        self.put("sys/devices/c/hwmon/hwmon0/temp1_input", "64000")
        self.assertLess(self.until(lambda: not self.workers()), 1.0)
        self.signal(signal.SIGCONT)
        self.until(lambda: load.ended() is not None)
        end = load.ended()
        assert end is not None
        self.assertIn("64 °C, over the stop temperature of 60 °C", end.tripped)

    def record(
        self, machine: FarMachine, seconds: float, then: Callable[[LiveRun], None]
    ) -> tuple[LiveRun, Recording]:
        archive = Archive(self.folder / "a.sqlite")
        self.addCleanup(archive.close)
        spec = CourseSpec(
            "compression",
            1,
            idle_least_s=1.0,
            idle_most_s=1.0,
            load_s=seconds,
            cool_down_most_s=4.0,
            stop_above_c=95.0,
        )
        run = LiveRun(archive, machine, spec, rate_hz=2.0)
        run.start()
        self.until(lambda: run.step == "load")
        then(run)
        self.assertTrue(run.wait(60.0))
        return run, archive.runs.recording(run.number)

    def test_a_wire_that_is_held_up_for_a_moment_costs_no_sample(self) -> None:
        def hold(_run: LiveRun) -> None:
            time.sleep(1.0)
            self.signal(signal.SIGSTOP)
            time.sleep(SILENT_S - 1.0)
            self.signal(signal.SIGCONT)

        run, recording = self.record(self.machine(), 6.0, hold)
        assert run.outcome is not None
        self.assertEqual(run.outcome.state, "sealed", run.outcome)
        die = next(k for k, c in enumerate(recording.channels) if c.role == "die")
        missing = int((recording.values[die] != 41.25).sum())
        self.assertLessEqual(missing, 1, recording.values[die])

    def test_a_load_whose_wire_was_cut_counts_as_ended_and_the_course_goes_on(self) -> None:
        def cut(_run: LiveRun) -> None:
            self.until(lambda: bool(self.workers()))
            time.sleep(1.0)
            self.signal(signal.SIGKILL)

        run, recording = self.record(self.machine(), 30.0, cut)
        assert run.outcome is not None
        self.assertEqual(run.outcome.state, "sealed", run.outcome)
        self.assertLess(run.outcome.duration_s, 20.0)
        said = [mark.text for mark in recording.marks]
        for words in ("load on", " gone", "counts as ended", "load off", "answers again"):
            self.assertTrue(any(words in text for text in said), (words, said))
        self.assertEqual(sum(text.startswith("load on") for text in said), 1)
        self.assertEqual(self.workers(), [])
        self.assertEqual(recording.values[0][-1], recording.values[0][0])

    def test_a_wire_cut_while_the_load_is_put_on_leaves_an_ended_load(self) -> None:
        machine = self.machine()
        machine.open_sources()
        load, ask = machine.make_load("compression", 1), machine.link.ask

        def cut_first(*words: object, **named: object) -> object:
            self.down.touch()
            self.signal(signal.SIGKILL)
            return ask(*words, **named)

        with patch.object(machine.link, "ask", cut_first):
            load.start()
        end = load.ended()
        assert end is not None
        self.assertIn("counts as ended: the link to", end.how)
        # Asked again of a machine that is away, it has ended as well.
        load.start()
        self.assertIsNotNone(load.ended())

    def test_a_machine_that_does_not_come_back_leaves_an_interrupted_run(self) -> None:
        def gone(_run: LiveRun) -> None:
            self.until(lambda: bool(self.workers()))
            self.down.touch()
            self.signal(signal.SIGKILL)

        with patch("samovar.agent.link.LOST_AFTER_S", 3.0):
            run, recording = self.record(self.machine(), 30.0, gone)
        assert run.outcome is not None
        self.assertEqual(run.outcome.state, "interrupted", run.outcome)
        self.assertIn("could not be reached any more", run.outcome.reason or "")
        self.assertGreater(len(recording.time_s), 3)


class RefusedTest(Far):
    def refused(self, command: str, *words: str) -> None:
        done = subprocess.run(
            [sys.executable, "-m", "samovar", "sources", "--on", command],
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual((done.returncode, done.stdout), (2, ""), done.stderr)
        self.assertEqual(done.stderr.count("\n"), 1, done.stderr)
        for one in words:
            self.assertIn(one, done.stderr)

    def test_what_is_no_agent_is_said_with_what_to_do(self) -> None:
        python = sys.executable
        self.refused("/no/such/program", "no such file", "check the command")
        self.refused(
            f"{python} -c 'import sys; sys.exit(\"Permission denied (publickey).\")'", "Permission denied"
        )
        self.refused(f"{python} -c 'print(\"Welcome to Pebble\")'", "Welcome to Pebble", "no agent")
        newer = json.dumps({"samovar-agent": "2.0"})
        self.refused(f"{python} {self.script(newer)}", "version 2.0", "update Samovar here")
        older = json.dumps({"samovar-agent": "0.9"})
        self.refused(
            f"{python} {self.script(older)}", "version 0.9", "update Samovar on the machine under test"
        )
        self.refused("'", "write it as you would in a shell")

    def script(self, line: str) -> Path:
        path = self.folder / "other.py"
        path.write_text(f"print({line!r}, flush=True)\ninput()\n")
        return path

    def test_a_call_measures_it_and_its_line_of_errors_is_its_own(self) -> None:
        done = subprocess.run(
            [sys.executable, "-m", "samovar", "sources", "--json", "--on", self.command],
            capture_output=True, text=True, check=True,
        )  # fmt: skip
        found = {one["role"]: one for one in json.loads(done.stdout)["channels"]}
        self.assertEqual(found["die"]["value"], 41.25)

    def test_an_agent_that_is_asked_for_what_it_does_not_know_says_so(self) -> None:
        link = Link(self.command)
        self.addCleanup(link.close)
        with self.assertRaisesRegex(LinkError, "knows no 'dance'"):
            link.ask("dance")
        self.assertIsNotNone(link.hello["facts"])
        self.until(lambda: link.offset.error_s is not None)
        # Both ends live by the same clock here.
        here = link.clock.now()
        self.assertAlmostEqual(link.ours(running_time()), here, delta=(link.offset.error_s or 0.0) + 2e-3)
        with self.assertRaises(Unreachable):
            Link("")


if __name__ == "__main__":
    unittest.main()
