"""Dies that settle, made by formula: sums of exponentials, drifting noise, swings of fans, pulses, and sensors of any
step; each with the temperature it would settle at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.signal import lfilter

from samovar.core.quantity import Channel
from samovar.core.recording import Recording


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


IDLE_S, CHANGED_S = 120.0, 300.0
"""How long the idle lasts, and how long after the load's beginning the fan is changed."""


def on_its_way(seed: int, changed: bool, look: float) -> tuple[Recording, float]:
    """A load that is cut off so early in its way to a steady value, in shares of the time it takes; where its fan is changed
    the way begins there. With what it would settle at, °C."""
    rng = np.random.default_rng(seed)
    slow, quick = float(rng.uniform(40, 250)), float(rng.uniform(2, 15))
    since = CHANGED_S if changed else 0.0
    t = np.arange(0.0, since + look * 4.5 * slow)
    steady, part = float(rng.uniform(50, 95)), float(rng.uniform(0.3, 0.7))

    def gone(after_s: np.ndarray) -> np.ndarray:
        after_s = np.maximum(after_s, 0.0)
        return 1.0 - part * np.exp(-after_s / quick) - (1.0 - part) * np.exp(-after_s / slow)

    step_k = float(rng.choice([-1, 1])) * float(rng.uniform(3, 15)) if changed else 0.0
    die = 35.0 + (steady - 35.0) * gone(t) + step_k * gone(t - since)
    die += lfilter([0.12], [1.0, -0.8], rng.normal(0, 1, len(t)))
    idle = np.full(int(IDLE_S), 35.0)
    digit = float(rng.choice([0.125, 0.5, 1.0]))
    rows = [
        (Channel("Die", "temperature", "°C", "die", "cpu"), np.round(np.concatenate([idle, die]) / digit) * digit),
        (Channel("Use", "load", "%", "package", "cpu"), np.concatenate([idle * 0 + 1.0, np.full(len(t), 100.0)])),
        (Channel("Package", "power", "W", "package", "cpu"), np.concatenate([idle * 0 + 6.0, 60.0 + rng.normal(0, 0.3, len(t))])),
        (Channel("Fan", "fan", "rpm", "other", "cpu"), np.concatenate([idle * 0 + 1200.0, np.where(t >= since, 1200.0 - 60.0 * step_k, 1200.0)])),
    ]  # fmt: skip
    values = np.array([row for _, row in rows])
    return Recording(
        tuple(c for c, _ in rows), np.arange(values.shape[1], dtype=float), values
    ), steady + step_k
