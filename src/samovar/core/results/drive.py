"""What only a drive's work and its temperature together tell: what it still does hot, and where it gives way."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from samovar.core.measured import COVERAGE_FACTOR, Measured, combine
from samovar.core.recording import Array, Recording
from samovar.core.results.result import Result
from samovar.core.results.series import Series, Span, one_result
from samovar.core.uncertainty import mean_of, resolution_of

NEAR_PEAK_K = 3.0
"""A drive counts as hot within this of its own peak."""
GIVES_WAY_SHARE = 0.9
"""A rate that sinks under this share of what it was is given way: drives scatter by a few per cent."""
LEVEL_S = 60.0
"""What a drive does is told from its first minute of work."""
SUNK_FOR_S = 10.0
"""A rate that comes back sooner has paused, for its own housekeeping."""
STAYS_HOT_S = 60.0
"""A drive that gives way to heat stays at that heat; one whose fast part is full does less and cools."""
LEAST_RISE_K = 5.0
"""One that has not warmed by this has not given way to heat."""


def hot_work(recording: Recording, work: Series, temperature: Array, span: Span) -> Result | None:
    """What a drive still did while it was hot: the mean of its rate over the samples within 3 K of its peak."""
    stretch = recording.between(*span)
    rate, heat = work.row[stretch], temperature[stretch]
    with np.errstate(all="ignore"):
        top = float(np.nanmax(heat)) if np.isfinite(heat).any() else math.nan
    hot = (heat >= top - NEAR_PEAK_K) & np.isfinite(rate)
    if not math.isfinite(top) or hot.sum() < 2:
        return None
    times = recording.time_s[stretch][hot]
    return one_result(work, "hot", mean_of(rate[hot]), (float(times[0]), float(times[-1])), int(hot.sum()))


def gave_way(recording: Recording, work: Series, heat: Series, span: Span) -> Result | None:
    """The temperature at which a drive's rate sank while it stayed as hot, and when; None where it never did, or where
    something else than heat took its rate.

    Args:
        recording: the run.
        work: the drive's rate.
        heat: its temperature.
        span: the load, from and to, s.
    """
    stretch = recording.between(*span)
    time_s, rate, celsius = recording.time_s[stretch], work.row[stretch], heat.row[stretch]
    known = np.isfinite(rate) & np.isfinite(celsius) & (rate > 0.0)
    time_s, rate, celsius = time_s[known], rate[known], celsius[known]
    if len(time_s) < 2 or time_s[-1] - time_s[0] < LEVEL_S + SUNK_FOR_S:
        return None
    level = float(np.median(rate[time_s <= time_s[0] + LEVEL_S]))
    sunk = rate < GIVES_WAY_SHARE * level
    for k in np.flatnonzero(sunk & ~np.concatenate([[False], sunk[:-1]])):
        after = (time_s >= time_s[k]) & (time_s <= time_s[k] + SUNK_FOR_S)
        if time_s[-1] - time_s[k] < SUNK_FOR_S or float(np.median(rate[after])) >= GIVES_WAY_SHARE * level:
            continue
        there = (time_s >= time_s[k] - SUNK_FOR_S / 2.0) & (time_s <= time_s[k])
        later = (time_s >= time_s[k]) & (time_s <= time_s[k] + STAYS_HOT_S)
        at_c = float(celsius[k])
        warmed = at_c - float(celsius[: max(1, k)].min()) >= LEAST_RISE_K
        if not warmed or float(np.median(celsius[later])) < at_c - NEAR_PEAK_K:
            return None
        step = COVERAGE_FACTOR * resolution_of(celsius) / math.sqrt(12.0)
        half = combine(step, float(np.ptp(celsius[there])))
        moment = (float(time_s[k]), min(float(time_s[k]) + SUNK_FOR_S, span[1]))
        found = one_result(heat, "gave_way", Measured(at_c, half or None), moment, int(after.sum()))
        return replace(found, at_s=float(time_s[k]) - span[0])
    return None
