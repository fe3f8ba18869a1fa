"""When rows of a log that grows were taken, by the run's clock, though they come into sight in handfuls."""

from __future__ import annotations

import numpy as np

from samovar.core.recording import Array

HELD_BACK_MOST_S = 120.0
"""No logger keeps rows to itself for longer: a row that seems older has a clock that was set anew."""


class RowClock:
    """Learns how far a log's clock is from the run's.

    A row is in sight at the earliest when it was taken. So the row that came into sight soonest after the time it bears
    tells the two clocks apart best, and the others, which their logger kept back, are put in place by it.
    """

    def __init__(self) -> None:
        self._apart_s = np.inf
        self._last_s = -np.inf
        self._seen_s: float | None = None

    def moments(self, times_s: Array, seen_s: float) -> Array:
        """The moments of new rows, s, shape (n,), by the run's clock.

        Args:
            times_s: their times by the log's own clock, s, shape (n,), in order.
            seen_s: when they came into sight, by the run's clock.
        """
        self._seen_s = seen_s
        apart_s = seen_s - float(times_s[-1])
        was_set = float(times_s[0]) <= self._last_s
        self._last_s = float(times_s[-1])
        if was_set or apart_s - self._apart_s > HELD_BACK_MOST_S:
            self._apart_s = np.inf
        self._apart_s = min(self._apart_s, apart_s)
        return times_s + self._apart_s

    def spread(self, count: int, seen_s: float) -> Array:
        """The moments of new rows that bear no time, s, shape (count,): evenly from the last look at which there were
        some to this one."""
        before_s = seen_s if self._seen_s is None else max(self._seen_s, seen_s - HELD_BACK_MOST_S)
        self._seen_s = seen_s
        return seen_s - (seen_s - before_s) * np.arange(count)[::-1] / max(count, 1)
