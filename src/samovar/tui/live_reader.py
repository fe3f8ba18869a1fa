"""When the run under way is read again: as often as it may cost, and never twice at once."""

from __future__ import annotations

import time

from samovar.core.live_reading import COST_SHARE, LiveFindings, LiveReading
from samovar.core.quantity import Channel
from samovar.recording.late_titles import seen_of
from samovar.recording.live import LiveRun

EVERY_S = 1.5
"""At most so often; a rig that lives faster than life is read three times as often."""
MOST_HASTE = 6.0


class LiveReader:
    """Reads one run while it goes on, and keeps what was found last.

    Args:
        live: the run.
        channels: those that it has by now; a run that gets more is read by another reader.
    """

    def __init__(self, live: LiveRun, channels: tuple[Channel, ...]) -> None:
        self._live = live
        self._count = len(channels)
        self._reading = LiveReading(channels, live.facts)
        self._next = time.monotonic()
        self._busy = False
        self.found: LiveFindings | None = None

    def due(self) -> bool:
        """Whether it is time to read again; the caller then calls `look`, on a thread of its own."""
        if self._busy or time.monotonic() < self._next:
            return False
        self._busy = True
        return True

    def look(self) -> None:
        """Read the run so far, and put the next look off for as long as this one's cost asks for."""
        live, began = self._live, time.thread_time()
        try:
            _, time_s, values = seen_of(live)
            self._reading.extend(time_s, values[: self._count])
            if len(self._reading.recording().time_s) >= 3:
                self.found = self._reading.findings(live.marks(), live.step == "load")
        finally:
            # A rig that lives faster than life would leave its ribbon minutes behind.
            haste = min(max(live.machine.clock.speed, 1.0), MOST_HASTE)
            usual = EVERY_S if haste == 1.0 else EVERY_S / 3.0
            self._next = time.monotonic() + max(usual, (time.thread_time() - began) / COST_SHARE / haste)
            self._busy = False
