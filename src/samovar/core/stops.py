"""Whether a load was stopped against its will, by what a log of other making shows: a guard's or shutdown's flag, or an
end under load with the die over its limit and still rising."""

from __future__ import annotations

import re

import numpy as np

from samovar.core.despike import despiked
from samovar.core.facts import Facts
from samovar.core.phases import Phase, main_load
from samovar.core.recording import Array, Recording

_STOPPING = re.compile(
    r"\bguard\b|shut[ -]?down|emergency|\babort(?:ed)?\b|safety (?:stop|trip)|(?:thermal|over[- ]?temp\w*) (?:trip|stop)|cut[ -]?off",
    re.I,
)
"""Titles of flags that say a load was ended, not that it was slowed down."""
AT_THE_END_S = 30.0
"""A flag that goes up no longer than this before the load's end, or after it, ended it."""
LAST_S = 20.0
"""The die is still rising where it does so over the last so many seconds."""
STILL_RISING_K_PER_MIN = 1.0
"""A die that is settling over its limit rises by less; one that is about to trip by much more."""


def was_stopped(recording: Recording, phases: list[Phase], facts: Facts) -> bool:
    """Whether the recording shows that its main load was ended by a guard, a shutdown or a trip."""
    load = main_load(phases)
    if load is None or len(recording.time_s) < 3:
        return False
    return _flagged(recording, load) or _broke_off(recording, load, facts)


def _flagged(recording: Recording, load: Phase) -> bool:
    for index in recording.find("flag"):
        if _STOPPING.search(recording.channels[index].name) is None:
            continue
        up = np.flatnonzero(np.nan_to_num(recording.values[index]) > 0.5)
        # Up from the first sample on it tells of a guard that stood by, not of one that stepped in.
        if len(up) and up[0] > 0 and recording.time_s[up[0]] >= load.end_s - AT_THE_END_S:
            return True
    return False


def _broke_off(recording: Recording, load: Phase, facts: Facts) -> bool:
    limit_c = facts.cpu.temperature_limit_c
    end_s = float(recording.time_s[-1])
    interval_s = recording.interval_s or 1.0
    if limit_c is None or recording.die is None or load.end_s < end_s - 1.5 * interval_s:
        return False
    part = recording.between(end_s - max(LAST_S, 4.0 * interval_s), end_s)
    time_s, die = recording.time_s[part], despiked(recording.values[recording.die][part])
    good = np.isfinite(die)
    if good.sum() < 3:
        return False
    return (
        bool(np.median(die[good][-3:]) > limit_c) and _slope(time_s[good], die[good]) > STILL_RISING_K_PER_MIN
    )


def _slope(time_s: Array, x: Array) -> float:
    """K/min."""
    return 60.0 * float(np.polyfit(time_s - time_s[0], x, 1)[0])
