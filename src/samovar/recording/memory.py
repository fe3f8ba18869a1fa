"""The samples of a run under way, in memory."""

from __future__ import annotations

import threading
from collections.abc import Sequence

import numpy as np

from samovar.core.recording import Array

FIRST_ROOM = 1024
"""Samples there is room for at first; it doubles when it is full."""


class Samples:
    """Samples as they come, one after another, of m channels."""

    def __init__(self, channels: int) -> None:
        self._lock = threading.Lock()
        self._time = np.empty(FIRST_ROOM)
        self._values = np.empty((channels, FIRST_ROOM))
        self._count = 0

    def append(self, at_s: float, values: Sequence[float]) -> None:
        """Take one sample, one value for each channel."""
        with self._lock:
            if self._count == len(self._time):
                self._time = np.concatenate([self._time, np.empty(self._count)])
                self._values = np.concatenate([self._values, np.empty_like(self._values)], axis=1)
            self._time[self._count] = at_s
            self._values[:, self._count] = values
            self._count += 1

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        """Values that came too late for the sample of this moment; NaN where there is nothing to add."""
        with self._lock:
            index = int(np.searchsorted(self._time[: self._count], at_s))
            if index < self._count and self._time[index] == at_s:
                new = np.asarray(values, float)
                known = np.isfinite(new)
                self._values[known, index] = new[known]

    def arrays(self) -> tuple[Array, Array]:
        """Times, shape (n,), and values, shape (m, n), so far: views, of which only the last sample may still be
        amended."""
        with self._lock:
            return self._time[: self._count], self._values[:, : self._count]

    def newest(self, rows: Sequence[int]) -> list[float]:
        """The newest values of the channels at these positions; empty where there is none yet."""
        _, values = self.arrays()
        return [float(values[k, -1]) for k in rows] if values.shape[1] else []

    def lately(self, row: int, samples: int) -> float | None:
        """The mean of a channel's last samples; None where they hold no value."""
        _, values = self.arrays()
        recent = values[row, -samples:]
        recent = recent[np.isfinite(recent)]
        return float(recent.mean()) if len(recent) else None
