"""Sensor spikes: a single sample far off both its neighbours, set aside before peaks and limits are read."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from samovar.core.recording import Array

SPIKE_K = 4.0
"""A temperature that is off both its neighbours by more than this, K, is a sensor's slip: no part on a bench warms and
cools so far within two samples."""


def spikes(x: Array, least: float) -> NDArray[np.bool_]:
    """Which samples stand alone: off the median of five by more than `least` and by more than six
    robust standard deviations of such differences (Hampel's identifier). Shape (n,)."""
    n = len(x)
    out = np.zeros(n, dtype=bool)
    if n < 5:
        return out
    known = np.isfinite(x)
    steps = np.abs(np.diff(x))
    with np.errstate(invalid="ignore"):
        far = steps > least
    # A step up that stays is no spike: the sample must come back within two samples.
    alone = np.zeros(n, dtype=bool)
    alone[1:] |= far
    alone[:-1] |= far
    chosen = np.flatnonzero(alone & known)
    if len(chosen) == 0:
        return out
    window = np.lib.stride_tricks.sliding_window_view(np.pad(np.where(known, x, np.nan), 2, mode="edge"), 5)
    usual = _off(x, window, np.arange(0, n, 1 + n // LOOKED_AT))
    if len(usual):
        off = _off(x, window, chosen, keep=True)
        out[chosen] = off > max(least, 6.0 * 1.4826 * float(np.median(usual)))
    return out


LOOKED_AT = 10_000


def _off(x: Array, window: Array, index: NDArray[np.intp], keep: bool = False) -> Array:
    """How far samples are off the median of five around them, shape of `index`; unknown ones left out, or NaN where
    they are to be kept."""
    part = window[index]
    missing = ~np.isfinite(part)
    if missing.any():
        # The median of what is known; unknown samples count half above and half below.
        low, high = np.where(missing, -np.inf, part), np.where(missing, np.inf, part)
        with np.errstate(invalid="ignore"):
            middle = np.where(
                missing.all(axis=1), np.nan, 0.5 * (np.median(low, axis=1) + np.median(high, axis=1))
            )
        middle = np.where(np.isfinite(middle), middle, np.nan)
    else:
        middle = np.median(part, axis=1)
    off = np.abs(x[index] - middle)
    return np.asarray(off if keep else off[np.isfinite(off)])


def despiked(x: Array, least: float = SPIKE_K) -> Array:
    """x with its spikes made missing; without `least`, as a temperature's."""
    return np.asarray(np.where(spikes(x, least), np.nan, x))


def lone_values(x: Array, quantity: str) -> NDArray[np.bool_]:
    """Which samples of a channel stand alone and are set aside, shape (n,). A temperature cannot jump by kelvins and
    back in one sample; a clock or a power can, as a sawtooth's do, and are set aside only where the value itself is
    none that the part has: near nothing, or a multiple of the usual. Other quantities jump by nature."""
    if quantity == "temperature":
        return spikes(x, SPIKE_K)
    known = x[np.isfinite(x)]
    if quantity not in _IMPOSSIBLE or len(known) == 0:
        return np.zeros(len(x), dtype=bool)
    low, high = _IMPOSSIBLE[quantity]
    usual = max(float(np.median(np.abs(known))), 1e-9)
    with np.errstate(invalid="ignore"):
        none_it_has = (x < low * usual) | (x > high * usual)
    return np.asarray(none_it_has & spikes(x, 0.3 * usual))


_IMPOSSIBLE = {"clock": (0.05, 2.6), "power": (0.02, 4.0), "voltage": (0.1, 2.5)}
"""Below and above which multiple of its usual value a lone sample is none that the part has."""
