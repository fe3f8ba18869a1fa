"""The standing table: reviews are tied by what they share, and a tie carries only so far."""

from __future__ import annotations

import unittest

import numpy as np

from samovar.core.compare.standing_table import ONE_REVIEW, Entry, standing_table
from samovar.core.measured import AT_LEAST, Measured


def entries(rng: np.random.Generator, sd: float = 0.3) -> list[Entry]:
    """Two reviews that share a reference; the bench reads 1.5 K more in the older one."""
    made = {"old": (1.5, {"Plain": 60.0, "A": 50.0}), "new": (0.0, {"Plain": 60.0, "B": 52.0, "C": 49.0})}
    return [
        Entry(name, review, Measured(value + offset + float(rng.normal(0.0, sd)), 0.3))
        for review, (offset, of) in made.items()
        for name, value in of.items()
        for _ in range(2)
    ]


class StandingTableTest(unittest.TestCase):
    def test_the_bench_of_another_day_is_taken_off(self) -> None:
        table = standing_table(entries(np.random.default_rng(1), sd=0.001), "Plain", True)
        self.assertEqual([r.name for r in table.rows], ["C", "A", "B", "Plain"])
        self.assertAlmostEqual(next(r.value.value for r in table.rows if r.name == "A"), 50.0, delta=0.01)
        self.assertEqual([(t.review, t.by) for t in table.ties], [("old", ("Plain",))])
        self.assertAlmostEqual(table.ties[0].offset.value, 1.5, delta=0.01)

    def test_what_a_tie_carries_is_in_the_width_and_holds(self) -> None:
        held, wider = 0, 0
        for seed in range(400):
            rows = {
                r.name: r for r in standing_table(entries(np.random.default_rng(seed)), "Plain", True).rows
            }
            a, b = rows["A"].value, rows["B"].value
            assert a.half_width is not None and b.half_width is not None
            held += abs(a.value - 50.0) <= a.half_width
            wider += a.half_width > 1.5 * b.half_width
        self.assertTrue(0.92 <= held / 400 <= 0.98, held)
        self.assertEqual(wider, 400)

    def test_what_nothing_ties_and_what_is_no_more_than_a_bound_is_left_out(self) -> None:
        found = [
            Entry("Z", "alone", Measured(40.0, 0.3)),
            *entries(np.random.default_rng(2)),
            Entry("D", "new", Measured(70.0, 0.3, AT_LEAST)),
        ]
        table = standing_table(found, "Plain", True)
        self.assertEqual(table.left_out["Z"], ONE_REVIEW)
        self.assertIn("bound", table.left_out["D"])
        self.assertNotIn("Z", [r.name for r in table.rows])

    def test_without_repeats_there_are_values_but_no_widths(self) -> None:
        table = standing_table(
            [Entry("A", "r", Measured(50.0, 0.3)), Entry("B", "r", Measured(52.0, 0.3))], "A", True
        )
        self.assertEqual([r.value.half_width for r in table.rows], [None, None])


if __name__ == "__main__":
    unittest.main()
