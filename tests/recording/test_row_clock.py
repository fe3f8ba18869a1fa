"""Where rows that come into sight in handfuls are put on the run's clock."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from samovar.recording.row_clock import RowClock


class RowClockTest(unittest.TestCase):
    @given(
        st.floats(-1e6, 1e9),
        st.lists(st.tuples(st.integers(1, 20), st.floats(0.0, 30.0)), min_size=1, max_size=20),
    )
    def test_rows_kept_back_are_put_as_if_the_quickest_had_come_at_once(
        self, apart_s: float, handfuls: list[tuple[int, float]]
    ) -> None:
        clock, taken, least_s, seen_s = RowClock(), 0.0, np.inf, -np.inf
        for count, kept_back_s in handfuls:
            times = taken + np.arange(1, count + 1)
            taken = float(times[-1])
            # What is seen later cannot have been seen sooner.
            seen_s = max(seen_s, taken + kept_back_s)
            least_s = min(least_s, seen_s - taken)
            found = clock.moments(times + apart_s, seen_s)
            np.testing.assert_allclose(found, times + least_s, atol=1e-3)
            self.assertLessEqual(found[-1], seen_s + 1e-3)

    def test_a_log_whose_clock_was_set_is_aligned_anew(self) -> None:
        clock = RowClock()
        clock.moments(np.array([5000.0, 5001.0]), 10.0)
        np.testing.assert_allclose(clock.moments(np.array([1.0, 2.0]), 12.0), [11.0, 12.0])
        np.testing.assert_allclose(clock.moments(np.array([3.0]), 400.0), [400.0])

    def test_rows_without_a_time_are_spread_over_the_time_since_the_last(self) -> None:
        clock = RowClock()
        clock.spread(1, 10.0)
        np.testing.assert_allclose(clock.spread(4, 14.0), [11.0, 12.0, 13.0, 14.0])


if __name__ == "__main__":
    unittest.main()
