"""Two runs side by side: aligned at load start, compared in figures with their uncertainty."""

from __future__ import annotations

import unittest

import numpy as np

from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.core.side_by_side import side_by_side
from tests.recordings import FACTS, simple_run


class SideBySideTest(unittest.TestCase):
    def test_the_other_load_begins_with_this_one(self) -> None:
        first, second = simple_run(idle_s=120), simple_run(idle_s=75, seed=2)
        found = side_by_side(first, read(first, FACTS), second, read(second, FACTS))
        self.assertAlmostEqual(found.offset_s, 45.0, delta=1.0)
        power = found.rows["power"]
        self.assertLess(power[115], 15.0)
        self.assertGreater(power[125], 130.0)
        self.assertTrue(np.isnan(found.rows["temperature"][:44]).all())

    def test_figures_with_their_difference(self) -> None:
        first = simple_run()
        warmer = Recording(
            first.channels, first.time_s, first.values + np.array([[4.0], [0.0], [0.0], [0.0], [0.0]])
        )
        found = side_by_side(first, read(first, FACTS), warmer, read(warmer, FACTS))
        rise = next(f for f in found.figures if f.name == "rise")
        difference = rise.difference
        assert difference is not None and difference.half_width is not None
        self.assertAlmostEqual(difference.value, 4.0, delta=0.05)
        self.assertLess(difference.half_width, 1.0)

    def test_what_one_run_lacks_is_not_compared(self) -> None:
        whole = simple_run()
        bare = Recording(whole.channels[:2], whole.time_s, whole.values[:2])
        found = side_by_side(whole, read(whole, FACTS), bare, read(bare, FACTS))
        self.assertEqual(set(found.rows), {"temperature", "clock"})
        power = next(f for f in found.figures if f.name == "power")
        self.assertIsNone(power.difference)

    def test_a_gap_stays_a_gap(self) -> None:
        whole = simple_run()
        keep = np.r_[0:400, 500 : len(whole.time_s)]
        holed = Recording(whole.channels, whole.time_s[keep], whole.values[:, keep])
        row = side_by_side(whole, read(whole, FACTS), holed, read(holed, FACTS)).rows["temperature"]
        self.assertTrue(np.isnan(row[410:490]).all())


if __name__ == "__main__":
    unittest.main()
