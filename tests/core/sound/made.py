"""Sounds whose truth is known, made for tests."""

from __future__ import annotations

import numpy as np

from samovar.core.recording import Array


def noise(seconds: float, rate: int, rms: float = 0.01, seed: int = 1) -> Array:
    """White noise, shape (n,)."""
    return rms * np.random.default_rng(seed).standard_normal(round(seconds * rate))


def sine(seconds: float, rate: int, hz: float, rms: float, phase: float = 0.3) -> Array:
    """A tone, shape (n,)."""
    t = np.arange(round(seconds * rate)) / rate
    return rms * np.sqrt(2.0) * np.sin(2.0 * np.pi * hz * t + phase)


def fan(seconds: float, rate: int, rpm: float, blades: int, seed: int = 1, harmonics: int = 5) -> Array:
    """Broadband noise with the passages of blades, each harmonic weaker, shape (n,)."""
    chance = np.random.default_rng(seed + 100)
    base = blades * rpm / 60.0
    lines = sum(
        sine(seconds, rate, k * base, 0.0012 / k, float(chance.uniform(0, 6)))
        for k in range(1, harmonics + 1)
        if k * base < 0.45 * rate
    )
    return noise(seconds, rate, 0.003, seed) + lines
