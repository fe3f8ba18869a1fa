"""Totals of a load on a run whose sums are known, and the sentence on it."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from samovar.core.facts import Facts
from samovar.core.quantity import Channel
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.core.sentence import sentence
from samovar.core.totals import totals_of
from tests.recordings import FACTS, simple_run

VCORE = Channel("Vcore", "voltage", "V", "other", "cpu")


class TotalsTest(unittest.TestCase):
    def setUp(self) -> None:
        run = simple_run(load_s=600)
        busy = (run.time_s >= 120) & (run.time_s < 720)
        volts = np.where(busy, 1.10, 1.25) + np.random.default_rng(2).normal(0, 0.004, len(run.time_s))
        self.run = Recording((*run.channels, VCORE), run.time_s, np.vstack([run.values, volts]))
        self.reading = read(self.run, FACTS)

    def test_energy_work_and_what_a_joule_does(self) -> None:
        found = totals_of(self.run, self.reading.phases, self.reading.load_phase())
        assert found is not None and found.energy_j is not None and found.work_units is not None
        # 28 s at 140 W and 572 s at 95 W; 920 and 810 units a second.
        self.assertAlmostEqual(found.energy_j, 28 * 140 + 572 * 95, delta=200)
        self.assertAlmostEqual(found.work_units, 28 * 920 + 572 * 810, delta=2000)
        self.assertAlmostEqual(found.work_per_j or 0, found.work_units / found.energy_j)
        self.assertAlmostEqual((found.clock_mhz or (0,) * 5)[2], 4000.0, delta=5.0)
        self.assertAlmostEqual(found.w_per_ghz or 0, 95 / 4.0, delta=0.3)
        assert found.voltage is not None and found.voltage.droop_v is not None
        self.assertAlmostEqual(found.voltage.droop_v, 0.15, delta=0.002)
        self.assertAlmostEqual(found.voltage.sd_v, 0.004, delta=0.001)

    def test_a_hole_in_the_power_makes_its_energy_not_known(self) -> None:
        values = self.run.values.copy()
        values[2, 300:420] = np.nan
        holed = replace(self.run, values=values, _cache={})
        found = totals_of(holed, self.reading.phases, self.reading.load_phase())
        assert found is not None
        self.assertIsNone(found.energy_j)
        self.assertIsNone(found.work_per_j)
        self.assertIsNotNone(found.work_units)

    def test_the_sentence_says_what_the_reviewer_would(self) -> None:
        words = sentence(self.reading, FACTS)
        self.assertRegex(
            words,
            r"^From 0:28 into the load its power budget of 95 W set the pace, at a cost of 1[12] % of the work; the cooling had 2\d K to spare\.$",
        )
        self.assertNotIn("spare", sentence(self.reading, Facts()))
        stopped = replace(self.reading, judgement="stopped")
        self.assertIn("could not be finished: it ended after 10:00", sentence(stopped, FACTS))
        clear = replace(self.reading, judgement="clear", held=[])
        self.assertIn("ran free at 46", sentence(clear, FACTS))
        self.assertEqual(sentence(replace(self.reading, phases=[]), FACTS), "")
        heat = replace(self.reading.held[-1], by="thermal", mean_clock_mhz=3060.0)
        hot = replace(self.reading, judgement="throttles", held=[heat])
        self.assertIn("pushed it down to 3060 MHz, 10 % under base", sentence(hot, FACTS))


if __name__ == "__main__":
    unittest.main()
