"""Uncertainty: the GUM's rules and examples, correlated samples, and digits."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import lfilter

from samovar.core.measured import Measured, combine, rounded
from samovar.core.uncertainty import autocorrelation, correlation_time, mean_of, resolution_of


class GumTest(unittest.TestCase):
    def test_gauge_block_of_annex_h1(self) -> None:
        # JCGM 100:2008, H.1.4 (table H.1): contributions 25, 9.7, 2.9 and 16.6 nm give 32 nm.
        self.assertAlmostEqual(combine(25.0, 9.7, 2.9, 16.6), 32.0, delta=0.5)

    def test_a_row_that_swings_from_sample_to_sample(self) -> None:
        """NIST StRD NumAcc2: 1.2, then 1.1 and 1.3 five hundred times: mean 1.2, deviation 0.1, autocorrelation -0.999."""
        x = np.array([1.2, *([1.1, 1.3] * 500)])
        self.assertAlmostEqual(float(x.mean()), 1.2, places=12)
        self.assertAlmostEqual(float(x.std(ddof=1)), 0.1, places=12)
        self.assertAlmostEqual(float(autocorrelation(x)[1]), -0.999, places=9)
        self.assertEqual(correlation_time(x), 1.0)

    def test_resolution_is_a_rectangle(self) -> None:
        # F.2.2.1: an indicator's step of dx contributes 0.29 dx.
        quantised = np.array([40.0, 40.0, 40.0, 40.0])
        mean = mean_of(quantised, resolution=1.0)
        self.assertAlmostEqual((mean.half_width or 0) / 2.0, 0.29, places=2)

    def test_white_noise_gives_the_textbook_mean(self) -> None:
        x = np.random.default_rng(3).normal(50.0, 2.0, 10_000)
        mean = mean_of(x, resolution=0.0)
        self.assertAlmostEqual((mean.half_width or 0), 2.0 * 2.0 / 100.0, delta=0.006)

    def test_correlated_noise_covers_the_truth_as_often_as_it_says(self) -> None:
        # An AR(1) series of phi 0.9 has an autocorrelation time of (1 + phi) / (1 - phi) = 19 samples.
        rng = np.random.default_rng(5)
        inside, times = 0, []
        for _ in range(300):
            x = np.empty(2000)
            x[0] = rng.normal(0.0, 1.0 / np.sqrt(1 - 0.81))
            steps = rng.normal(0.0, 1.0, 2000)
            for k in range(1, 2000):
                x[k] = 0.9 * x[k - 1] + steps[k]
            times.append(correlation_time(x))
            mean = mean_of(x, resolution=0.0)
            inside += abs(mean.value) <= (mean.half_width or 0.0)
        self.assertAlmostEqual(float(np.mean(times)), 19.0, delta=2.5)
        self.assertGreater(inside / 300, 0.90)

    def test_a_long_series_is_judged_by_its_blocks_as_by_its_samples(self) -> None:
        rng = np.random.default_rng(7)
        for phi, expected in ((0.0, 1.0), (0.9, 19.0), (0.99, 199.0)):
            x = lfilter([1.0], [1.0, -phi], rng.normal(0.0, 1.0, 400_000))
            with self.subTest(phi=phi):
                self.assertAlmostEqual(correlation_time(x) / expected, 1.0, delta=0.15)

    def test_the_sensor_step_is_found(self) -> None:
        self.assertEqual(resolution_of(np.array([40.0, 40.125, 41.5, np.nan])), 0.125)
        self.assertEqual(resolution_of(np.array([7.0, 7.0])), 0.0)

    def test_nothing_to_average_is_said(self) -> None:
        with self.assertRaises(ValueError):
            mean_of(np.array([np.nan]))


class DigitsTest(unittest.TestCase):
    def test_no_more_digits_than_the_width_allows(self) -> None:
        self.assertEqual(Measured(78.4321, 0.234).text("°C"), "78.4 ±0.2 °C")
        self.assertEqual(Measured(0.5883, 0.0041).text("K/W"), "0.588 ±0.004 K/W")
        self.assertEqual(Measured(3154.4, 71.6).text("MHz"), "3154 ±72 MHz")
        self.assertEqual(Measured(23.61, 1.4).text("dBA"), "23.6 ±1.4 dBA")

    def test_no_sensor_is_finer_than_it_is(self) -> None:
        self.assertEqual(Measured(94.99998, 0.00004).text("W", finest=1), "95.0 ±0.1 W")

    def test_minus_zero_is_zero_and_minus_is_a_minus(self) -> None:
        self.assertEqual(rounded(-0.02, 0.3, signed=True), "0.0")
        self.assertEqual(rounded(-12.34, 0.3, signed=True), "−12.3")

    @given(st.floats(-1e5, 1e5), st.floats(1e-4, 1e4))
    def test_rounding_moves_a_value_by_less_than_its_width(self, value: float, width: float) -> None:
        shown = float(rounded(value, width).replace("−", "-"))
        self.assertLessEqual(abs(shown - value), 0.51 * max(width, 1e-6) + 0.5)


if __name__ == "__main__":
    unittest.main()
