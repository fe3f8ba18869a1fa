"""Uncertainty of a mean of correlated samples.

Sources: JCGM 100:2008 (the GUM), 4.2 (type A), 4.3 (type B), F.2.2.1 (resolution); A. Sokal, "Monte Carlo Methods in
Statistical Mechanics" (1997), section 3, for the integrated autocorrelation time with its self-consistent window.
"""

from __future__ import annotations

import math

import numpy as np

from samovar.core.measured import COVERAGE_FACTOR, Measured, combine
from samovar.core.recording import Array

LONGEST_SERIES = 20_000
"""Longer ones are averaged in blocks before their autocorrelation is asked for."""


def autocorrelation(x: Array) -> Array:
    """Normalised autocorrelation of x about its mean, lags 0 to n-1, shape (n,), by the FFT."""
    n = len(x)
    centred = x - x.mean()
    size = 1 << (2 * n - 1).bit_length()
    spectrum = np.fft.rfft(centred, size)
    raw = np.fft.irfft(spectrum * np.conj(spectrum), size)[:n]
    if raw[0] <= 0:
        return np.concatenate([[1.0], np.zeros(n - 1)])
    result: Array = raw / raw[0]
    return result


def correlation_time(x: Array) -> float:
    """Integrated autocorrelation time of x, in samples, at least 1 (Sokal's window, c = 5).

    A hunting fan's negative lobes count: the mean over whole swings is better known than white noise
    of that spread would allow, but this never claims less than one sample. Long series are averaged in blocks first
    (batch means): the variance of the whole mean is what counts, and blocks keep it.
    """
    if len(x) < 4 or float(np.ptp(x)) == 0.0:
        return 1.0
    width = len(x) // LONGEST_SERIES
    if width > 1:
        blocks = x[: len(x) // width * width].reshape(-1, width).mean(axis=1)
        return max(1.0, correlation_time(blocks) * width * float(blocks.var()) / float(x.var()))
    rho = autocorrelation(x)
    tau = 2.0 * np.cumsum(rho) - 1.0
    window = np.flatnonzero(np.arange(len(x)) >= 5.0 * tau)
    last = int(window[0]) if len(window) else len(x) // 2
    return float(max(1.0, tau[last]))


def corrected_time(x: Array) -> float:
    """`correlation_time` for a short series: that of a series' own residuals is too small, the more so the fewer of them
    there are. Never less than that of a first-order process with the lag-one correlation corrected for its bias,
    (1 + 4 rho) / n (F. Marriott and J. Pope, Biometrika 41 (1954) 390)."""
    n = len(x)
    plain = correlation_time(x)
    if n < 8 or n > LONGEST_SERIES or float(np.ptp(x)) == 0.0:
        return plain
    rho = float(autocorrelation(x)[1])
    rho = min(rho + (1.0 + 4.0 * rho) / n, 1.0 - 4.0 / n)
    return min(max(plain, (1.0 + rho) / (1.0 - rho)), n / 3.0)


def student(degrees: float) -> float:
    """What a standard uncertainty of so many effective degrees of freedom is to be widened by, so that twice it covers
    95 % (GUM, G.3.2 and table G.2: Student's quantile over that of the normal distribution)."""
    from scipy.special import stdtrit

    return float(stdtrit(max(degrees, 1.0), 0.975)) / 1.96


LEAST_PERIODS = 4
"""Fewer swings tell too little of how alike they are."""
DITHER_BLOCK = 24
"""Within so many samples noise shows, and hardly any drift."""


def undithered(x: Array, resolution: float | None = None) -> float:
    """The standard uncertainty that a sensor's step leaves in a mean, in the unit of x: its own noise spreads the values
    over the steps, and what is left of the step is the greater the less of that there is.

    Method: the error of a mean under Gaussian dither is a sine of the level whose amplitude is
    step/pi · exp(-2 (pi sigma/step)²), no more than the step's rectangle (B. Widrow and I. Kollár, "Quantization Noise"
    (2008), 4.3; GUM F.2.2.1).
    """
    step = resolution_of(x) if resolution is None else resolution
    if step <= 0.0:
        return 0.0
    known = x[np.isfinite(x)]
    blocks = known[: len(known) // DITHER_BLOCK * DITHER_BLOCK].reshape(-1, DITHER_BLOCK)
    # Noise that only tips it over one edge now and then does not spread it: three levels and more do.
    spread = np.ptp(blocks, axis=1) > 1.5 * step
    if len(blocks) == 0 or float(spread.mean()) < 0.5:
        return step / math.sqrt(12.0)
    sigma2 = max(0.0, float(np.mean(np.diff(known) ** 2)) / 2.0 - step * step / 12.0)
    amplitude = step / (math.pi * math.sqrt(2.0)) * math.exp(-2.0 * math.pi**2 * sigma2 / step**2)
    return min(step / math.sqrt(12.0), amplitude)


def resolution_of(x: Array) -> float:
    """The step in which a sensor counts: the smallest difference between the values it gave; 0 unknown."""
    levels = np.unique(x[np.isfinite(x)])
    if len(levels) < 2:
        return 0.0
    steps = np.diff(levels)
    steps = steps[steps > 1e-6 * max(1.0, float(np.abs(levels).max()))]
    return float(steps.min()) if len(steps) else 0.0


def mean_of(x: Array, resolution: float | None = None, period: int = 1) -> Measured:
    """Mean of correlated samples with its half-width: type A with the effective number of samples,
    joined with the sensor's resolution as a rectangular distribution (GUM F.2.2.1).

    Args:
        x: shape (n,), NaN where missing.
        resolution: the sensor's step in x's unit; inferred where None.

    Raises:
        ValueError: no finite value in x.
    """
    x = x[np.isfinite(x)]
    if len(x) == 0:
        raise ValueError("no values to average")
    step = resolution_of(x) if resolution is None else resolution
    if len(x) < 2:
        return Measured(float(x[0]), COVERAGE_FACTOR * step / math.sqrt(12.0) or None)
    rows = x
    if period > 1 and len(x) >= LEAST_PERIODS * period:
        # Over whole swings their own deviation is no uncertainty: each counts once.
        count = len(x) // period
        rows = x[-count * period :].reshape(count, period).mean(axis=1)
    independent = max(1.0, len(rows) / corrected_time(rows))
    type_a = float(rows.std(ddof=1)) / math.sqrt(independent) * student(independent - 1.0)
    return Measured(float(x.mean()), COVERAGE_FACTOR * combine(type_a, undithered(x, step)))
