"""Running means, medians and ranges over series with missing values. All of shape (n,)."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from samovar.core.recording import Array

Mask = NDArray[np.bool_]


def smooth(x: Array, width: int) -> Array:
    """Running median over `width` samples, missing values bridged."""
    from scipy.ndimage import median_filter

    return np.asarray(median_filter(bridged(x), size=max(1, width | 1), mode="nearest"))


def averaged(x: Array, width: int) -> Array:
    """Running mean over `width` samples, missing values bridged."""
    from scipy.ndimage import uniform_filter1d

    return np.asarray(uniform_filter1d(bridged(x), size=max(1, width | 1), mode="nearest"))


def bridged(x: Array) -> Array:
    """x with straight lines over its missing values; zeros where nothing is known."""
    good = np.isfinite(x)
    if good.all():
        return x
    index = np.arange(len(x))
    return np.interp(index, index[good], x[good]) if good.any() else np.zeros(len(x))


def greatest(x: Array, width: int) -> Array:
    """Running maximum over `width` samples."""
    from scipy.ndimage import maximum_filter1d

    return np.asarray(maximum_filter1d(x, size=max(1, width | 1), mode="nearest"))


def least(x: Array, width: int) -> Array:
    """Running minimum over `width` samples."""
    return -greatest(-x, width)


def over(x: Array, reach: int) -> Array:
    """How far x goes from `reach` samples before each to as many behind it; nothing at the ends."""
    out = np.zeros(len(x))
    out[reach:-reach] = x[2 * reach :] - x[: -2 * reach]
    return out


def range_of(x: Array) -> tuple[float, float]:
    """The 5th and the 95th percentile of what is known of x; zeros where nothing is."""
    known = x[np.isfinite(x)]
    return (float(np.percentile(known, 5)), float(np.percentile(known, 95))) if len(known) else (0.0, 0.0)


def returns(x: Array, low: float, high: float) -> int:
    """How often x comes up again from its lower third into its upper third."""
    third = (high - low) / 3.0
    where = np.where(x > high - third, 1, np.where(x < low + third, -1, 0))
    where = where[where != 0]
    return int(np.sum((where[1:] > 0) & (where[:-1] < 0)))


def same(kinds: NDArray[np.object_], a: int, b: int) -> list[tuple[int, int]]:
    """Stretches of one kind each, from a to b."""
    edges = [a, *(np.flatnonzero(kinds[a + 1 : b] != kinds[a : b - 1]) + a + 1).tolist(), b]
    return list(itertools.pairwise(edges))


class Ranges:
    """How far one signal goes within windows: as a share of its usual value where it has a true zero, else in its unit.

    Args:
        x: shape (n,), missing values bridged.
        base: over how many samples it is averaged first.
        relative: whether ranges are shares.
    """

    def __init__(self, x: Array, base: int, relative: bool) -> None:
        scaled = x / max(float(np.median(np.abs(x))), 1e-6) if relative else x
        self._x = averaged(scaled, base)
        # What the running mean takes away is noise; what is left of it after averaging widens every range.
        rough = 1.4826 * float(np.median(np.abs(scaled - self._x)))
        self._noise = rough / float(np.sqrt(base))
        self._spans: dict[int, Array] = {}

    def span(self, width: int) -> Array:
        """Range over a window around each sample, less what noise alone would give: four of its deviations."""
        if width not in self._spans:
            whole = greatest(self._x, width) - least(self._x, width)
            self._spans[width] = np.maximum(0.0, whole - 4.0 * self._noise)
        return self._spans[width]

    def flat(self, width: int, tolerance: float) -> Mask:
        """Whether it stays within a tolerance over the window."""
        return np.asarray(self.span(width) < tolerance)

    def moves(self, width: int, far: float) -> Mask:
        """Whether it goes at least so far over the window, two deviations of its noise apart."""
        return np.asarray(self.span(width) > far + 2.0 * self._noise)

    def drifts(self, width: int, far: float, step: int) -> Mask:
        """Whether it goes by at least so much, up or down, from the window's beginning to its end, its greatest step
        within `step` samples apart: heat that soaks in takes its time, a budget that ends goes at once. A governor that
        gave way too far at first comes back up."""
        gone, at_once = np.abs(self.fall(width)), greatest(np.abs(self.fall(2 * (step // 2))), width)
        return np.asarray(gone - np.where(step < width // 4, at_once, 0.0) > far + 2.0 * self._noise)

    def fall(self, width: int) -> Array:
        """By how much it is lower at the end of the window around each sample than at its beginning."""
        half = max(1, width // 2)
        padded = np.pad(self._x, (half, half), mode="edge")
        return np.asarray(padded[: len(self._x)] - padded[2 * half : 2 * half + len(self._x)])
