"""Stretches left out by hand: joined where they touch, seen by every figure, the samples themselves untouched."""

from __future__ import annotations

import itertools
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from samovar.core.exclusions import Exclusion, at, with_added, without
from samovar.core.reading import read
from tests.recordings import FACTS, simple_run


class ExclusionsTest(unittest.TestCase):
    def test_a_door_that_was_opened_moves_no_figure_any_more(self) -> None:
        clean = simple_run()
        disturbed = simple_run()
        disturbed.values[0, 1000:1040] -= 12.0
        spoiled, whole = read(disturbed, FACTS), read(clean, FACTS)
        mended = read(without(disturbed, [Exclusion(995.0, 1045.0, "door opened")]), FACTS)
        assert whole.window is not None and mended.window is not None
        self.assertAlmostEqual(mended.steady["CPU die"].mean, whole.steady["CPU die"].mean, delta=0.1)
        # With the dip in it the averages can only begin behind it.
        assert spoiled.window is not None
        self.assertGreater(spoiled.window.start_s or 0.0, 1035.0)
        self.assertLess(mended.window.start_s or 0.0, 990.0)
        self.assertEqual(mended.judgement, whole.judgement)
        self.assertEqual([h.by for h in mended.held], ["power"])

    def test_the_samples_stay(self) -> None:
        run = simple_run(200)
        kept = run.values.copy()
        without(run, [Exclusion(50.0, 60.0, "cable touched")])
        self.assertTrue(np.array_equal(run.values, kept))
        self.assertIs(without(run, []), run)

    def test_what_touches_becomes_one_with_both_reasons(self) -> None:
        first = [Exclusion(10.0, 20.0, "door opened"), Exclusion(40.0, 50.0, "cable touched")]
        found = with_added(first, Exclusion(18.0, 30.0, "panel taken off"))
        self.assertEqual(
            found,
            [Exclusion(10.0, 30.0, "door opened; panel taken off"), Exclusion(40.0, 50.0, "cable touched")],
        )
        self.assertEqual(at(found, 25.0), found[0])
        self.assertIsNone(at(found, 35.0))
        with self.assertRaises(ValueError):
            with_added([], Exclusion(5.0, 5.0, "nothing"))

    @given(st.lists(st.tuples(st.floats(0, 100), st.floats(0.1, 30)), max_size=12))
    def test_however_they_are_added_they_never_overlap(self, spans: list[tuple[float, float]]) -> None:
        kept: list[Exclusion] = []
        for start, length in spans:
            kept = with_added(kept, Exclusion(start, start + length, "x"))
        self.assertTrue(all(a.end_s < b.start_s for a, b in itertools.pairwise(kept)))
        for start, length in spans:
            self.assertIsNotNone(at(kept, start + 0.5 * length))


if __name__ == "__main__":
    unittest.main()
