"""A-weighting and the time weighting F.

Source: IEC 61672-1:2013, annex E: the A-weighting's poles (E.1 to E.4), and its normalisation at 1 kHz; 5.8 for F, whose time
constant is 125 ms. The weighting is put on in the frequency domain by the analogue network's own response, so that it holds up to
half of any rate; a filter mapped to the sampled world bends near it, and reads white noise 0.9 dB low at 48 kHz.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, next_fast_len, rfft
from scipy.signal import lfilter

from samovar.core.recording import Array
from samovar.core.sound.a_curve import F1_HZ, F2_HZ, F3_HZ, F4_HZ

FAST_S, SLOW_S = 0.125, 1.0
SETTLES_S = 0.5
"""What the network still says so long after its input ended is nothing: so much room keeps the end off the beginning."""


def a_response(hz: Array) -> NDArray[np.complex128]:
    """The A-weighting's complex response, shape (n,), 1 in size at 1 kHz."""
    plain = _network(np.asarray(hz, float))
    return np.asarray(plain / abs(_network(np.array([1000.0]))[0]))


def a_weighting_db(hz: Array) -> Array:
    """The A-weighting, dB, shape (n,); minus infinity at 0 Hz."""
    with np.errstate(divide="ignore"):
        return np.asarray(20.0 * np.log10(np.abs(a_response(hz))))


def _network(hz: Array) -> NDArray[np.complex128]:
    s = 2j * np.pi * hz
    w1, w2, w3, w4 = (2.0 * np.pi * f for f in (F1_HZ, F2_HZ, F3_HZ, F4_HZ))
    return np.asarray(s**4 / ((s + w1) ** 2 * (s + w2) * (s + w3) * (s + w4) ** 2))


def a_weighted(x: Array, rate_hz: float) -> Array:
    """A signal A-weighted, shape (n,), at its own rate."""
    size = next_fast_len(len(x) + round(SETTLES_S * rate_hz), real=True)
    spectrum = rfft(x, size)
    spectrum *= a_response(np.arange(len(spectrum)) * (rate_hz / size))
    return np.asarray(irfft(spectrum, size)[: len(x)])


def time_weighted(squares: Array, rate_hz: float, constant_s: float = FAST_S) -> Array:
    """Squares of a signal with exponential time weighting, at every sample, from silence on; shape (n,)."""
    keep = float(np.exp(-1.0 / (constant_s * rate_hz)))
    return np.asarray(lfilter([1.0 - keep], [1.0, -keep], squares))
