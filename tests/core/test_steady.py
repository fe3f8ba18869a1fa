"""The steady window on curves whose answer is known."""

from __future__ import annotations

import unittest

import numpy as np

from samovar.core.steady import drift_of, find_steady, swing_period


def curve(tau_s: float, n: int, noise: float = 0.15, seed: int = 1) -> tuple[np.ndarray, np.ndarray]:
    """An RC step of 50 K, quantised like a sensor."""
    t = np.arange(n, dtype=float)
    x = 30.0 + 50.0 * (1.0 - np.exp(-t / tau_s)) + np.random.default_rng(seed).normal(0.0, noise, n)
    return t, np.round(x * 8) / 8


class SteadyTest(unittest.TestCase):
    def test_a_settled_step_is_steady_where_its_drift_is_small(self) -> None:
        t, x = curve(90.0, 1500)
        window = find_steady(t, x)
        self.assertIsNotNone(window.span)
        start, end = window.span or (0.0, 0.0)
        self.assertEqual(end, 1499.0)
        # The textbook step drifts 0.05 K/min at t = tau ln(50 · 60 / (0.05 · tau)) = 585 s.
        self.assertGreater(start, 380.0)
        self.assertLess(start, 900.0)
        self.assertAlmostEqual(float(x[int(start) :].mean()), 80.0, delta=0.1)

    def test_a_step_stopped_early_never_settled(self) -> None:
        t, x = curve(300.0, 600)
        window = find_steady(t, x)
        self.assertIsNone(window.span)
        self.assertIn("still drifting", window.reason or "")

    def test_a_limit_cycle_is_steady_around_its_mean(self) -> None:
        t, x = curve(60.0, 1500)
        x = x + 3.0 * np.sin(2 * np.pi * t / 47.0)
        self.assertAlmostEqual(swing_period(x[600:]) or 0, 47, delta=1)
        window = find_steady(t, x)
        self.assertIsNotNone(window.span)
        start = int((window.span or (0, 0))[0])
        self.assertAlmostEqual(float(x[start:].mean()), 80.0, delta=0.3)

    def test_a_slow_ramp_is_not_steady(self) -> None:
        t = np.arange(1200.0)
        x = 60.0 + t / 60.0 * 0.2 + np.random.default_rng(2).normal(0, 0.1, 1200)
        self.assertIsNone(find_steady(t, x).span)
        self.assertAlmostEqual(drift_of(t, x).per_min, 0.2, delta=0.01)

    def test_what_is_too_uneven_to_tell_is_not_said_to_drift(self) -> None:
        t = np.arange(0.0, 1200.0)
        for seed in range(40):
            x = 70.0 + np.random.default_rng(seed).normal(0.0, 3.0, len(t))
            found = find_steady(t, x)
            self.assertTrue(found.found or "too uneven" in (found.reason or ""), found.reason)

    def test_false_alarms_on_flat_noise_are_rare(self) -> None:
        rng = np.random.default_rng(7)
        t = np.arange(900.0)
        found = sum(find_steady(t, 70.0 + rng.normal(0, 0.3, 900)).found for _ in range(50))
        self.assertGreaterEqual(found, 49)

    def test_too_short_says_so(self) -> None:
        window = find_steady(np.arange(30.0), np.full(30, 50.0))
        self.assertIsNone(window.span)
        self.assertIn("too short", window.reason or "")

    def test_missing_samples_do_not_matter(self) -> None:
        t, x = curve(90.0, 1500)
        x[700:720] = np.nan
        self.assertTrue(find_steady(t, x).found)


if __name__ == "__main__":
    unittest.main()
