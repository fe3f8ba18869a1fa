"""A run in steps: told by the recorder's changes, by loads that follow each other, by the levels of a fan that was set."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from samovar.core.by_hand.line import Circumstances, read_line
from samovar.core.effect import effects, of_changes
from samovar.core.marks import FANS, JOINS, LEAVES, LOAD, Change
from samovar.core.quantity import Channel
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.core.results.figure import figure_of
from samovar.core.results.steps import results_of_steps, steps_of, with_hands
from tests.recordings import DIE, FACTS, POWER, USE

FAN = Channel("CPU fan", "fan", "rpm", "other", "cpu")
EDGES = ((100.0, 700.0, 600.0, 60.0), (700.0, 1300.0, 1000.0, 50.0), (1300.0, 1900.0, 1500.0, 44.0))
"""Each step from, to, at so many rpm, and where the die ends in it, °C."""


def stepped_run(tau_s: float = 30.0, regulated: bool = False, seed: int = 1) -> Recording:
    """Idle, three levels of the fan under one load, cool-down; the die goes over to each level with one time constant."""
    chance = np.random.default_rng(seed)
    time_s = np.arange(0.0, 2000.0)
    die, fan = np.full(len(time_s), 30.0), np.full(len(time_s), 400.0)
    now = 30.0
    for k, t in enumerate(time_s):
        level = next(((rpm, c) for a, b, rpm, c in EDGES if a <= t < b), (400.0, 30.0))
        now += (level[1] - now) / tau_s
        die[k] = now
        fan[k] = 400.0 + 20.0 * (now - 30.0) if regulated else level[0]
    loaded = (time_s >= 100.0) & (time_s < 1900.0)
    rows = [
        (DIE, die + chance.normal(0, 0.1, len(die))),
        (POWER, np.where(loaded, 95.0, 10.0) + chance.normal(0, 0.2, len(die))),
        (USE, np.where(loaded, 99.0, 2.0)),
        (FAN, fan + chance.normal(0, 6.0, len(die))),
    ]
    return Recording(tuple(c for c, _ in rows), time_s, np.array([row for _, row in rows]))


CHANGES = (
    Change(99.5, FANS, value=0.4), Change(100.0, LOAD, "worst case"), Change(700.0, FANS, value=0.6),
    Change(1300.0, FANS, value=1.0), Change(1900.0, LOAD),
)  # fmt: skip


class StepsTest(unittest.TestCase):
    def test_the_recorders_changes_make_the_steps(self) -> None:
        recording = replace(stepped_run(), changes=CHANGES, _cache={})
        reading = read(recording, FACTS)
        steps = steps_of(recording, reading)
        self.assertEqual([(s.name, s.start_s, s.end_s) for s in steps], [("fans 40 %", 100.0, 698.0), ("fans 60 %", 700.0, 1298.0), ("fans 100 %", 1300.0, 1898.0)])  # fmt: skip
        found = results_of_steps(recording, reading, steps)
        rise = figure_of("rise")
        for one, (_, _, _, end_c) in zip(found, EDGES, strict=True):
            value = rise.among(one.results)
            assert value is not None, one.step.name
            self.assertAlmostEqual(value.value, end_c - 22.5, delta=0.4)

    def test_what_was_read_in_a_step_is_the_steps(self) -> None:
        recording = replace(stepped_run(), changes=CHANGES, _cache={})
        reading = read(recording, FACTS)
        found = results_of_steps(recording, reading, steps_of(recording, reading))
        there = Circumstances(duration_s=1999.0)
        hands = [
            read_line(f"noise {level}, at {at}", there)
            for level, at in ((24, "11:00"), (30, "21:00"), (38, "31:00"))
        ]
        levels = [figure_of("noise").among(one.results) for one in with_hands(found, hands)]
        self.assertEqual([v and v.value for v in levels], [24.0, 30.0, 38.0])

    def test_a_fan_that_was_set_tells_its_steps_in_a_log_of_other_making(self) -> None:
        recording = stepped_run()
        steps = steps_of(recording, read(recording, FACTS))
        self.assertEqual(len(steps), 3)
        for step, (start_s, _, rpm, _) in zip(steps, EDGES, strict=True):
            self.assertAlmostEqual(step.start_s, start_s, delta=8.0)
            self.assertAlmostEqual(float(step.name.split()[1]), rpm, delta=5.0)

    def test_a_fan_that_is_regulated_makes_none(self) -> None:
        for seed in range(3):
            recording = stepped_run(regulated=True, seed=seed)
            self.assertEqual(steps_of(recording, read(recording, FACTS)), [])

    def test_loads_one_after_another_and_those_that_join(self) -> None:
        changes = (
            Change(100.0, LOAD, "processor"), Change(400.0, LOAD, "memory"), Change(550.0, JOINS, "graphics"),
            Change(700.0, LEAVES, "graphics"), Change(1900.0, LOAD),
        )  # fmt: skip
        recording = replace(stepped_run(), changes=changes, _cache={})
        names = [s.name for s in steps_of(recording, read(recording, FACTS))]
        self.assertEqual(names, ["processor", "memory", "memory, with graphics", "memory"])

    def test_one_load_alone_is_no_step(self) -> None:
        recording = replace(
            stepped_run(), changes=(Change(100.0, LOAD, "x"), Change(1900.0, LOAD)), _cache={}
        )
        self.assertEqual(steps_of(recording, read(recording, FACTS)), [])


class EffectTest(unittest.TestCase):
    def test_what_a_change_did_and_how_long_it_took(self) -> None:
        # One time constant of 30 s: half of the way after 20.8 s, nine tenths after 69.1.
        recording = replace(stepped_run(), changes=CHANGES, _cache={})
        done = {change.words: (until, found) for change, until, found in of_changes(recording)}
        self.assertEqual(
            set(done), {"fans 40 %", "worst case on", "fans 60 %", "fans 100 %", "load off"} - {"fans 40 %"}
        )
        until, found = done["fans 60 %"]
        self.assertEqual(until, 1300.0)
        die = next(e for e in found if e.channel.name == DIE.name)
        self.assertAlmostEqual(die.difference.value, -10.0, delta=0.3)
        self.assertAlmostEqual(die.half_s or 0.0, 20.8, delta=2.0)
        self.assertAlmostEqual(die.ninety_s or 0.0, 69.1, delta=4.0)
        self.assertRegex(die.words(), r"^took (9\.9|10\.\d) ±0\.\d+ K off CPU die, 90 % of it in \d\d s$")
        fan = next(e for e in found if e.channel.name == FAN.name)
        self.assertAlmostEqual(fan.difference.value, 400.0, delta=5.0)
        power = next(e for e in found if e.channel.name == POWER.name)
        self.assertFalse(power.shown)
        self.assertIsNone(power.half_s)

    def test_between_two_cursors(self) -> None:
        recording = stepped_run()
        (die,) = [e for e in effects(recording, 690.0, 1290.0, around=True) if e.channel.name == DIE.name]
        self.assertAlmostEqual(die.before.value, 60.0, delta=0.2)
        self.assertAlmostEqual(die.after.value, 50.0, delta=0.2)


if __name__ == "__main__":
    unittest.main()
