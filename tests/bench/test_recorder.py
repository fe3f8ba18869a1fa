"""The recorder, its guard and its course, with sources and loads that misbehave on purpose."""

from __future__ import annotations

import math
import statistics
import threading
import time
import unittest
from collections.abc import Callable, Sequence

from samovar.bench.clock import MonotonicClock
from samovar.bench.course import Course
from samovar.bench.course_spec import CourseSpec
from samovar.bench.guard import Guard
from samovar.bench.loads.protocol import WORK, LoadEnd
from samovar.bench.recorder import Outcome, Recorder
from samovar.core.marks import Change, Mark
from samovar.core.quantity import Channel
from tests.recordings import DIE, POWER


class FakeSource:
    """A source that answers by a function of time, and may hang."""

    def __init__(self, channel: Channel, answer: Callable[[float], float], name: str = "fake") -> None:
        self.name = name
        self.channels = (channel,)
        self._answer = answer
        self._began = time.monotonic()
        self.closed = False

    def sample(self) -> list[float]:
        return [self._answer(time.monotonic() - self._began)]

    def close(self) -> None:
        self.closed = True


class FakeLoad:
    """A load that only counts."""

    name = "fake"
    by_hand = False
    work = (WORK,)

    def __init__(self) -> None:
        self.running = False
        self.stopped_at: float | None = None
        self.starts = 0

    def start(self) -> None:
        self.running = True
        self.starts += 1

    def stop(self) -> None:
        self.running = False
        self.stopped_at = time.monotonic()

    def work_done(self) -> tuple[float, ...]:
        return (100.0 * time.monotonic(),)

    def ended(self) -> LoadEnd | None:
        return None


class Memory:
    def __init__(self) -> None:
        self.times: list[float] = []
        self.rows: list[list[float]] = []
        self.marks: list[Mark] = []

    def append(self, at_s: float, values: Sequence[float]) -> None:
        self.times.append(at_s)
        self.rows.append(list(values))

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        row = self.rows[self.times.index(at_s)]
        row[:] = [new if math.isfinite(new) else old for new, old in zip(values, row, strict=True)]

    def change(self, change: Change) -> None:
        pass

    def mark(self, mark: Mark) -> None:
        self.marks.append(mark)


def quick(**changes: float | None) -> Course:
    """A course of a second or two."""
    rules: dict[str, float | None] = {
        "idle_least_s": 0.0,
        "idle_most_s": 0.3,
        "load_s": 1.0,
        "cool_down_most_s": 0.3,
    }
    rules.update(changes)
    return Course(CourseSpec("fake", **rules))  # type: ignore[arg-type]


class RecorderTest(unittest.TestCase):
    def record(self, sources: list[FakeSource], **named: object) -> tuple[Outcome, Memory, Recorder]:
        sink = Memory()
        recorder = Recorder(sources, MonotonicClock(), sink, **named)  # type: ignore[arg-type]
        return recorder.run(), sink, recorder

    def test_the_cadence_is_kept(self) -> None:
        outcome, sink, _ = self.record([FakeSource(DIE, lambda t: 40.0)], rate_hz=20.0, for_s=1.0)
        self.assertEqual(outcome.state, "sealed")
        steps = [b - a for a, b in zip(sink.times, sink.times[1:], strict=False)]
        self.assertAlmostEqual(statistics.median(steps), 0.05, delta=0.005)
        # On the beat to the end: a pause after each sample would drift. Medians, for the machine may pause as well.
        beats = [t / 0.05 - round(t / 0.05) for t in sink.times[-10:]]
        self.assertLess(abs(statistics.median(beats)), 0.2)

    def test_a_source_that_hangs_holds_up_no_other(self) -> None:
        def hang(t: float) -> float:
            if t > 0.4:
                time.sleep(1.0)
            return 95.0

        sources = [FakeSource(DIE, lambda t: 40.0), FakeSource(POWER, hang, "slow")]
        _, sink, _ = self.record(sources, rate_hz=10.0, for_s=1.2)
        dies, powers = [r[0] for r in sink.rows], [r[1] for r in sink.rows]
        self.assertGreaterEqual(len(sink.times), 9)
        self.assertTrue(all(v == 40.0 for v in dies))
        self.assertEqual(powers[1], 95.0)
        self.assertTrue(any(math.isnan(v) for v in powers))

    def test_the_course_puts_the_load_on_and_off(self) -> None:
        load = FakeLoad()
        outcome, sink, recorder = self.record(
            [FakeSource(DIE, lambda t: 40.0)], rate_hz=20.0, course=quick(), loads=[load]
        )
        self.assertEqual(outcome.state, "sealed")
        self.assertEqual((load.starts, load.running), (1, False))
        self.assertEqual([m.text for m in sink.marks], ["load on: fake", "load off"])
        work = [r[-1] for r in sink.rows if math.isfinite(r[-1]) and r[-1] > 0]
        self.assertAlmostEqual(sum(work) / len(work), 100.0, delta=5.0)
        assert recorder.course is not None
        self.assertEqual([name for name, _ in recorder.course.steps], ["idle", "load", "cool-down", "done"])

    def test_the_guard_stops_a_load_that_gets_too_hot(self) -> None:
        load, crossed = FakeLoad(), []

        def rise(t: float) -> float:
            value = 60.0 + 60.0 * t
            if value > 105.0 and not crossed:
                crossed.append(time.monotonic())
            return value

        source = FakeSource(DIE, rise)
        outcome, sink, _ = self.record(
            [source], rate_hz=1.0, course=quick(idle_most_s=0.0, load_s=60.0), loads=[load],
            guard=Guard(105.0), read_die=lambda: source.sample()[0],
        )  # fmt: skip
        self.assertEqual(outcome.state, "did-not-finish")
        self.assertIn("over the stop temperature", outcome.reason or "")
        assert load.stopped_at is not None
        # Two looks, five a second, on a thread of its own: well before the next sample of 1 Hz.
        self.assertLess(load.stopped_at - crossed[0], 0.55)
        self.assertTrue(any(m.text.startswith("guard:") for m in sink.marks))

    def test_the_guard_stops_when_the_die_goes_silent(self) -> None:
        load = FakeLoad()
        began = time.monotonic()
        outcome, _, _ = self.record(
            [FakeSource(DIE, lambda t: 60.0 if t < 0.5 else math.nan)], rate_hz=5.0,
            course=quick(idle_most_s=0.0, load_s=60.0), loads=[load], guard=Guard(105.0, silent_s=1.0),
            read_die=lambda: 60.0 if time.monotonic() - began < 0.5 else math.nan,
        )  # fmt: skip
        self.assertEqual(outcome.state, "did-not-finish")
        self.assertIn("silent", outcome.reason or "")
        self.assertFalse(load.running)

    def test_another_sensor_over_its_limit_stops_the_load(self) -> None:
        load = FakeLoad()
        vrm = Channel("VRM", "temperature", "°C", "vrm", "board")
        outcome, _, _ = self.record(
            [FakeSource(DIE, lambda t: 60.0), FakeSource(vrm, lambda t: 90.0 + 30.0 * t, "board")], rate_hz=10.0,
            course=quick(idle_most_s=0.0, load_s=60.0), loads=[load], guard=Guard(105.0, limits={"vrm": 100.0}),
        )  # fmt: skip
        self.assertEqual(outcome.state, "did-not-finish")
        self.assertRegex(outcome.reason or "", r"VRM at 10\d °C, over its limit of 100 °C")
        self.assertFalse(load.running)

    def test_a_die_that_runs_away_is_stopped_but_not_the_load_s_first_jump(self) -> None:
        def trip_at(die: Callable[[float], float]) -> float | None:
            guard = Guard(105.0, rise_k_per_s=2.0)
            for tick in range(900):
                found = guard.look(tick / 10.0, die(tick / 10.0))
                if found is not None:
                    self.assertIn("rising", found.reason)
                    return found.at_s
            return None

        jump = lambda t: 40.0 if t < 2 else 75.0  # noqa: E731
        self.assertIsNone(trip_at(lambda t: jump(t) + 0.05 * t))
        loose = trip_at(lambda t: jump(t) + max(0.0, 4.0 * (t - 60.0)) if t < 66 else 99.0)
        self.assertTrue(loose is not None and 60.0 < loose < 66.0)

    def test_the_guard_stops_the_load_while_the_interface_is_frozen(self) -> None:
        over = threading.Event()
        load, began = FakeLoad(), [0.0]
        source = FakeSource(DIE, lambda t: 120.0 if over.is_set() else 50.0)
        recorder = Recorder(
            [source], MonotonicClock(), Memory(), course=quick(load_s=20.0, idle_most_s=0.0), loads=[load],
            guard=Guard(105.0), read_die=lambda: source.sample()[0], rate_hz=1.0,
        )  # fmt: skip
        thread = threading.Thread(target=recorder.run)
        thread.start()
        time.sleep(0.6)
        over.set()
        began[0] = time.monotonic()
        # The interface's thread computes without a pause, as one that is stuck would.
        while time.monotonic() - began[0] < 1.5:
            sum(k * k for k in range(2000))
        thread.join(5.0)
        assert load.stopped_at is not None
        self.assertLess(load.stopped_at - began[0], 0.5)

    def test_a_lone_spike_trips_nothing(self) -> None:
        guard = Guard(105.0)
        looks = [(0.0, 80.0), (0.2, 127.0), (0.4, 81.0), (0.6, math.nan), (0.8, 82.0)]
        self.assertTrue(all(guard.look(t, v) is None for t, v in looks))
        self.assertIsNone(guard.look(1.0, 106.0))
        self.assertIsNotNone(guard.look(1.2, 106.0))

    def test_stopping_by_hand_takes_the_load_off_at_once(self) -> None:
        load, sink = FakeLoad(), Memory()
        recorder = Recorder(
            [FakeSource(DIE, lambda t: 40.0)], MonotonicClock(), sink, rate_hz=10.0,
            course=quick(idle_most_s=0.0, load_s=60.0), loads=[load],
        )  # fmt: skip
        threading.Timer(0.5, recorder.stop).start()
        began = time.monotonic()
        outcome = recorder.run()
        self.assertEqual(outcome.state, "stopped")
        self.assertLess(time.monotonic() - began, 1.0)
        self.assertFalse(load.running)

    def test_marks_carry_their_moment(self) -> None:
        sink = Memory()
        recorder = Recorder(
            [FakeSource(DIE, lambda t: 40.0)], MonotonicClock(), sink, rate_hz=20.0, for_s=0.6
        )
        threading.Timer(0.3, lambda: recorder.mark("panel off")).start()
        recorder.run()
        self.assertEqual([m.text for m in sink.marks], ["panel off"])
        self.assertAlmostEqual(sink.marks[0].at_s, 0.3, delta=0.1)


class CourseTest(unittest.TestCase):
    def follow(self, spec: CourseSpec, die: Callable[[float, str], float], most_s: int = 4000) -> Course:
        course = Course(spec)
        for second in range(most_s):
            if course.advance(float(second), die(float(second), course.step), 95.0) == "done":
                break
        return course

    def test_a_whole_course(self) -> None:
        state = {"die": 30.0}

        def die(_: float, step: str) -> float:
            target = 80.0 if step == "load" else 30.0
            state["die"] += (target - state["die"]) / 60.0
            return state["die"]

        course = self.follow(CourseSpec("x"), die)
        steps = dict(course.steps)
        self.assertAlmostEqual(steps["load"], 60.0, delta=5.0)
        self.assertLess(steps["cool-down"] - steps["load"], 900.0)
        self.assertGreater(steps["cool-down"] - steps["load"], 300.0)
        self.assertLess(steps["done"] - steps["cool-down"], 300.0)

    def test_an_idle_that_is_not_calm_is_waited_for_but_not_for_ever(self) -> None:
        course = self.follow(CourseSpec("x", idle_most_s=300.0), lambda t, s: 30.0 + t / 60.0)
        self.assertEqual(dict(course.steps)["load"], 300.0)

    def test_a_fixed_time_is_a_fixed_time(self) -> None:
        course = self.follow(CourseSpec("x", load_s=120.0), lambda t, s: 50.0)
        steps = dict(course.steps)
        self.assertEqual(steps["cool-down"] - steps["load"], 120.0)


if __name__ == "__main__":
    unittest.main()
