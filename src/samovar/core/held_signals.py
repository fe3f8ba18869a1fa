"""The signals of one load that tell what held the clock, cleaned of spikes and smoothed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from samovar.core.despike import despiked
from samovar.core.phases import Phase
from samovar.core.recording import Array, Recording

Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class LoadSignals:
    """The signals of one load, all of shape (n,), smoothed where that is said."""

    time_s: Array
    clock: Array
    die: Array | None
    power: Array | None
    gpu_power: Array | None
    throttled: Array | None
    work: Array | None
    active: Mask
    base_c: float | None


def smooth(x: Array, width: int) -> Array:
    """Running median over `width` samples, missing values bridged."""
    from scipy.ndimage import median_filter

    good = np.isfinite(x)
    if not good.any():
        return x
    index = np.arange(len(x))
    filled = np.interp(index, index[good], x[good])
    return np.asarray(median_filter(filled, size=max(1, width | 1), mode="nearest"))


def rolling(x: Array, width: int, kind: str) -> Array:
    """Running maximum (`max`) or minimum over `width` samples."""
    from scipy import ndimage

    function = ndimage.maximum_filter1d if kind == "max" else ndimage.minimum_filter1d
    return np.asarray(function(x, size=max(1, width | 1), mode="nearest"))


def collect(recording: Recording, phase: Phase, before: Phase | None) -> LoadSignals | None:
    """The load's signals, or None where there is no clock to be held."""
    clock = recording.cpu_clock()
    part = recording.between(phase.start_s, phase.end_s)
    if clock is None or part.stop - part.start < 8 or not np.isfinite(clock[part]).any():
        return None
    interval = recording.interval_s or 1.0
    three_s = round(3.0 / interval)

    def row(index: int | None) -> Array | None:
        return None if index is None else recording.values[index][part]

    die = row(recording.die)
    power, gpu = row(recording.package_power), row(recording.first("power", ["gpu"]))
    flags = recording.find("flag")
    throttled = None
    if flags:
        with np.errstate(all="ignore"):
            throttled = np.nan_to_num(recording.values[flags][:, part]).max(axis=0)
    base_c = None
    if before is not None and recording.die is not None:
        idle = recording.values[recording.die][recording.between(before.start_s, before.end_s)]
        idle = idle[np.isfinite(idle)]
        base_c = float(np.median(idle)) if len(idle) else None
    return LoadSignals(
        recording.time_s[part],
        smooth(clock[part], three_s),
        None if die is None else smooth(despiked(die, 4.0), three_s),
        None if power is None else smooth(power, three_s),
        None if gpu is None else smooth(gpu, three_s),
        throttled,
        row(recording.first("work")),
        _active(recording, part, interval),
        base_c,
    )


def _active(recording: Recording, part: slice, interval: float) -> Mask:
    """Where the load kept up its demand: utilisation near its usual level, the edges left out."""
    n = part.stop - part.start
    active = np.ones(n, dtype=bool)
    index = recording.first("load", ["package", "die", "other"], "cpu")
    if index is not None:
        use = recording.values[index][part]
        finite = use[np.isfinite(use)]
        if len(finite):
            active = ~(use < 0.9 * np.percentile(finite, 90))
            active &= np.isfinite(use)
    edge = max(1, round(1.0 / interval))
    shrunk = active.copy()
    for k in range(1, edge + 1):
        shrunk[k:] &= active[:-k]
        shrunk[:-k] &= active[k:]
    shrunk[:edge] = False
    shrunk[-edge:] = False
    return shrunk


def spread(x: Array) -> float:
    """Spread between the 4th and the 96th percentile."""
    low, high = np.percentile(x, [4, 96])
    return float(high - low)
