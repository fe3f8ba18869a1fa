"""What an instrument's class leaves open, and where that joins a result."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from samovar.core.accuracy import half_width
from samovar.core.compare.rungs import compared
from samovar.core.facts import Facts
from samovar.core.quantity import Channel
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.core.results.compute import results_of
from samovar.core.results.figure import RunResult, figure_of
from tests.recordings import FACTS, simple_run

TO_INTERVAL = 2.0 / math.sqrt(3.0)
"""From the limit of a rectangular distribution to the half-width of an interval, k = 2."""


class WordsTest(unittest.TestCase):
    def test_classes_as_their_standards_have_them(self) -> None:
        for words, quantity, value, limit in (
            # IEC 60584-1: K of class 1, 1.5 K or 0.4 %; IEC 60751: A, 0.15 K + 0.2 %.
            ("K 1", "temperature", 100.0, 1.5),
            ("type K class 1", "temperature", 500.0, 2.0),
            ("Pt100 A", "temperature", 100.0, 0.35),
            ("Pt A", "temperature", 0.0, 0.15),
            ("class 0.5", "power", 200.0, 1.0),
            ("0.5 % + 0.2 W", "power", 100.0, 0.7),
            ("±0,5", "temperature", 80.0, 0.5),
            ("±0.9 °F", "temperature", 80.0, 0.5),
            ("1 % of reading", "fan", 1000.0, 10.0),
            ("±0.7 dB", "noise", 30.0, 0.7),
        ):
            self.assertAlmostEqual(
                half_width(words, quantity, value), TO_INTERVAL * limit, places=9, msg=words
            )
        self.assertEqual(half_width("class 2", "noise", 30.0), 1.4)
        self.assertEqual(half_width("", "power", 100.0), 0.0)

    @given(
        st.text(max_size=20), st.sampled_from(["temperature", "power", "noise", "fan"]), st.floats(-50, 500)
    )
    def test_anything_else_is_refused_with_an_example(self, words: str, quantity: str, value: float) -> None:
        try:
            found = half_width(words, quantity, value)
        except ValueError as problem:
            self.assertIn("write it such as", str(problem))
        else:
            self.assertTrue(math.isfinite(found) and found >= 0.0)


def run_with(accuracy: str, sensor: str, watts: float = 100.0) -> RunResult:
    """The usual run with a meter at the wall that shows so much."""
    recording = simple_run()
    wall = Channel("Wall", "power", "W", "wall", "case", sensor, accuracy)
    row = watts + np.random.default_rng(7).normal(0, 0.2, len(recording.time_s))
    both = Recording((*recording.channels, wall), recording.time_s, np.vstack([recording.values, row]))
    reading = read(both, FACTS)
    return RunResult(f"r{watts:.0f}", reading, results_of(both, reading))


class JoinedTest(unittest.TestCase):
    def test_a_result_tells_repeatability_and_what_the_instrument_may_be_off_by_apart(self) -> None:
        told = {(r.part, r.statistic): r for r in run_with("1 %", "meter:Wall").results}
        steady = told["wall", "steady"]
        self.assertAlmostEqual(steady.off_by or 0.0, TO_INTERVAL * 1.0, delta=0.01)
        self.assertLess(steady.half_width or 0.0, 0.1)
        self.assertAlmostEqual(steady.compared.half_width or 0.0, TO_INTERVAL * 1.0, delta=0.02)
        self.assertIsNone(told["wall", "spread"].off_by)
        self.assertIsNone(told["package", "steady"].off_by)

    def test_one_meter_cancels_in_a_difference_and_two_do_not(self) -> None:
        figure = figure_of("steady:power:wall")

        def gap(other: str) -> float:
            cells = {
                "a": [
                    replace(run_with("1 %", "meter:Wall", w), order=k) for k, w in enumerate((100.0, 100.3))
                ],
                "b": [replace(run_with("1 %", other, w), order=k) for k, w in enumerate((104.0, 104.2), 2)],
            }
            rung = compared(cells, "a", figure).rung("b")
            assert rung is not None and rung.difference is not None and rung.difference.half_width is not None
            return rung.difference.half_width

        self.assertAlmostEqual(
            math.sqrt(gap("another:Wall") ** 2 - gap("meter:Wall") ** 2),
            TO_INTERVAL * math.hypot(1.0, 1.04),
            delta=0.05,
        )

    def test_the_class_of_the_rooms_probe_is_the_rooms_width(self) -> None:
        recording = simple_run()
        row = np.full(len(recording.time_s), 22.5)
        for accuracy, half in (("Pt A", TO_INTERVAL * (0.15 + 0.002 * 22.5)), ("", None)):
            room = Channel("Room", "temperature", "°C", "inlet", "case", "r:Room", accuracy)
            both = Recording(
                (*recording.channels, room), recording.time_s, np.vstack([recording.values, row])
            )
            found = read(both, Facts()).room
            assert found is not None
            if half is not None:
                self.assertAlmostEqual(found.half_width or 0.0, half, delta=0.001)


class StuckTest(unittest.TestCase):
    def test_a_probe_that_stands_still_while_the_die_warms_is_told(self) -> None:
        recording = simple_run()
        probe = Channel("Regulator back", "temperature", "°C", "vrm")
        still = np.full(len(recording.time_s), 41.3)
        rising = np.round(np.linspace(35.0, 60.0, len(still)), 1)
        for row, told in ((still, 1), (rising, 0)):
            both = Recording(
                (*recording.channels, probe), recording.time_s, np.vstack([recording.values, row])
            )
            words = [w for w in read(both, FACTS).warnings if "stuck" in w]
            self.assertEqual(len(words), told)
        flat = replace(recording, values=np.full_like(recording.values, 40.0))
        self.assertEqual([w for w in read(flat, FACTS).warnings if "stuck" in w], [])


if __name__ == "__main__":
    unittest.main()
