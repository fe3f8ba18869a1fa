"""The averaging window of a run: found by itself, or as a person has set it."""

from __future__ import annotations

import numpy as np

from samovar.core.despike import despiked
from samovar.core.held.stretches import HeldStretch
from samovar.core.phases import Phase
from samovar.core.recording import Recording
from samovar.core.steady import POWER_DRIFT_PCT_PER_MIN, SteadyWindow, drift_of, find_steady

BY_HAND = "set by hand"
"""The reason of a window that no search found."""


def inside(recording: Recording, load: Phase) -> slice:
    """The load's samples but for its last two seconds, which may already belong to its end."""
    part = recording.between(load.start_s, load.end_s)
    if part.stop >= len(recording.time_s):
        return part
    edge = max(1, round(2.0 / (recording.interval_s or 1.0)))
    return slice(part.start, max(part.start, part.stop - edge))


def find_window(recording: Recording, load: Phase | None, held: list[HeldStretch]) -> SteadyWindow | None:
    """The steady window of the main load's die; where the die rides its limit, the power decides,
    since there the temperature tells nothing."""
    index = recording.die if recording.die is not None else recording.first("temperature")
    if index is None or load is None:
        return None
    part = inside(recording, load)
    time_s = recording.time_s[part]
    window = find_steady(time_s, despiked(recording.values[index][part]))
    if window.start_s is None or window.end_s is None or recording.package_power is None:
        return window
    hot = sum(
        max(0.0, min(h.end_s, window.end_s) - max(h.start_s, window.start_s))
        for h in held
        if h.by in ("thermal", "firmware")
    )
    if hot < 0.5 * (window.end_s - window.start_s):
        return window
    power = recording.values[recording.package_power][part]
    late = time_s >= window.start_s
    level = float(np.nanmean(power[late])) if np.isfinite(power[late]).any() else 0.0
    if level <= 0:
        return window
    by_power = find_steady(time_s[late], 100.0 * power[late] / level, POWER_DRIFT_PCT_PER_MIN)
    if by_power.found:
        return by_power
    drift = by_power.drift
    if drift is not None and not drift.halves_differ and abs(drift.per_min) < 2.0 * drift.standard_error:
        # It saws under its limit: uneven, but going nowhere.
        return window
    return SteadyWindow(None, None, "the die rides its limit and its power is still sinking", by_power.drift)


def window_by_hand(recording: Recording, span: tuple[float, float]) -> SteadyWindow:
    """A window that a person has set, with the drift there is in it."""
    part = recording.between(*span)
    index = recording.die
    drift = None
    if index is not None:
        row = despiked(recording.values[index][part])
        good = np.isfinite(row)
        drift = drift_of(recording.time_s[part][good], row[good]) if good.sum() >= 8 else None
    return SteadyWindow(span[0], span[1], BY_HAND, drift)
