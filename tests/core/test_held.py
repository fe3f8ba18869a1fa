"""What held the clock, on recordings made to show one thing each; and the judgement that follows."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from samovar.core.facts import Facts, GraphicsFacts, ProcessorFacts
from samovar.core.held.stretches import HeldStretch, find_held
from samovar.core.judgement import judge
from samovar.core.phases import Phase, find_phases
from samovar.core.quantity import Channel
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.core.sentence import sentence
from tests.recordings import CLOCK, DIE, FACTS, GPU, POWER, USE, simple_run


def held_in(recording: Recording, facts: Facts = FACTS) -> list[HeldStretch]:
    return find_held(recording, find_phases(recording), facts)


def made(
    die: np.ndarray, clock: np.ndarray, power: np.ndarray, use: np.ndarray, gpu: np.ndarray | None = None
) -> Recording:
    rng = np.random.default_rng(4)
    n = len(die)
    rows = [die + rng.normal(0, 0.15, n), clock + rng.normal(0, 4, n), power + rng.normal(0, 0.1, n), use]
    channels = [DIE, CLOCK, POWER, USE]
    if gpu is not None:
        rows.append(gpu + rng.normal(0, 0.1, n))
        channels.append(GPU)
    return Recording(tuple(channels), np.arange(n, dtype=float), np.array(rows))


def course(n: int = 900, idle: int = 100) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Time, busy mask and seconds since the load began."""
    t = np.arange(n, dtype=float)
    return t, t >= idle, t - idle


class HeldTest(unittest.TestCase):
    def test_a_sustained_budget(self) -> None:
        found = held_in(simple_run())
        self.assertEqual([h.by for h in found], ["power"])
        self.assertAlmostEqual(found[0].start_s, 148.0, delta=4.0)
        self.assertAlmostEqual(found[0].clock_loss_pct or 0, 13.0, delta=1.0)
        self.assertAlmostEqual(found[0].work_loss_pct or 0, 12.0, delta=1.0)
        self.assertIn("95.0 W", found[0].evidence)

    def test_a_budget_whose_level_nobody_told(self) -> None:
        found = held_in(simple_run(), Facts())
        self.assertEqual([h.by for h in found], ["power"])
        self.assertIn("inferred", found[0].evidence)
        self.assertLess(found[0].confidence, 0.9)

    def test_a_die_at_its_limit(self) -> None:
        _, busy, since = course()
        die = np.where(busy, np.minimum(60 + since * 0.2, 94.6), 35.0)
        hot = busy & (die >= 94.6)
        clock = np.where(hot, 3600 - np.minimum(since, 600) * 0.2, np.where(busy, 4500.0, 800.0))
        power = np.where(hot, 90 - np.minimum(since, 600) * 0.02, np.where(busy, 120.0, 10.0))
        found = held_in(made(die, clock, power, np.where(busy, 100.0, 1.0)))
        self.assertEqual([h.by for h in found], ["thermal"])
        self.assertAlmostEqual(found[0].start_s, 273.0, delta=15.0)

    def test_a_sawtooth_under_the_limit_is_thermal(self) -> None:
        _, busy, since = course()
        phase = (since % 30.0) / 30.0
        die = np.where(busy, 86.0 + 9.0 * phase, 35.0)
        clock = np.where(busy, np.where(since < 40, 4500.0, 3300.0 + 300 * phase), 800.0)
        power = np.where(busy, np.where(since < 40, 120.0, 70.0 + 20 * phase), 10.0)
        found = held_in(made(die, clock, power, np.where(busy, 100.0, 1.0)))
        self.assertEqual({h.by for h in found}, {"thermal"} if len(found) == 1 else {h.by for h in found})
        thermal = sum(h.end_s - h.start_s for h in found if h.by == "thermal")
        self.assertGreater(thermal, 0.6 * 760)

    def test_firmware_that_regulates_well_below_the_limit(self) -> None:
        _, busy, since = course()
        die = np.where(busy, np.minimum(45 + since * 0.25, 72.0), 35.0)
        regulated = busy & (die >= 72.0)
        sinking = 28.0 + 22.0 * np.exp(-np.maximum(since - 108, 0) / 180.0)
        power = np.where(regulated, sinking, np.where(busy, 50.0, 6.0))
        clock = np.where(regulated, 2200 + 30 * sinking, np.where(busy, 3800.0, 800.0))
        found = held_in(
            made(die, clock, power, np.where(busy, 100.0, 1.0)),
            Facts(ProcessorFacts(temperature_limit_c=100.0)),
        )
        self.assertEqual([h.by for h in found], ["firmware"])
        self.assertIn("72", found[0].evidence)

    def test_a_budget_that_the_graphics_side_eats(self) -> None:
        _, busy, since = course()
        gpu = np.where(busy & (since > 300), 30.0, 1.0)
        power = np.where(busy, 54.0 - (gpu - 1.0), 6.0)
        clock = np.where(busy, np.where(since > 300, 3000.0, 4200.0), 800.0)
        die = np.where(busy, 70.0 + 4 * np.sin(since / 40.0), 35.0)
        found = held_in(made(die, clock, power, np.where(busy, 100.0, 1.0), gpu), Facts())
        self.assertEqual([h.by for h in found], ["shared"])

    def test_a_load_that_eases_off_is_not_held(self) -> None:
        _, busy, since = course()
        use = np.where(busy, np.where(since > 400, 30.0, 100.0), 1.0)
        clock = np.where(busy, np.where(since > 400, 3000.0, 4500.0), 800.0)
        power = np.where(busy, np.where(since > 400, 40.0, 80.0), 10.0)
        found = held_in(made(np.where(busy, 60.0, 35.0), clock, power, use))
        self.assertEqual(found, [])

    def test_without_power_or_temperature_the_answer_is_weaker(self) -> None:
        whole = simple_run()
        bare = Recording((CLOCK, USE), whole.time_s, whole.values[[1, 3]])
        found = held_in(bare)
        self.assertEqual([h.by for h in found], ["unexplained"])
        self.assertIn("no die temperature and no package power", found[0].evidence)
        self.assertIsNone(judge(found, find_phases(bare), None))

    def test_a_graphics_chip_at_its_limit_beside_an_idle_processor(self) -> None:
        _, busy, since = course()
        rng = np.random.default_rng(5)
        hot = np.where(busy, np.minimum(50 + since * 0.3, 83.0), 32.0)
        sinking = np.where(
            busy & (hot >= 83.0), 220 - np.minimum(since, 700) * 0.08, np.where(busy, 230.0, 15.0)
        )
        clock = np.where(
            busy & (hot >= 83.0), 1800 - np.minimum(since, 700) * 0.3, np.where(busy, 1900.0, 300.0)
        )
        n = len(hot)
        rows = [
            (Channel("GPU", "temperature", "°C", "gpu", "gpu"), hot + rng.normal(0, 0.1, n)),
            (Channel("GPU clock", "clock", "MHz", "gpu", "gpu"), clock + rng.normal(0, 3, n)),
            (Channel("GPU memory clock", "clock", "MHz", "memory", "gpu"), np.where(busy, 7000.0, 400.0)),
            (Channel("GPU power", "power", "W", "gpu", "gpu"), sinking + rng.normal(0, 0.3, n)),
            (Channel("GPU load", "load", "%", "gpu", "gpu"), np.where(busy, 99.0, 1.0)),
            # An idle processor's clock is its own business, whatever it does.
            (CLOCK, rng.choice([900.0, 3600.0, 4700.0], n)),
            (USE, np.where(busy, 9.0, 2.0)),
        ]
        recording = Recording(
            tuple(c for c, _ in rows), np.arange(n, dtype=float), np.array([r for _, r in rows])
        )
        reading = read(recording, Facts(gpu=GraphicsFacts(83.0)))
        self.assertEqual(reading.held, [])
        self.assertEqual([(h.by, h.domain) for h in reading.held_graphics], [("thermal", "gpu")])
        self.assertEqual(reading.judgement, "throttles")
        self.assertIn("the graphics chip", sentence(reading, Facts()))
        # The other way round: a processor's load says nothing of a graphics chip that idles.
        idle = Recording((*simple_run().channels, rows[1][0], rows[4][0]), simple_run().time_s,
                         np.vstack([simple_run().values, rng.choice([300.0, 1200.0], 1520), np.full(1520, 2.0)]))  # fmt: skip
        self.assertEqual(read(idle, FACTS).held_graphics, [])

    def test_spikes_and_gaps_are_no_evidence(self) -> None:
        _, busy, _ = course()
        die = np.where(busy, 70.0, 35.0)
        die[[300, 450, 600]] = 127.0
        clock = np.where(busy, 4500.0, 800.0)
        clock[500:510] = np.nan
        found = held_in(made(die, clock, np.where(busy, 80.0, 10.0), np.where(busy, 100.0, 1.0)))
        self.assertEqual(found, [])


class JudgementTest(unittest.TestCase):
    PHASES = (Phase("idle", 0, 100), Phase("load", 100, 1100), Phase("cool-down", 1100, 1200))

    def stretch(
        self, by: str, start: float, end: float, deep_s: float | None = 0.0, loss: float = 8.0
    ) -> HeldStretch:
        return HeldStretch(by, "cpu", start, end, loss, None, 0.9, "", 3500.0, deep_s)

    def judged(self, *held: HeldStretch, stopped: bool | None = None) -> str | None:
        return judge(list(held), list(self.PHASES), stopped)

    def test_each_word(self) -> None:
        self.assertEqual(self.judged(), "clear")
        self.assertEqual(self.judged(self.stretch("thermal", 100, 118)), "clear")
        self.assertEqual(self.judged(self.stretch("power", 128, 1100)), "budget")
        self.assertEqual(self.judged(self.stretch("thermal", 300, 1100)), "rides-limit")
        self.assertEqual(self.judged(self.stretch("thermal", 300, 1100, deep_s=200.0)), "throttles")
        self.assertEqual(self.judged(stopped=True), "stopped")

    def test_base_unknown_goes_by_the_earlier_plateau(self) -> None:
        self.assertEqual(self.judged(self.stretch("thermal", 300, 1100, 700.0, 14.0)), "throttles")
        self.assertEqual(self.judged(self.stretch("thermal", 300, 1100, 0.0, 9.0)), "rides-limit")

    def test_how_it_ends_decides_between_budget_and_limit(self) -> None:
        power_first = (self.stretch("power", 128, 700), self.stretch("thermal", 700, 1100))
        self.assertEqual(self.judged(*power_first), "rides-limit")
        until_the_fan_came = (self.stretch("thermal", 110, 200), self.stretch("power", 200, 1100))
        self.assertEqual(self.judged(*until_the_fan_came), "budget")

    def test_no_load_no_judgement(self) -> None:
        self.assertIsNone(judge([], [Phase("idle", 0, 100)], None))


class PhasesTest(unittest.TestCase):
    def test_from_whatever_tells(self) -> None:
        whole = simple_run()
        for kept in ([0, 1, 2, 3, 4], [0, 4], [0, 2], [1]):
            part = Recording(tuple(whole.channels[k] for k in kept), whole.time_s, whole.values[kept])
            phases = find_phases(part)
            with self.subTest(channels=[c.name for c in part.channels]):
                self.assertEqual([p.name for p in phases], ["idle", "load", "cool-down"])
                self.assertAlmostEqual(phases[1].start_s, 120.0, delta=2.0)
                self.assertAlmostEqual(phases[1].end_s, 1320.0, delta=2.0)

    def test_from_a_temperature_alone(self) -> None:
        whole = simple_run()
        phases = find_phases(Recording(whole.channels[:1], whole.time_s, whole.values[:1]))
        self.assertEqual([p.name for p in phases], ["idle", "load", "cool-down"])
        self.assertAlmostEqual(phases[1].start_s, 120.0, delta=4.0)
        self.assertAlmostEqual(phases[1].end_s, 1320.0, delta=6.0)
        flat = Recording(whole.channels[:1], whole.time_s, np.full((1, len(whole.time_s)), 40.0))
        self.assertEqual([p.name for p in find_phases(flat)], ["load"])

    def test_begins_and_ends_under_load(self) -> None:
        whole = simple_run()
        part = Recording(whole.channels, whole.time_s[200:900] - 200.0, whole.values[:, 200:900])
        self.assertEqual([p.name for p in find_phases(part)], ["load"])

    def test_all_idle(self) -> None:
        whole = simple_run()
        part = Recording(whole.channels, whole.time_s[:100], whole.values[:, :100])
        self.assertEqual([p.name for p in find_phases(part)], ["idle"])

    def test_a_counter_that_never_moved_is_idle(self) -> None:
        t = np.arange(60.0)
        values = np.array([np.full(60, 41.0), np.zeros(60)])
        phases = find_phases(Recording((DIE, simple_run(20).channels[4]), t, values))
        self.assertEqual([p.name for p in phases], ["idle"])

    def test_bursts_are_one_load(self) -> None:
        t = np.arange(600.0)
        use = np.where((t > 60) & (t < 540) & (t % 10 < 4), 25.0, 1.0)
        phases = find_phases(Recording((replace(USE),), t, use[None, :]))
        self.assertEqual([p.name for p in phases], ["idle", "load", "cool-down"])


if __name__ == "__main__":
    unittest.main()
