"""What a person changes in mid-run, and sources that are asked at rates of their own."""

from __future__ import annotations

import math
import tempfile
import unittest
from pathlib import Path

import numpy as np

from samovar.archive import Archive
from samovar.bench.course_spec import CourseSpec, CourseStep
from samovar.bench.loads.protocol import LoadError
from samovar.bench.machine import SLOW
from samovar.bench.recorder import Recorder
from samovar.core.held.stretches import HeldStretch
from samovar.core.reading import read
from samovar.core.results.figure import Figure, figure_of
from samovar.core.results.steps import with_hands
from samovar.demo.van import FACTS
from samovar.exchange.problems import InputError
from samovar.recording.by_line import act
from samovar.recording.live import LiveRun
from samovar.simulator.machine import SimulatedMachine
from samovar.tui.power_shares import power_shares
from tests.bench.test_recorder import FakeLoad, FakeSource, Memory, quick
from tests.recordings import DIE, POWER, Mark
from tests.sources.test_other_sources import FastClock


class MidRunTest(unittest.TestCase):
    """A compact computer whose graphics side shares the processor's budget."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.archive = Archive(Path(folder.name) / "a.sqlite")
        self.addCleanup(self.archive.close)
        self.machine = SimulatedMachine("Vent kit", speed=None)
        self.addCleanup(self.machine.close)

    def run_with(self, lines: dict[int, str]) -> LiveRun:
        """A load of four minutes; each line is typed at its second of the run."""
        spec = CourseSpec(
            "worst case", idle_least_s=10.0, idle_most_s=10.0, load_s=240.0, cool_down_most_s=10.0
        )
        said: list[str] = []
        shares = []

        def sample(at_s: float, values: object) -> None:
            line = lines.get(round(at_s))
            if line:
                said.append(act(live, line))
            if round(at_s) == 200:
                shares.append(power_shares(live))

        live = LiveRun(self.archive, self.machine, spec, facts=FACTS, on_sample=sample, patience_s=None)
        live.run()
        self.said, self.shares = said, shares[0]
        return live

    def test_graphics_that_join_take_their_share_and_the_reading_says_so(self) -> None:
        live = self.run_with({120: "join graphics drawing"})
        self.assertEqual(live.outcome.state if live.outcome else "", "sealed")
        self.assertIn("graphics drawing joins", [m.text for m in live.marks()])
        package, graphics = self.shares
        self.assertAlmostEqual(graphics.power_w, 9.0, delta=0.5)
        self.assertAlmostEqual(package.power_w, 11.0, delta=0.7)
        self.assertAlmostEqual(package.change_w or 0.0, -4.0, delta=1.0)
        self.assertAlmostEqual(package.share + graphics.share, 1.0)
        held = read(live.recording(), FACTS).held
        shared = [h for h in held if h.by == "shared"]
        self.assertTrue(shared and abs(shared[0].start_s - 121.0) < 8.0, held)
        self.assertIsInstance(shared[0], HeldStretch)
        self.assertIsNone(self.machine.rig.load)

    def test_a_load_that_leaves_gives_its_share_back(self) -> None:
        live = self.run_with({60: "join graphics drawing", 150: "leave graphics drawing"})
        package, graphics = self.shares
        self.assertAlmostEqual(graphics.power_w, 0.0, delta=0.2)
        self.assertAlmostEqual(package.power_w, 15.0, delta=0.7)
        self.assertEqual(
            [m.text for m in live.marks()][1:3], ["graphics drawing joins", "graphics drawing leaves"]
        )

    def test_fans_answer_and_stay(self) -> None:
        live = self.run_with({100: "fans 100", 150: "panel off", 160: "read noise 34.2"})
        recording = live.recording()
        fan = recording.values[recording.find("fan")[0]]
        self.assertGreater(np.nanmedian(fan[150:240]), np.nanmax(fan[:95]) + 300.0)
        self.assertEqual(
            [m.text for m in live.marks()][1:],
            ["fans 100 %", "panel off", "noise 34.2 ±1.4 dBA by hand", "load off"],
        )
        (kept,) = self.archive.runs.hands.of(live.number)
        self.assertEqual((kept.kind, kept.value), ("noise", 34.2))

    def test_what_was_changed_is_kept_as_data(self) -> None:
        live = self.run_with({100: "fans 100", 120: "join graphics drawing", 150: "leave graphics drawing"})
        kept = self.archive.runs.recording(live.number).changes
        self.assertEqual(
            [(c.what, c.name, c.value) for c in kept],
            [
                ("load", "worst case", None),
                ("fans", "", 1.0),
                ("joins", "graphics drawing", None),
                ("leaves", "graphics drawing", None),
                ("load", "", None),
            ],
        )
        self.assertEqual([round(c.at_s) for c in kept[1:4]], [100, 120, 150])

    def test_a_course_in_steps_gives_results_for_each_with_the_noise_read_in_it(self) -> None:
        spec = CourseSpec(
            "worst case", idle_least_s=10.0, idle_most_s=10.0, cool_down_most_s=10.0,
            steps=tuple(CourseStep(load_s=600.0, fan_share=share) for share in (0.4, 1.0)),
        )  # fmt: skip
        lines = {500: "read noise 24.0", 1100: "read noise 34.0"}
        live = LiveRun(
            self.archive, self.machine, spec, facts=FACTS, patience_s=None,
            on_sample=lambda at_s, values: act(live, lines[round(at_s)]) if round(at_s) in lines else None,
        )  # fmt: skip
        live.run()
        self.archive.runs.reading(live.number)
        steps = with_hands(
            self.archive.runs.findings.steps([live.number])[live.number],
            self.archive.runs.hands.of(live.number),
        )
        self.assertEqual([one.step.name for one in steps], ["fans 40 %", "fans 100 %"])
        fan, noise = Figure("mean", "fan"), figure_of("noise")
        speeds = [v.value for one in steps if (v := fan.among(one.results))]
        self.assertGreater(speeds[1], speeds[0] + 300.0)
        self.assertEqual([v.value for one in steps if (v := noise.among(one.results))], [24.0, 34.0])

    def test_what_cannot_be_done_is_said_and_nothing_changes(self) -> None:
        live = LiveRun(self.archive, self.machine, CourseSpec("worst case"), facts=FACTS)
        for line, words in (
            ("fans 140", "0 to 100"),
            ("join volcano", "no load is on"),
            ("read mood 3", "kind"),
        ):
            with self.assertRaisesRegex(InputError, words):
                act(live, line)
        with self.assertRaisesRegex(LoadError, "volcano"):
            live.join("volcano")
        self.assertIsNone(live.changed_s)
        live.stop()
        live.run()


class RatesTest(unittest.TestCase):
    def test_a_slow_source_is_asked_at_its_own_rate(self) -> None:
        sink, clock = Memory(), FastClock()
        sources = [FakeSource(DIE, lambda t: 40.0), FakeSource(POWER, lambda t: 95.0, "slow")]
        recorder = Recorder(
            sources, clock, sink, rate_hz=10.0, rates_hz={"slow": 1.0}, for_s=5.0, patience_s=None
        )
        recorder.run()
        dies, powers = np.array(sink.rows).T
        self.assertTrue(np.isfinite(dies).all())
        self.assertEqual(np.flatnonzero(np.isfinite(powers)).tolist(), [0, 10, 20, 30, 40, 50])
        self.assertEqual(recorder.strides, [1, 10])

    def test_the_kernels_slow_sensors_are_a_source_of_their_own(self) -> None:
        machine = SimulatedMachine("Osprey 161", speed=None)
        self.addCleanup(machine.close)
        (whole,), watch = machine.open_sources()
        parts, again = machine.open_sources(split=True)
        self.addCleanup(lambda: [s.close() for s in (whole, *parts, watch, again) if s])
        self.assertEqual([p.name for p in parts], ["kernel", SLOW])
        ids = [c.id for p in parts for c in p.channels]
        self.assertEqual(sorted(ids), sorted(c.id for c in whole.channels))
        fast = {c.role for c in parts[0].channels if c.quantity == "temperature"}
        self.assertEqual(fast, {"die"})
        self.assertNotIn("clock", {c.quantity for c in parts[1].channels})
        clash = machine.open_sources({c.id: "die" for c in whole.channels if c.role == "vrm"}, split=True)
        self.addCleanup(lambda: [s.close() for s in clash[0]])
        self.assertEqual(sum(c.role == "die" for c in clash[0][0].channels), 2)

    def test_a_joined_load_ends_with_the_guard_and_with_the_run(self) -> None:
        from samovar.bench.guard import Guard

        second, main, clock, sink = FakeLoad(), FakeLoad(), FastClock(), Memory()
        second.name = "second"  # type: ignore[misc]
        source = FakeSource(DIE, lambda t: 120.0 if clock.now() > 2.0 else 50.0)
        recorder = Recorder(
            [source], clock, sink, course=quick(load_s=10.0, idle_most_s=0.0), loads=[main], guard=Guard(105.0),
            rate_hz=2.0, patience_s=None,
        )  # fmt: skip
        recorder.wish_join(second)
        outcome = recorder.run()
        self.assertEqual(outcome.state, "did-not-finish")
        self.assertEqual((second.starts, second.running, main.running), (1, False, False))
        self.assertIn("second joins", [m.text for m in sink.marks])
        self.assertFalse(any(math.isnan(m.at_s) for m in sink.marks if isinstance(m, Mark)))


if __name__ == "__main__":
    unittest.main()
