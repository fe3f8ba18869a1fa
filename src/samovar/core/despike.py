"""Sensor spikes: a single sample far off both its neighbours, set aside before peaks and limits are read."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from samovar.core.recording import Array


def spikes(x: Array, least: float) -> NDArray[np.bool_]:
    """Which samples stand alone: off the median of five by more than `least` and by more than six
    robust standard deviations of such differences (Hampel's identifier). Shape (n,)."""
    n = len(x)
    out = np.zeros(n, dtype=bool)
    if n < 5:
        return out
    filled = np.where(np.isfinite(x), x, np.nan)
    window = np.lib.stride_tricks.sliding_window_view(np.pad(filled, 2, mode="edge"), 5)
    if np.isnan(filled).any():
        unknown = np.isnan(window).all(axis=1)
        middle = np.where(unknown, np.nan, np.nanmedian(np.where(unknown[:, None], 0.0, window), axis=1))
    else:
        middle = np.median(window, axis=1)
    off = np.abs(filled - middle)
    finite = off[np.isfinite(off)]
    if len(finite) == 0:
        return out
    robust = 1.4826 * float(np.median(finite))
    with np.errstate(invalid="ignore"):
        out = off > max(least, 6.0 * robust)
        # A step up that stays is no spike: the sample must come back within two samples.
        before, after = np.roll(filled, 1), np.roll(filled, -1)
        lone = (np.abs(filled - before) > least) | (np.abs(filled - after) > least)
    return np.asarray(out & lone)


def despiked(x: Array, least: float) -> Array:
    """x with its spikes made missing."""
    return np.asarray(np.where(spikes(x, least), np.nan, x))
