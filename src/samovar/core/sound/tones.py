"""Tones that stand out, by the tone-to-noise ratio of ECMA-418-1, and a fan's speed by its blades.

Source: ECMA-418-1 (1st ed., 2020), clause 11: critical bands (formulas 2 to 6), the ratio with the tone's own band taken out
(11.3 to 11.5), tones near each other in one critical band (11.6), and the criterion of prominence (11.7).
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import median_filter

from samovar.core.recording import Array
from samovar.core.sound.bands import Spectrum

LOWEST_HZ, HIGHEST_HZ = 89.1, 11_220.0
"""The range of the standard."""
RATIO_DB, BELOW_1K_DB = 8.0, 8.33
TOLD_DB = 0.0
"""A tone whose ratio is less is no tone that anyone would name."""
TONE_SHARE = 0.15
"""A tone takes at most this share of its critical band."""
OVER_NOISE = 4.0
"""A line so many times the noise around it may be a tone's: 6 dB."""
PEAK_OVER_NOISE = 6.3
"""What is to be a tone reaches so many times the noise: 8 dB, more than the averaged lines of noise do."""
FAINTEST = 1e-9
"""Noise that is 90 dB under all of a sound is as good as none."""
BY_CHANCE = 2e-6
"""How likely a bin of noise may be taken for a line: less than one in a whole spectrum."""
LEAST_BINS = 5
MOST_TOLD = 12


@dataclass(frozen=True, slots=True)
class Tone:
    """One tone: its frequency, Hz, its ratio to the noise in its critical band, dB, and whether it is prominent."""

    hz: float
    ratio_db: float
    prominent: bool


def critical_band_hz(hz: float) -> float:
    """The width of the critical band around a frequency, Hz."""
    return float(25.0 + 75.0 * (1.0 + 1.4 * (hz / 1000.0) ** 2) ** 0.69)


def critical_edges_hz(hz: float) -> tuple[float, float]:
    """Its edges: around the tone up to 500 Hz, so that the tone is their geometric mean above."""
    width = critical_band_hz(hz)
    if hz <= 500.0:
        return hz - 0.5 * width, hz + 0.5 * width
    low = -0.5 * width + 0.5 * math.sqrt(width * width + 4.0 * hz * hz)
    return low, low + width


def criterion_db(hz: float) -> float:
    """From this ratio on a tone is prominent, dB."""
    return RATIO_DB if hz >= 1000.0 else RATIO_DB + BELOW_1K_DB * math.log10(1000.0 / hz)


def near_hz(hz: float) -> float:
    """Tones nearer to each other than this are heard as one, Hz."""
    return float(21.0 * 10.0 ** (1.2 * abs(math.log10(hz / 212.0)) ** 1.8))


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the spectrum: its frequency, the bins from and to (excluded) that are its own, its power over the noise
    beneath."""

    hz: float
    first: int
    last: int
    power: float


def noise_floor(spectrum: Spectrum) -> Array:
    """The noise under every bin, shape (m,): the running median over about half a critical band."""
    if "floor" not in spectrum.found:
        spectrum.found["floor"] = _noise_floor(spectrum)
    return np.asarray(spectrum.found["floor"])


def _noise_floor(spectrum: Spectrum) -> Array:
    step = spectrum.step_hz
    floor = np.empty(len(spectrum.power))
    # In octaves, since critical bands widen: within one the median's width is the same.
    edges = [0.0, *(125.0 * 2.0**k for k in range(8)), math.inf]
    for low, high in itertools.pairwise(edges):
        first, last = np.searchsorted(spectrum.hz, (low, high))
        if last <= first:
            continue
        middle = min(max(low, 125.0) * 1.4, 16_000.0)
        width = max(2 * LEAST_BINS + 1, round(0.6 * critical_band_hz(middle) / step) | 1)
        a, b = max(0, first - width), min(len(floor), last + width)
        floor[first:last] = median_filter(spectrum.power[a:b], width, mode="nearest")[first - a : last - a]
    # Where a file holds nothing but a tone, what its steps leave is no noise that anyone hears it by.
    return np.maximum(floor, FAINTEST * float(spectrum.power.sum()) * step / HIGHEST_HZ)


def chance_over_median(averaged: float) -> float:
    """So many times its median a bin of noise is passed by once in half a million, in the mean of so many windows: each is
    exponential, their mean a gamma distribution."""
    from scipy.special import gammaincinv

    return float(gammaincinv(averaged, 1.0 - BY_CHANCE) / gammaincinv(averaged, 0.5))


def lines_of(spectrum: Spectrum) -> list[Line]:
    """The lines that stand out of the noise, by frequency."""
    if "lines" not in spectrum.found:
        spectrum.found["lines"] = _lines_of(spectrum)
    return list(spectrum.found["lines"])


def _lines_of(spectrum: Spectrum) -> list[Line]:
    power, floor, step = spectrum.power, noise_floor(spectrum), spectrum.step_hz
    over = max(PEAK_OVER_NOISE, chance_over_median(spectrum.averaged))
    if len(power) < 2 * LEAST_BINS:
        return []
    inner = power[1:-1]
    # The median of noise is 1.6 dB under its mean where few lines are averaged: the thresholds have room for that.
    tops = 1 + np.flatnonzero((inner >= power[:-2]) & (inner > power[2:]) & (inner > over * floor[1:-1]))
    taken = np.zeros(len(power), bool)
    found: list[Line] = []
    for top in tops[np.argsort(power[tops])[::-1]]:
        hz = float(spectrum.hz[top])
        if taken[top] or hz <= 0.0:
            continue
        reach = max(LEAST_BINS // 2, round(0.5 * TONE_SHARE * critical_band_hz(hz) / step))
        first = last = int(top)
        while first - 1 > 0 and top - first < reach and power[first - 1] > OVER_NOISE * floor[first - 1]:
            first -= 1
        while last + 1 < len(power) and last - top < reach and power[last + 1] > OVER_NOISE * floor[last + 1]:
            last += 1
        first, last = max(1, min(first, top - 1)), min(len(power), max(last, top + 1) + 1)
        taken[first:last] = True
        own = power[first:last]
        tone = float((own - floor[first:last]).clip(0.0).sum())
        weights = (own - floor[first:last]).clip(0.0)
        middle = float((spectrum.hz[first:last] * weights).sum() / weights.sum()) if weights.sum() > 0 else hz
        found.append(Line(middle, first, last, tone))
    return sorted(found, key=lambda line: line.hz)


def tones_of(spectrum: Spectrum) -> list[Tone]:
    """The tones with their ratios, the most prominent first."""
    lines = [line for line in lines_of(spectrum) if line.power > 0.0]
    faintest = FAINTEST * float(spectrum.power.sum()) * spectrum.step_hz / HIGHEST_HZ
    step = spectrum.step_hz
    found: list[Tone] = []
    joined: set[int] = set()
    for k in sorted(range(len(lines)), key=lambda k: -lines[k].power):
        line = lines[k]
        if k in joined or not LOWEST_HZ <= line.hz <= HIGHEST_HZ:
            continue
        low, high = critical_edges_hz(line.hz)
        first, last = np.searchsorted(spectrum.hz, (low, high))
        if last >= len(spectrum.hz):
            continue
        own, tone, taken = np.zeros(len(spectrum.power), bool), 0.0, 0
        for other, one in enumerate(lines):
            if not low <= one.hz <= high:
                continue
            own[one.first : one.last] = True
            if one is line or abs(one.hz - line.hz) < near_hz(line.hz):
                # Heard as one: they count together, under the strongest's name.
                tone += one.power
                joined.add(other)
        inside = np.zeros(len(own), bool)
        inside[first:last] = True
        noise_bins = inside & ~own
        taken = int(noise_bins.sum())
        if taken < LEAST_BINS:
            continue
        beneath = float(np.maximum(spectrum.power[noise_bins], faintest).sum())
        noise = beneath * (high - low) / (taken * step)
        if noise <= 0.0:
            continue
        ratio = 10.0 * math.log10(tone / noise)
        if ratio >= TOLD_DB:
            found.append(Tone(line.hz, ratio, ratio >= criterion_db(line.hz)))
    return sorted(found, key=lambda t: criterion_db(t.hz) - t.ratio_db)[:MOST_TOLD]
