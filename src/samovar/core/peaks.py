"""Peaks, and the lone values of a sensor that are set aside before them.

A value that stands alone among its neighbours is a sensor's slip. One that stands where the load itself paused for a
moment is not: then the die did cool.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from samovar.core.despike import lone_values
from samovar.core.phases import LONGEST_DIP_S, Phase, activity, mask_runs
from samovar.core.recording import Recording

MOST_SPIKES = 40
"""More lone values than this are a noisy sensor's, and no list is of use."""


@dataclass(frozen=True, slots=True)
class Peak:
    """The highest value that is no spike, and when."""

    value: float
    at_s: float


@dataclass(frozen=True, slots=True)
class Spike:
    """A value that stood alone and was set aside: which channel's, in its unit, when, and what it said."""

    channel: str
    unit: str
    at_s: float
    value: float


def set_aside(recording: Recording) -> NDArray[np.bool_]:
    """Which values of a recording stand alone and count for nothing, shape (channels, n)."""
    lone = np.array(
        [lone_values(row, c.quantity) for c, row in zip(recording.channels, recording.values, strict=True)],
        dtype=bool,
    ).reshape(recording.values.shape)
    warm = [k for k, c in enumerate(recording.channels) if c.quantity == "temperature"]
    if lone[warm].any():
        lone[warm] &= ~_pauses(recording)
    return lone


def _pauses(recording: Recording) -> NDArray[np.bool_]:
    """The short dips of activity and what lies a sample beside them, shape (n,)."""
    n, out = len(recording.time_s), np.zeros(len(recording.time_s), dtype=bool)
    level = activity(recording) if n else None
    if level is None:
        return out
    for a, b in mask_runs(np.asarray(level < 0.5)):
        if a > 0 and b < n and recording.time_s[b] - recording.time_s[a - 1] < LONGEST_DIP_S:
            out[a - 1 : b + 2] = True
    return out


def peaks_of(
    recording: Recording, load: Phase | None, aside: NDArray[np.bool_]
) -> tuple[dict[str, Peak], list[Spike]]:
    """The peak of each temperature under load, or over all where there was no load; and the lone values, of the whole
    run and of all channels, that were set aside.

    Args:
        recording: what was measured.
        load: the main load.
        aside: from `set_aside`, shape (channels, n).
    """
    part = recording.between(load.start_s, load.end_s) if load else slice(0, len(recording.time_s))
    peaks: dict[str, Peak] = {}
    found: list[Spike] = []
    for channel, row, lone in zip(recording.channels, recording.values, aside, strict=True):
        found += [
            Spike(channel.name, channel.unit, float(recording.time_s[k]), float(row[k]))
            for k in np.flatnonzero(lone)[:MOST_SPIKES]
        ]
        left = np.where(lone, np.nan, row)[part]
        if channel.quantity == "temperature" and np.isfinite(left).any():
            at = int(np.nanargmax(left))
            peaks[channel.name] = Peak(float(left[at]), float(recording.time_s[part][at]))
    return peaks, sorted(found, key=lambda s: s.at_s)[:MOST_SPIKES]
