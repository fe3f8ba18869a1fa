"""The guard: stops the load when the die passes the stop temperature, or when its sensor goes silent."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

SILENT_S = 3.0
WATCH_S = 0.1


@dataclass(frozen=True, slots=True)
class Trip:
    """Why the guard stopped the load, and the run's time then, seconds."""

    at_s: float
    reason: str


class Guard:
    """Decides from one die value at a time; knows nothing of clocks or threads.

    The stop temperature must be passed in two looks running, so that one sensor spike ends no run.
    """

    def __init__(self, stop_above_c: float, silent_s: float = SILENT_S) -> None:
        self.stop_above_c = stop_above_c
        self.silent_s = silent_s
        self._last_heard_s: float | None = None
        self._over = 0

    def look(self, at_s: float, die_c: float) -> Trip | None:
        """One look at the die: NaN is silence. A Trip once it must stop, else None."""
        if self._last_heard_s is None:
            self._last_heard_s = at_s
        if not math.isfinite(die_c):
            if at_s - self._last_heard_s >= self.silent_s:
                return Trip(at_s, f"die sensor silent for {at_s - self._last_heard_s:.0f} s")
            return None
        self._last_heard_s = at_s
        self._over = self._over + 1 if die_c > self.stop_above_c else 0
        if self._over >= 2:
            return Trip(at_s, f"{die_c:.0f} °C, over the stop temperature of {self.stop_above_c:.0f} °C")
        return None


class GuardThread:
    """Watches the die on a thread of its own, ten times a second, whatever the recorder is doing.

    `read_die` gives the die's temperature or NaN; `stop` is called once, from this thread, on a trip.
    While `armed` is not set, it only keeps in touch with the sensor.
    """

    def __init__(
        self,
        guard: Guard,
        read_die: Callable[[], float],
        now: Callable[[], float],
        stop: Callable[[Trip], None],
    ) -> None:
        self._guard = guard
        self._read_die = read_die
        self._now = now
        self._stop = stop
        self._done = threading.Event()
        self.armed = threading.Event()
        self._latest = float("nan")
        self._fresh = threading.Event()
        self._thread = threading.Thread(target=self._watch, name="guard", daemon=True)
        self._reader = threading.Thread(target=self._keep_reading, name="guard-sensor", daemon=True)

    def start(self) -> None:
        """Begin watching."""
        self._thread.start()
        self._reader.start()

    def close(self) -> None:
        """Stop watching."""
        self._done.set()
        self._thread.join(timeout=1.0)

    def _keep_reading(self) -> None:
        # A sensor that hangs in the kernel blocks this thread alone; the watcher sees silence.
        while not self._done.wait(WATCH_S):
            self._latest = self._read_die()
            self._fresh.set()

    def _watch(self) -> None:
        while not self._done.is_set():
            # A fresh value is looked at the moment it comes; none in time is silence.
            value = self._latest if self._fresh.wait(2.0 * WATCH_S) else float("nan")
            self._fresh.clear()
            if not self.armed.is_set():
                continue
            # Silence is told by our own time: a rig that lives faster than life is not silent sooner.
            trip = self._guard.look(time.monotonic(), value)
            if trip is not None:
                self._stop(Trip(self._now(), trip.reason))
                return
