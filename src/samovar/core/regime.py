"""From when on a load has run as it runs now: no fan and no load was changed since."""

from __future__ import annotations

import numpy as np

from samovar.core.load.series import over, smooth
from samovar.core.marks import FANS, LOAD
from samovar.core.phases import Phase
from samovar.core.recording import Recording

FAN_STEP = 0.12
"""A fan whose speed goes by more than this share within FAN_S has been changed; a controller's hunting does less."""
FAN_S = 20.0
REACTS_S = 5.0
"""What was changed has taken hold after this."""


def regime_start_s(recording: Recording, load: Phase) -> float:
    """When the last change of fans or load within a load was over, s; the load's beginning where there was none. From
    the recorder's own changes, else from the fans' speeds."""
    start = load.start_s
    for change in recording.changes:
        if change.what in (FANS, LOAD) and load.start_s + REACTS_S < change.at_s < load.end_s:
            start = max(start, change.at_s + REACTS_S)
    part = recording.between(load.start_s, load.end_s)
    time_s = recording.time_s[part]
    interval_s = recording.interval_s or 1.0
    reach = max(1, round(0.5 * FAN_S / interval_s))
    if len(time_s) <= 2 * reach + 2:
        return start
    for index in recording.find("fan"):
        speed = smooth(np.maximum(recording.values[index][part], 1.0), 2 * round(3.0 / interval_s) + 1)
        moved = np.flatnonzero(np.abs(over(np.log(speed), reach)) > FAN_STEP)
        if len(moved):
            start = max(start, float(time_s[min(int(moved[-1]) + reach, len(time_s) - 1)]))
    return start
