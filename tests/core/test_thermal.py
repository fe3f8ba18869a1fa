"""The thermal model on networks whose resistances and time constants are known."""

from __future__ import annotations

import unittest

import numpy as np

from samovar.core.thermal import FosterNetwork, fit_forecast, main_time_constants
from tests.recordings import stepped


def load(
    n: int, stages: list[tuple[float, float]], noise: float, seed: int = 1
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A load of 100 W from 10 W, after idle at 30 °C."""
    power = np.full(n, 100.0)
    power[0] = 10.0
    die = stepped(power, stages, 30.0, 10.0) + np.random.default_rng(seed).normal(0, noise, n)
    return np.arange(n, dtype=float), np.round(die * 8) / 8, power


class ForecastTest(unittest.TestCase):
    STAGES = ((0.15, 5.0), (0.40, 120.0))
    TRUE_C = 30.0 + 90.0 * 0.55

    def test_a_settled_run_gives_the_resistance(self) -> None:
        found = fit_forecast(*load(1500, list(self.STAGES), 0.1), 30.0, 10.0)
        assert found is not None
        self.assertAlmostEqual(sum(found.network.resistance_k_per_w), 0.55, delta=0.006)
        self.assertAlmostEqual(found.steady_c, self.TRUE_C, delta=0.3)
        self.assertTrue(any(80 < tau < 180 for tau in main_time_constants(found.network)))

    def test_an_early_forecast_is_wide_and_covers_the_truth(self) -> None:
        inside, widths = 0, []
        for seed in range(60):
            t, die, power = load(160, list(self.STAGES), 0.15, seed)
            found = fit_forecast(t, die, power, 30.0, 10.0)
            assert found is not None
            inside += abs(found.steady_c - self.TRUE_C) <= found.half_width
            widths.append(found.half_width)
        self.assertGreaterEqual(inside, 54)
        self.assertLess(float(np.median(widths)), 10.0)

    def test_the_interval_narrows_as_data_come(self) -> None:
        widths = []
        for n in (200, 600, 1200):
            found = fit_forecast(*load(n, list(self.STAGES), 0.1), 30.0, 10.0)
            assert found is not None
            widths.append(found.half_width)
        self.assertEqual(widths, sorted(widths, reverse=True))
        self.assertLess(widths[-1], 0.7)

    def test_no_heat_no_forecast(self) -> None:
        t = np.arange(100.0)
        self.assertIsNone(fit_forecast(t, np.full(100, 30.0), np.full(100, 10.0), 30.0, 10.0))
        self.assertIsNone(fit_forecast(t[:5], np.full(5, 30.0), np.full(5, 90.0), 30.0, 10.0))

    def test_the_network_reproduces_its_data(self) -> None:
        t, die, power = load(900, list(self.STAGES), 0.05)
        found = fit_forecast(t, die, power, 30.0, 10.0)
        assert found is not None
        again = found.network.response(t, power)
        self.assertLess(float(np.sqrt(np.mean((again - die)[10:] ** 2))), 0.3)


class ReferenceTest(unittest.TestCase):
    def test_three_decays_that_are_hard_to_tell_apart(self) -> None:
        """NIST StRD Lanczos1 (Lanczos, Applied Analysis, 1956, p. 272): 0.0951 e^-x + 0.8607 e^-3x + 1.5576 e^-5x at 24
        points, here what is still missing of a step's rise; a unit of x is 200 s, and a watt brings 20 times as much."""
        x = np.arange(24) * 0.05
        missing = 0.0951 * np.exp(-x) + 0.8607 * np.exp(-3 * x) + 1.5576 * np.exp(-5 * x)
        settles_at = 30.0 + 20.0 * 2.5134
        found = fit_forecast(200.0 * x, settles_at - 20.0 * missing, np.full(24, 20.0), 30.0, 0.0)
        assert found is not None
        self.assertLess(abs(found.steady_c - settles_at), found.half_width)
        self.assertLess(found.half_width, 0.2 * 20.0 * 2.5134)
        self.assertLess(found.network.residual_k, 0.3)

    def test_one_stage_is_63_per_cent_of_the_way_after_its_time_constant(self) -> None:
        network = FosterNetwork((0.5,), (100.0,), 25.0, 0.0, 0.0)
        time_s = np.arange(0.0, 501.0)
        die = network.response(time_s, np.full(len(time_s), 80.0))
        for constants, share in ((1, 0.632), (2, 0.865), (3, 0.950), (5, 0.993)):
            self.assertAlmostEqual((die[100 * constants] - 25.0) / 40.0, share, delta=0.006)


if __name__ == "__main__":
    unittest.main()
