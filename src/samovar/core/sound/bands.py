"""The power spectrum of a recording, and its third octaves.

Sources: P. D. Welch, IEEE Trans. Audio Electroacoust. 15 (1967) 70; IEC 61260-1:2014, base ten (5.2), its mid-band frequencies
(5.4), band edges (5.6), and the limits of class 1 (table 1), which these bands keep.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np
from scipy.fft import next_fast_len, rfft
from scipy.signal.windows import hann

from samovar.core.recording import Array

OCTAVE = 10.0**0.3
"""The octave's ratio in base ten."""
NOMINAL_HZ = (
    25.0, 31.5, 40.0, 50.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0, 250.0, 315.0, 400.0, 500.0, 630.0, 800.0, 1000.0, 1250.0,
    1600.0, 2000.0, 2500.0, 3150.0, 4000.0, 5000.0, 6300.0, 8000.0, 10000.0, 12500.0, 16000.0, 20000.0,
)  # fmt: skip
FIRST_BAND = -16
"""The number of the band of 25 Hz, counted from that of 1 kHz."""
ORDER = 6
"""A Butterworth band of this order passes white noise within 0.05 dB of its nominal width, and is well inside class 1."""
INDEPENDENT = 0.95
"""Hann windows that overlap by half tell nearly as much as if they did not (P. D. Welch, as above)."""
REACH = 4.0
"""Further from its middle than this ratio a band passes nothing that counts."""


@dataclass(frozen=True)
class Spectrum:
    """Power at each frequency: hz, shape (m,), and the mean square in each bin, shape (m,); their sum is the signal's.
    `averaged` is how many independent windows it is the mean of, `found` keeps what was worked out of it, which several ask for."""

    hz: Array
    power: Array
    averaged: float = 1.0
    found: dict[str, Any] = field(default_factory=dict, repr=False, compare=False)

    @property
    def step_hz(self) -> float:
        """From one bin to the next."""
        return float(self.hz[1]) if len(self.hz) > 1 else 0.0


def spectrum_of(channels: Sequence[Array], rate_hz: float, segment_s: float) -> Spectrum:
    """The mean power spectrum of several channels, by Hann windows of about so many seconds that overlap by half.

    Args:
        channels: each of shape (n,).
        rate_hz: their rate.
        segment_s: the length of a window; that of the recording where it is shorter.
    """
    size = min(next_fast_len(round(segment_s * rate_hz), real=True), len(channels[0]))
    window = hann(size, sym=False)
    starts = range(0, max(1, len(channels[0]) - size + 1), max(1, size // 2))
    power = np.zeros(size // 2 + 1)
    squares = 0.0
    for x in channels:
        squares += float(x @ x) / len(x)
        for start in starts:
            part = rfft(x[start : start + size] * window)
            power += part.real**2 + part.imag**2
    power[1 : len(power) - (size % 2 == 0)] *= 2.0
    total = float(power.sum())
    # Windows weigh the ends of a recording less: the sum is that of all of it, whatever it does there.
    scale = squares / len(channels) / total if total > 0.0 else 0.0
    averaged = max(1.0, INDEPENDENT * len(starts))
    return Spectrum(np.arange(size // 2 + 1) * (rate_hz / size), power * scale, averaged)


def exact_hz(number: int) -> float:
    """The exact middle of a third octave, counted from that of 1 kHz."""
    return float(1000.0 * OCTAVE ** (number / 3.0))


@dataclass(frozen=True)
class Band:
    """A third octave as a sum over a spectrum's bins: what it lets pass of the bins from `first` on, shape (k,)."""

    nominal_hz: float
    first: int
    passed: Array

    def of(self, power: Array) -> float:
        """The mean square in it of a power spectrum, shape (m,)."""
        return float(self.passed @ power[self.first : self.first + len(self.passed)])


@lru_cache(maxsize=8)
def bands_over(bins: int, step_hz: float, rate_hz: float) -> list[Band]:
    """Every third octave from 25 Hz to 20 kHz that lies whole below half the rate, over so many bins from 0 Hz on."""
    spectrum_hz = np.arange(bins) * step_hz
    found = []
    edge = OCTAVE ** (1.0 / 6.0)
    quality = 1.0 / (edge - 1.0 / edge)
    for k, nominal in enumerate(NOMINAL_HZ):
        middle = exact_hz(FIRST_BAND + k)
        if middle * edge > 0.5 * rate_hz:
            break
        first, last = np.searchsorted(spectrum_hz, (middle / REACH, middle * REACH))
        first = max(int(first), 1)
        hz = spectrum_hz[first:last]
        passed = 1.0 / (1.0 + (quality * (hz / middle - middle / hz)) ** (2 * ORDER))
        found.append(Band(nominal, first, passed))
    return found


def third_octaves(spectrum: Spectrum, rate_hz: float) -> list[tuple[float, float]]:
    """The mean square in every third octave of `bands_over`, by nominal frequency."""
    key = f"third octaves at {rate_hz:g}"
    if key not in spectrum.found:
        bands = bands_over(len(spectrum.hz), spectrum.step_hz, rate_hz)
        spectrum.found[key] = [(band.nominal_hz, band.of(spectrum.power)) for band in bands]
    found: list[tuple[float, float]] = spectrum.found[key]
    return found
