"""The way of the heat on a run whose resistances are known."""

from __future__ import annotations

import unittest

import numpy as np

from samovar.core.heat_path import elsewhere, headroom_w, heat_path
from samovar.core.quantity import Channel
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.exchange.problems import InputError
from samovar.tui.screens.run_actions import elsewhere_words
from tests.recordings import FACTS, simple_run

COOLANT = Channel("Coolant", "temperature", "°C", "coolant", "case")
ROOM = Channel("Room", "temperature", "°C", "inlet", "case")


class HeatPathTest(unittest.TestCase):
    def setUp(self) -> None:
        run = simple_run()
        rng = np.random.default_rng(4)
        room = 22.5 + rng.normal(0, 0.03, len(run.time_s))
        # Of the 0.5 K/W in all, 0.3 lie between coolant and room.
        coolant = room + 0.6 * (run.values[0] - 22.5)
        recording = Recording(
            (*run.channels, COOLANT, ROOM), run.time_s, np.vstack([run.values, coolant, room])
        )
        self.reading = read(recording, FACTS)

    def test_the_stages_add_up_to_the_whole(self) -> None:
        first, second = heat_path(self.reading)
        self.assertEqual(
            [(s.start, s.end) for s in (first, second)], [("die", "coolant"), ("coolant", "room")]
        )
        self.assertAlmostEqual(first.resistance_k_per_w.value, 0.2, delta=0.01)
        self.assertAlmostEqual(second.resistance_k_per_w.value, 0.3, delta=0.01)
        assert self.reading.thermal is not None and self.reading.thermal.resistance_k_per_w is not None
        total = first.resistance_k_per_w.value + second.resistance_k_per_w.value
        self.assertAlmostEqual(total, self.reading.thermal.resistance_k_per_w, delta=0.005)
        self.assertGreater(first.resistance_k_per_w.half_width or 0.0, 0.0)

    def test_another_chip_and_another_room(self) -> None:
        near, far = elsewhere(self.reading, 110.0), elsewhere(self.reading, 170.0, 30.0)
        assert near is not None and far is not None
        self.assertAlmostEqual(near.die_c.value, 22.5 + 0.5 * 110.0, delta=0.7)
        self.assertIsNone(near.beyond)
        self.assertAlmostEqual(far.die_c.value, 30.0 + 0.5 * 170.0, delta=1.0)
        self.assertAlmostEqual(far.beyond or 0.0, 170.0 / 95.0 - 1.0, delta=0.01)
        heat = headroom_w(self.reading, 95.0, 35.0)
        assert heat is not None
        self.assertAlmostEqual(heat.value, 120.0, delta=1.5)

    def test_as_a_person_asks_for_it(self) -> None:
        words = elsewhere_words(self.reading, 95.0, "170 W, 30 °C")
        self.assertRegex(words, r"settle at 11[45][\d.]* ±[\d.]+ °C, extrapolated: that power is 79 % away")
        self.assertIn("so it would be held", words)
        self.assertRegex(words, r"In that room 130 ±\d W bring it to its limit")
        with self.assertRaisesRegex(InputError, "120 W"):
            elsewhere_words(self.reading, 95.0, "warmer")

    def test_a_room_in_fahrenheit_is_one(self) -> None:
        self.assertEqual(
            elsewhere_words(self.reading, 95.0, "170 W, 86 °F"),
            elsewhere_words(self.reading, 95.0, "170 W, 30 °C"),
        )

    def test_without_a_power_there_is_no_path(self) -> None:
        run = simple_run()
        bare = read(Recording(run.channels[:2], run.time_s, run.values[:2]), FACTS)
        self.assertEqual(heat_path(bare), [])
        self.assertIsNone(elsewhere(bare, 100.0))
        self.assertIsNone(headroom_w(bare, 95.0, 22.0))


if __name__ == "__main__":
    unittest.main()
