"""The reading of a run while it goes on: the same code as for a finished run, over samples that are kept ready.

A recording of ten samples a second and 64 channels grows by 2.3 million values an hour; the findings that a
person needs at once come from a few of its channels, at a second's resolution. Those are kept up to date by
what is new alone, and read as a recording of their own.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from samovar.core.facts import Facts
from samovar.core.marks import Mark
from samovar.core.quantity import Channel
from samovar.core.reading import Reading, read
from samovar.core.recording import Array, Recording, mean_rows
from samovar.core.steady import DRIFT_LIMIT_K_PER_MIN, Drift, drift_of

BIN_S = 1.0
"""Samples closer together than this are joined to their mean."""
COST_SHARE = 0.008
"""Reading again takes no more than this share of the time."""
RECENT_S = 240.0
_QUANTITIES = ("clock", "power", "load", "work", "flag", "fan")
_ROLES = ("die", "core", "package", "inlet", "gpu", "hotspot")


@dataclass(frozen=True, slots=True)
class LiveFindings:
    """What is known of the run so far: its reading, and in how long (s) the drift will be small enough (None
    where that is not known, or it is so already)."""

    reading: Reading
    settled_in_s: float | None


class LiveReading:
    """The samples of a run under way that its findings stand on.

    Args:
        channels: the run's m channels.
        facts: what is known of the machine.
    """

    def __init__(self, channels: tuple[Channel, ...], facts: Facts) -> None:
        self._facts = facts
        wanted = [
            i
            for i, c in enumerate(channels)
            if c.quantity in _QUANTITIES or (c.quantity == "temperature" and c.role in _ROLES)
        ]
        cores = [i for i in wanted if channels[i].quantity == "clock" and channels[i].role == "core"]
        # The reading takes the mean of the cores' clocks: one row does for all of them.
        self._cores = np.array(cores if len(cores) > 1 else [], dtype=np.intp)
        self._rows = np.array([i for i in wanted if i not in set(self._cores)], dtype=np.intp)
        self.channels = tuple(channels[i] for i in self._rows)
        if len(self._cores):
            self.channels += (Channel(f"{len(cores)} cores", "clock", "MHz", "core", "cpu"),)
        self._time = np.empty(1024)
        self._values = np.empty((len(self.channels), 1024))
        self._count = 0
        self._taken = 0

    def extend(self, time_s: Array, values: Array) -> None:
        """Go on to the newest sample; `time_s`, shape (n,), and `values`, shape (m, n), only ever grow."""
        new = time_s[self._taken :]
        if len(new) == 0:
            return
        # Whole bins only: a bin that may still grow waits for its last sample.
        number = np.floor(new / BIN_S + 1e-6)
        spacing = (new[-1] - new[0]) / max(1, len(new) - 1) if len(new) > 1 else 0.0
        dense = 0.0 < spacing < 0.75 * BIN_S
        end = int(np.searchsorted(number, number[-1])) if dense or len(new) == 1 else len(new)
        if end == 0:
            return
        part = values[:, self._taken : self._taken + end]
        starts = np.flatnonzero(np.diff(number[:end], prepend=number[0] - 1.0))
        self._append(_means(new[None, :end], starts)[0], _means(self._chosen(part), starts))
        self._taken += end

    def _chosen(self, values: Array) -> Array:
        rows = values[self._rows]
        if not len(self._cores):
            return rows
        return np.vstack([rows, mean_rows(values[self._cores])[None, :]])

    def _append(self, time_s: Array, values: Array) -> None:
        need = self._count + len(time_s)
        while len(self._time) < need:
            self._time = np.concatenate([self._time, np.empty_like(self._time)])
            self._values = np.concatenate([self._values, np.empty_like(self._values)], axis=1)
        self._time[self._count : need] = time_s
        self._values[:, self._count : need] = values
        self._count = need

    def recording(self, marks: tuple[Mark, ...] = ()) -> Recording:
        """What is kept ready, as a recording."""
        return Recording(
            self.channels, self._time[: self._count], self._values[:, : self._count], marks, False
        )

    def findings(self, marks: tuple[Mark, ...] = (), loaded: bool = True) -> LiveFindings:
        """Read the run so far. `loaded`: the load is on now, so that its present drift is of interest."""
        recording = self.recording(marks)
        reading = read(recording, self._facts)
        load = reading.load_phase()
        if not loaded or load is None or recording.die is None:
            return LiveFindings(reading, None)
        part = recording.between(max(load.start_s, load.end_s - RECENT_S), load.end_s)
        time_s, die = recording.time_s[part], recording.values[recording.die][part]
        good = np.isfinite(die)
        if good.sum() < 20 or reading.window is None:
            return LiveFindings(reading, None)
        drift = drift_of(time_s[good], die[good])
        reading = replace(reading, window=replace(reading.window, drift=drift))
        return LiveFindings(reading, _time_to_settle(reading, drift, float(die[good][-1])))


def _means(rows: Array, starts: NDArray[np.intp]) -> Array:
    """Means over the stretches that begin at `starts`, missing values left out."""
    have = np.isfinite(rows)
    total = np.add.reduceat(np.where(have, rows, 0.0), starts, axis=1)
    count = np.add.reduceat(have, starts, axis=1, dtype=np.int64)
    out: Array = np.where(count > 0, total / np.maximum(count, 1), np.nan)
    return out


def _time_to_settle(reading: Reading, drift: Drift, die_c: float) -> float | None:
    """When the drift will be small enough, as the way ahead and the drift now make the time constant."""
    limit = DRIFT_LIMIT_K_PER_MIN
    if reading.forecast is None or drift.per_min <= limit:
        return None
    ahead = reading.forecast.value - die_c
    return ahead / drift.per_min * 60.0 * float(np.log(drift.per_min / limit)) if ahead > 0 else None
