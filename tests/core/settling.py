"""Dies that settle, made by formula: sums of exponentials, drifting noise, swings of fans, pulses, and sensors of any
step; each with the temperature it would settle at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.signal import lfilter


@dataclass(frozen=True)
class Settling:
    """A load of a die. `time_s`, `die_c` of shape (n,); `steady_c` is its mean once all is settled."""

    time_s: np.ndarray
    die_c: np.ndarray
    steady_c: float
    step_k: float
    kind: str


def settling(seed: int) -> Settling:
    """One load of ten to forty minutes, at one to ten samples in five seconds."""
    rng = np.random.default_rng(seed)
    length_s, interval_s = (
        float(rng.choice([600, 900, 1200, 1800, 2400])),
        float(rng.choice([0.5, 1, 1, 2, 5])),
    )
    t = np.arange(0.0, length_s, interval_s)
    steady = float(rng.uniform(45, 95))
    rise = steady - float(rng.uniform(28, 40))
    quick, slow = float(rng.uniform(2, 15)), float(rng.uniform(30, 0.22 * length_s))
    part = float(rng.uniform(0.3, 0.7))
    die = steady - rise * (part * np.exp(-t / quick) + (1 - part) * np.exp(-t / slow))
    phi = float(np.exp(-interval_s / rng.uniform(0.5, 12.0)))
    size = float(rng.uniform(0.05, 0.5))
    die += lfilter([size * np.sqrt(1 - phi**2)], [1.0, -phi], rng.normal(0, 1, len(t) + 500))[500:]
    kind = str(rng.choice(["plain", "plain", "plain", "hunting", "pulsed"]))
    if kind == "hunting":
        die += rng.uniform(0.3, 2.0) * np.sin(2 * np.pi * t / rng.uniform(18, 70) + rng.uniform(0, 6))
    elif kind == "pulsed":
        period, duty = float(rng.uniform(8, 60)), float(rng.uniform(0.3, 0.7))
        on = ((t + rng.uniform(0, period)) % period < duty * period) - duty
        die += lfilter(
            [1 - np.exp(-interval_s / quick)], [1.0, -np.exp(-interval_s / quick)], rng.uniform(2, 12) * on
        )
    step = float(rng.choice([0.05, 0.125, 0.25, 0.5, 1.0]))
    return Settling(t, np.round(die / step) * step, steady, step, kind)
