"""The envelope where columns are finer than samples: joined by straight lines, but not over gaps."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.core.envelope import GAP_STEPS, Envelope
from samovar.core.recording import Array


def alone(time_s: Array, values: Array, edges: Array, longest_s: float) -> tuple[Array, Array]:
    """One channel in columns, written down once more, sample by sample; steps that are longer are not joined."""
    at_edges = np.interp(edges, time_s, values, left=np.nan, right=np.nan)
    for k, edge in enumerate(edges):
        after = int(np.searchsorted(time_s, edge))
        if 0 < after < len(time_s) and time_s[after] - time_s[after - 1] > longest_s:
            at_edges[k] = np.nan
    low, high = np.fmin(at_edges[:-1], at_edges[1:]), np.fmax(at_edges[:-1], at_edges[1:])
    for t, value in zip(time_s, values, strict=True):
        column = int(np.searchsorted(edges, t, "right")) - 1
        if 0 <= column < len(low):
            low[column], high[column] = np.fmin(low[column], value), np.fmax(high[column], value)
    return low, high


class JoinedTest(unittest.TestCase):
    @given(st.integers(2, 60), st.floats(-3.0, 30.0), st.floats(0.5, 40.0), st.integers(0, 2**32 - 1))
    @settings(max_examples=100, deadline=None)
    def test_channels_joined_at_once_are_as_each_is_alone(
        self, width: int, start_s: float, span_s: float, seed: int
    ) -> None:
        chance = np.random.default_rng(seed)
        # Some steps are so long that nothing is joined over them.
        time_s = np.cumsum(np.where(chance.random(40) < 0.1, 5.0, 1.0))
        values = chance.standard_normal((3, 40))
        envelope = Envelope(time_s, values)
        edges = start_s + np.arange(width + 1) * span_s / width
        at_once = envelope._joined(time_s, values, edges, 1)
        for k in range(3):
            one = alone(time_s, values[k], edges, GAP_STEPS * float(np.median(np.diff(time_s))))
            for found, wanted in zip(at_once, one, strict=True):
                np.testing.assert_allclose(found[k], wanted, rtol=1e-9, atol=1e-9)

    def test_a_channel_with_gaps_is_joined_beside_one_without(self) -> None:
        values = np.array([np.arange(20.0), np.where(np.arange(20) < 9, 1.0, np.nan)])
        low, high = Envelope(np.arange(20.0), values).columns([0, 1], 4.0, 14.0, 40)
        np.testing.assert_allclose(low[0], 4.0 + 0.25 * np.arange(40), atol=1e-5)
        np.testing.assert_allclose(high[0] - low[0], 0.25, atol=1e-5)
        np.testing.assert_array_equal(np.isfinite(high[1]), np.arange(40) <= 16)


if __name__ == "__main__":
    unittest.main()
