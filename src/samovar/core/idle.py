"""What the machine did while it was to be idle: a logger, an update or a screen recorder warms the chip."""

from __future__ import annotations

import numpy as np

from samovar.core.phases import Phase, utilisation_rows
from samovar.core.recording import Recording

BUSY_PCT = 5.0
"""More utilisation than this in idle is said: it lifts the temperature that the rise is told from."""


def idle_load(recording: Recording, phases: list[Phase]) -> float | None:
    """Mean utilisation of the whole machine in the idle before the first load, %; None where there is no idle of
    at least ten seconds or no such channel."""
    idle = phases[0] if phases and phases[0].name == "idle" else None
    rows = [i for i in utilisation_rows(recording) if recording.channels[i].role != "core"]
    if idle is None or not rows or idle.duration_s < 10.0:
        return None
    values = recording.values[rows[0]][recording.between(idle.start_s, idle.end_s - 2.0)]
    known = values[np.isfinite(values)]
    return float(known.mean()) if len(known) >= 5 else None
