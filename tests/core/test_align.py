"""Two recordings of one run laid over each other."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.core.align import joined, load_edge, offset_between
from samovar.core.quantity import Channel
from samovar.core.recording import Recording
from tests.recordings import DIE, simple_run

WALL = Channel("Wall", "power", "W", "wall", "case")


def meter(shift_s: float, interval_s: float = 2.0) -> Recording:
    """A wall meter beside `simple_run`, its clock set otherwise, its samples half as often."""
    run = simple_run(load_s=400)
    time_s = np.arange(0.0, run.duration_s - abs(shift_s), interval_s)
    power = np.interp(time_s + shift_s, run.time_s, run.values[2]) * 1.2 + 30.0
    return Recording((WALL,), time_s, power[None, :] + np.random.default_rng(1).normal(0, 0.3, len(time_s)))


class AlignTest(unittest.TestCase):
    @settings(max_examples=12, deadline=None)
    @given(st.floats(0.0, 70.0))
    def test_the_load_s_edge_tells_the_offset(self, shift_s: float) -> None:
        found = offset_between(simple_run(load_s=400), meter(shift_s))
        assert found is not None
        self.assertAlmostEqual(found, shift_s, delta=3.0)

    def test_joined_the_run_keeps_its_samples_and_gains_the_other_s(self) -> None:
        run, other = simple_run(load_s=400), meter(40.0)
        both = joined(run, other, 40.0)
        self.assertEqual(both.channels[: len(run.channels)], run.channels)
        np.testing.assert_array_equal(both.values[: len(run.channels)], run.values)
        wall = both.values[-1]
        self.assertTrue(np.isnan(wall[:38]).all(), "the meter was not on yet: nothing is made up")
        np.testing.assert_allclose(wall[200:400], 1.2 * run.values[2][200:400] + 30.0, atol=2.0)

    def test_a_channel_of_the_same_name_is_told_apart(self) -> None:
        run = simple_run(load_s=60)
        both = joined(run, Recording((DIE,), run.time_s, run.values[:1]), 0.0)
        self.assertEqual(both.channels[-1].name, "CPU die (2)")

    def test_without_an_edge_there_is_no_offset(self) -> None:
        flat = Recording((WALL,), np.arange(100.0), np.full((1, 100), 40.0))
        self.assertIsNone(load_edge(flat))
        self.assertIsNone(offset_between(simple_run(load_s=60), flat))


if __name__ == "__main__":
    unittest.main()
