"""A reading as a whole: its properties, its round trip, the contract's fields, the envelope."""

from __future__ import annotations

import json
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.core.contract import as_contract
from samovar.core.envelope import Envelope
from samovar.core.reading import Reading, read
from samovar.core.reading_plain import from_plain, to_plain
from samovar.core.recording import Recording
from tests.recordings import DIE, FACTS, simple_run


class ReadingTest(unittest.TestCase):
    reading: Reading

    @classmethod
    def setUpClass(cls) -> None:
        cls.reading = read(simple_run(), FACTS)

    def test_the_worked_example(self) -> None:
        # 22.5 °C room, 0.5 K/W, 95 W: 27.5 + 0.5 · 85 = 70 °C, a rise of 47.5 K, 0.5 K/W over the room.
        rise = self.reading.rise()
        assert rise is not None and self.reading.thermal is not None
        self.assertAlmostEqual(rise.value, 47.5, delta=0.2)
        self.assertAlmostEqual(self.reading.thermal.resistance_k_per_w or 0, 0.5, delta=0.005)
        self.assertAlmostEqual(self.reading.thermal.headroom_w or 0, (95 - 22.5) / 0.5, delta=2.0)
        self.assertEqual(self.reading.judgement, "budget")
        assert self.reading.forecast is not None
        self.assertAlmostEqual(self.reading.forecast.value, 70.0, delta=0.3)

    def test_it_keeps_without_loss(self) -> None:
        self.assertEqual(from_plain(json.loads(json.dumps(to_plain(self.reading)))), self.reading)

    def test_the_contract_is_plain_json(self) -> None:
        text = json.dumps(as_contract(self.reading, simple_run()), allow_nan=False)
        content = json.loads(text)
        self.assertEqual(set(content), {
            "log", "channels", "phases", "steady", "peak", "held", "judgement", "thermal", "forecast", "samples",
        })  # fmt: skip
        self.assertEqual(len(content["samples"]["CPU die"]), content["log"]["rows"])

    def test_without_power_the_rest_still_stands(self) -> None:
        whole = simple_run()
        part = Recording(whole.channels[:2], whole.time_s, whole.values[:2])
        reading = read(part, FACTS)
        assert reading.thermal is not None and reading.window is not None
        self.assertIsNone(reading.thermal.resistance_k_per_w)
        self.assertTrue(reading.window.found)
        self.assertIsNotNone(reading.rise())

    def test_a_spike_is_no_peak(self) -> None:
        whole = simple_run()
        values = whole.values.copy()
        values[0, 700] = 127.0
        reading = read(Recording(whole.channels, whole.time_s, values), FACTS)
        self.assertLess(reading.peak["CPU die"].value, 72.0)

    def test_a_shift_of_the_room_shifts_no_rise(self) -> None:
        whole = simple_run()
        values = whole.values.copy()
        values[0] += 7.0
        moved = read(
            Recording(whole.channels, whole.time_s, values),
            replace(FACTS, room=replace(FACTS.room, temperature_c=29.5)),
        )
        first, second = self.reading.rise(), moved.rise()
        assert first is not None and second is not None
        self.assertAlmostEqual(first.value, second.value, delta=0.05)

    def test_every_other_sample_moves_no_judgement(self) -> None:
        whole = simple_run()
        half = Recording(whole.channels, whole.time_s[::2], whole.values[:, ::2])
        self.assertEqual(read(half, FACTS).judgement, "budget")

    def test_the_order_of_columns_changes_nothing(self) -> None:
        whole = simple_run()
        order = [3, 1, 4, 0, 2]
        other = read(
            Recording(tuple(whole.channels[k] for k in order), whole.time_s, whole.values[order]), FACTS
        )
        self.assertEqual(other.held, self.reading.held)
        self.assertEqual(other.steady, self.reading.steady)

    def test_odd_recordings_are_read_without_complaint(self) -> None:
        for n in (0, 1, 2, 7):
            empty = Recording((DIE,), np.arange(n, dtype=float), np.full((1, n), np.nan))
            json.dumps(as_contract(read(empty, FACTS)), allow_nan=False)


class EnvelopeTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.integers(1, 6000), st.integers(5, 300), st.integers(0, 10_000))
    def test_no_extreme_is_lost(self, n: int, width: int, seed: int) -> None:
        rng = np.random.default_rng(seed)
        values = rng.normal(0.0, 1.0, (2, n))
        at = int(rng.integers(n))
        values[1, at] = 1000.0
        time_s = np.arange(n) / 10.0
        low, high = Envelope(time_s, values).columns([0, 1], 0.0, n / 10.0, width)
        self.assertEqual(float(np.nanmax(high[1])), 1000.0)
        self.assertEqual(float(np.nanmin(low[0])), float(values[0].min()))

    def test_growing_gives_the_same_as_whole(self) -> None:
        values = np.random.default_rng(1).normal(0.0, 1.0, (3, 9000))
        time_s = np.arange(9000.0)
        grown = Envelope(time_s[:10], values[:, :10])
        for n in (600, 2500, 8999, 9000):
            grown.extend(time_s[:n], values[:, :n])
        whole = Envelope(time_s, values)
        for a, b in zip(
            grown.columns([0, 2], 0, 9000, 120), whole.columns([0, 2], 0, 9000, 120), strict=True
        ):
            np.testing.assert_array_equal(a, b)

    def test_a_gap_stays_empty(self) -> None:
        time_s = np.concatenate([np.arange(100.0), np.arange(200.0, 300.0)])
        _, high = Envelope(time_s, np.ones((1, 200))).columns([0], 0.0, 300.0, 300)
        self.assertTrue(np.isnan(high[0, 110:190]).all())
        self.assertFalse(np.isnan(high[0, :95]).any())


if __name__ == "__main__":
    unittest.main()
