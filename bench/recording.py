"""What recording costs, with and without the interface, and how fast the guard is."""

from __future__ import annotations

import os
import shutil
import signal
import statistics
import subprocess
import sys
import tempfile
import time
import uuid
from collections.abc import Iterator, Sequence
from pathlib import Path

import psutil

from bench.table import Row
from bench.tree import wide_tree
from samovar.bench.loads.protocol import WORK


def measure() -> Iterator[Row]:
    """Headless at 1 and 10 Hz, on screen, and the guard's latency."""
    for rate, bound in ((1.0, 0.25), (10.0, 1.5)):
        share, memory = _headless(rate, 20.0)
        yield Row(f"recording 64 channels at {rate:g} Hz, no interface: share of a core", share, bound, "%")
        if rate == 10.0:
            yield Row("the same, memory", memory, 75.0, "MB")
    if shutil.which("tmux"):
        yield Row("Bench on screen, 64 channels, twice a second: share of a core", _on_screen(), 5.0, "%")
    share, every_s = _live_reading()
    yield Row("held ribbon and settle panel, 2 h at 10 Hz x 64: share of a core", share, 1.0, "%")
    yield Row("the same, brought up to date every", every_s, None, "s")
    yield Row("from die over the guard temperature to the load stopped", _guard(), 0.5, "s")
    yield Row("from a recorder that is stopped (SIGSTOP) to its load ended", _stopped(), 3.0, "s")


def _share(process: psutil.Process, seconds: float) -> float:
    """Percent of one core that a process uses over some seconds."""
    before, began = process.cpu_times(), time.monotonic()
    time.sleep(seconds)
    after = process.cpu_times()
    used = after.user + after.system - before.user - before.system
    return 100.0 * used / (time.monotonic() - began)


def _headless(rate_hz: float, seconds: float) -> tuple[float, float]:
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        wide_tree(root)
        child = subprocess.Popen(
            [
                sys.executable, "-m", "samovar", "record", "--sysroot", folder, "--archive", str(root / "a.sqlite"),
                "--rate", f"{rate_hz:g}", "--for", f"{seconds + 10:g}",
            ],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        try:
            time.sleep(4.0)
            process = psutil.Process(child.pid)
            share = _share(process, seconds)
            return share, process.memory_info().rss / 1e6
        finally:
            child.terminate()
            child.wait(10)


def _on_screen() -> float:
    """The real program in tmux at 160x50, recording without a review at 1 Hz."""
    socket = f"samovar-{uuid.uuid4().hex[:8]}"
    tmux = ["tmux", "-L", socket, "-f", os.devnull]
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        wide_tree(root)
        command = f"{sys.executable} -m samovar --sysroot {folder} --archive {root / 'a.sqlite'}"
        subprocess.run([*tmux, "new-session", "-d", "-x", "160", "-y", "50", command], check=True)
        try:
            time.sleep(3.0)
            for key in ("3", "r"):
                subprocess.run([*tmux, "send-keys", key], check=True)
                time.sleep(1.0)
            time.sleep(4.0)
            found = subprocess.run(
                [*tmux, "list-panes", "-F", "#{pane_pid}"], capture_output=True, text=True, check=True
            )
            process = psutil.Process(int(found.stdout))
            # The load's workers are processes of their own and not counted: they are the point of a load.
            return _share(process, 20.0)
        finally:
            subprocess.run([*tmux, "kill-server"], check=False)


def _live_reading() -> tuple[float, float]:
    """At the end of two hours, when a look costs most: percent of a core, and seconds from look to look."""
    from bench.tree import wide_recording
    from samovar.core.facts import Facts
    from samovar.core.live_reading import COST_SHARE, LiveReading
    from samovar.tui.live_reader import EVERY_S

    run = wide_recording(7200.0, 10.0)
    live = LiveReading(run.channels, Facts())
    live.extend(run.time_s, run.values)
    live.findings()
    began = time.thread_time()
    for _ in range(5):
        live.findings()
    cost = (time.thread_time() - began) / 5.0
    every_s = max(EVERY_S, cost / COST_SHARE)
    fresh = LiveReading(run.channels, Facts())
    began = time.thread_time()
    ends = range(5, len(run.time_s) + 1, 5)
    for end in ends:
        fresh.extend(run.time_s[:end], run.values[:, :end])
    growing = (time.thread_time() - began) / 7200.0
    return 100.0 * (cost / every_s + growing), every_s


class _Load:
    name = "none"
    by_hand = False
    work = (WORK,)
    stopped_at = 0.0

    def start(self) -> None:
        pass

    def stop(self) -> None:
        self.stopped_at = self.stopped_at or time.monotonic()

    def work_done(self) -> tuple[float, ...]:
        return (0.0,)

    def ended(self) -> None:
        return None


class _Sink:
    def append(self, at_s: float, values: Sequence[float]) -> None:
        pass

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        pass

    def mark(self, mark: object) -> None:
        pass

    def change(self, change: object) -> None:
        pass


class _Die:
    """A die that passes the stop temperature at a moment of its own."""

    def __init__(self) -> None:
        from samovar.core.quantity import Channel

        self.name = "die"
        self.channels = (Channel("die", "temperature", "°C", "die", "cpu"),)
        self.over_at = time.monotonic() + 1.0 + 0.37 * os.urandom(1)[0] / 255

    def sample(self) -> list[float]:
        return [110.0 if time.monotonic() >= self.over_at else 60.0]

    def close(self) -> None:
        pass


def _guard() -> float:
    """The worst of eight: seconds from the die over its stop temperature to the load stopped."""
    from samovar.bench.clock import MonotonicClock
    from samovar.bench.course import Course
    from samovar.bench.course_spec import CourseSpec
    from samovar.bench.guard import Guard
    from samovar.bench.recorder import Recorder

    latencies = []
    for _ in range(8):
        die, load = _Die(), _Load()
        course = Course(CourseSpec("none", idle_most_s=0.0, load_s=30.0, cool_down_most_s=0.0))
        Recorder(
            [die], MonotonicClock(), _Sink(), course=course, loads=[load], guard=Guard(105.0),
            read_die=lambda die=die: die.sample()[0], rate_hz=1.0,
        ).run()  # fmt: skip
        latencies.append(load.stopped_at - die.over_at)
    print(f"guard: median {statistics.median(latencies):.2f} s of 8", file=sys.stderr)
    return max(latencies)


def _stopped() -> float:
    """The worst of three: seconds from a recorder's standing still to the end of its workers."""
    from tests.bench.test_guarded import tree, workers_of

    latencies = []
    for _ in range(3):
        with tempfile.TemporaryDirectory() as folder:
            root = tree(Path(folder) / "m", Core_0=50000)
            call = [
                "record",
                "--sysroot",
                str(root),
                "--archive",
                f"{folder}/a.sqlite",
                "--load",
                "worst case",
            ]
            program = subprocess.Popen(
                [sys.executable, "-m", "samovar", *call, "--threads", "1", "--for", "30"],
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )
            while not (found := workers_of(program.pid)):
                time.sleep(0.05)
            time.sleep(1.0)
            program.send_signal(signal.SIGSTOP)
            began = time.monotonic()
            while any(psutil.pid_exists(pid) and psutil.Process(pid).status() != "zombie" for pid in found):
                time.sleep(0.01)
            latencies.append(time.monotonic() - began)
            program.kill()
            program.wait()
    return max(latencies)
