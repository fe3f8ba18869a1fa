"""The guard: stops the load when the die passes the stop temperature, or when its sensor goes silent."""

from __future__ import annotations

import math
import threading
import time
from collections import deque
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from samovar.core.die import is_stop_temperature, stop_range
from samovar.core.quantity import Channel
from samovar.sources.async_reader import AsyncReader

SILENT_S = 3.0
REAL_SILENT_S = 1.5
"""So long of our own time, too: a rig that lives faster than life has not fallen silent because we were busy."""
WATCH_S = 0.1
TICKING_S = 1.0
"""A watch that has not looked for so long no longer guards."""
RISE_OVER_S = 4.0
"""A rate of rise is taken over so long: shorter, a sensor's steps would look like a rise."""
FIRST_JUMP_S = 15.0
"""So long after the load is on, the die's own first jump is over."""


@dataclass(frozen=True)
class Trip:
    """Why the guard stopped the load, and the run's time then, seconds."""

    at_s: float
    reason: str


class Guard:
    """Decides from one die value at a time; knows nothing of clocks or threads.

    The stop temperature must be passed in two looks running, so that one sensor spike ends no run.

    Args:
        stop_above_c: the die's stop temperature.
        silent_s: so long the die's sensor may be silent.
        limits: stop temperatures of other sensors, by role or by channel name.
        rise_k_per_s: the die may not rise faster than this over RISE_OVER_S, once the load's own first jump is
            over; None for no such limit.

    Raises:
        ValueError: a limit that is no finite temperature in a sane range, or a rate or time that is no number over 0.
    """

    def __init__(
        self,
        stop_above_c: float,
        silent_s: float = SILENT_S,
        limits: Mapping[str, float] | None = None,
        rise_k_per_s: float | None = None,
    ) -> None:
        for limit in (stop_above_c, *(limits or {}).values()):
            if not is_stop_temperature(limit):
                raise ValueError(
                    f"a stop temperature of {limit:g} °C guards nothing; one {stop_range()} does"
                )
        for number in (silent_s, rise_k_per_s):
            if number is not None and not (math.isfinite(number) and number > 0):
                raise ValueError(f"{number:g} is no time or rate to guard by; a number over 0 is")
        self.stop_above_c = stop_above_c
        self.silent_s = silent_s
        self.limits = dict(limits or {})
        self.rise_k_per_s = rise_k_per_s
        self._last_heard: tuple[float, float] | None = None
        self._first_s: float | None = None
        self._over = 0
        self._recent: deque[tuple[float, float]] = deque()
        self._others: dict[str, int] = {}

    def look(self, at_s: float, die_c: float, real_s: float | None = None) -> Trip | None:
        """One look at the die: NaN is silence. A Trip once it must stop, else None.

        `at_s` is the run's time; `real_s` our own, where that is not the same: a rig may live faster than we. The die
        is silent only by both.
        """
        own_s = at_s if real_s is None else real_s
        if self._last_heard is None:
            self._last_heard = (at_s, own_s)
        if not math.isfinite(die_c):
            silent_s, own_silent_s = at_s - self._last_heard[0], own_s - self._last_heard[1]
            if silent_s >= self.silent_s and own_silent_s >= min(REAL_SILENT_S, self.silent_s):
                return Trip(at_s, f"die sensor silent for {silent_s:.0f} s")
            return None
        self._last_heard = (at_s, own_s)
        self._over = self._over + 1 if die_c > self.stop_above_c else 0
        if self._over >= 2:
            return Trip(at_s, f"{die_c:.0f} °C, over the stop temperature of {self.stop_above_c:.0f} °C")
        return self._rising(at_s, die_c)

    def _rising(self, at_s: float, die_c: float) -> Trip | None:
        """A die that runs away: a pump that stopped, a cooler that came loose."""
        if self.rise_k_per_s is None:
            return None
        if self._first_s is None:
            self._first_s = at_s
        self._recent.append((at_s, die_c))
        while self._recent[0][0] < at_s - RISE_OVER_S:
            self._recent.popleft()
        began_s, began_c = self._recent[0]
        if at_s - self._first_s < FIRST_JUMP_S or at_s - began_s < 0.8 * RISE_OVER_S:
            return None
        rate = (die_c - began_c) / (at_s - began_s)
        if rate > self.rise_k_per_s:
            return Trip(at_s, f"rising {rate:.1f} K/s, over the {self.rise_k_per_s:g} K/s that are allowed")
        return None

    def look_at_others(
        self, at_s: float, channels: Sequence[Channel], values: Sequence[float]
    ) -> Trip | None:
        """One look at all other sensors that have a limit; a silent one is told elsewhere and stops nothing."""
        for channel, value in zip(channels, values):
            limit = self.limits.get(channel.name, self.limits.get(channel.role))
            if limit is None or channel.quantity != "temperature":
                continue
            key = channel.id or channel.name
            self._others[key] = self._others.get(key, 0) + 1 if value > limit else 0
            if self._others[key] >= 2:
                return Trip(at_s, f"{channel.name} at {value:.0f} °C, over its limit of {limit:.0f} °C")
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
        self._looked_s = time.monotonic()
        self._reader: AsyncReader[float] | None = None
        self._thread = threading.Thread(target=self._watch, name="guard", daemon=True)

    def start(self) -> None:
        """Begin watching."""
        # A sensor that hangs in the kernel blocks its reader's thread alone; the watcher sees silence.
        self._reader = AsyncReader(self._read_die, name="guard-sensor")
        self._thread.start()

    def close(self) -> None:
        """Stop watching."""
        self._done.set()
        self._thread.join(timeout=1.0)
        if self._reader is not None:
            self._reader.close()

    def ticking(self) -> bool:
        """Whether it still looks."""
        return time.monotonic() - self._looked_s < TICKING_S

    def _watch(self) -> None:
        while not self._done.wait(WATCH_S):
            self._looked_s = time.monotonic()
            value = self._look_at_the_sensor()
            if not self.armed.is_set():
                continue
            trip = self._guard.look(self._now(), value, time.monotonic())
            if trip is not None:
                # It vouches for nothing any more: were the stop to fail, the load's own heartbeat ends it.
                self._looked_s = -math.inf
                self._stop(trip)
                return

    def _look_at_the_sensor(self) -> float:
        """The die, °C, the moment it is told; NaN where nothing comes in time, or no value."""
        assert self._reader is not None
        self._reader.ask()
        answer = self._reader.take(2.0 * WATCH_S)
        return answer.said if answer is not None and isinstance(answer.said, float) else float("nan")
