"""A recording: channels sampled along one time axis, with gaps as they were."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from samovar.core.die import die_channels
from samovar.core.marks import Change, Mark
from samovar.core.quantity import Channel

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Gap:
    """A stretch without samples, from the last sample before to the first after, seconds."""

    start_s: float
    end_s: float


@dataclass(frozen=True)
class Recording:
    """Samples of one run.

    Attributes:
        channels: m channels.
        time_s: shape (n,), seconds from the first sample, rising.
        values: shape (m, n), each row in its channel's unit; NaN where a sample is missing.
        marks: what was noted, in order of time.
        stopped_early: the run ended against its will (guard, shutdown); None when that is not known.
        changes: what was changed of load and fans, in order of time.
    """

    channels: tuple[Channel, ...]
    time_s: Array
    values: Array
    marks: tuple[Mark, ...] = ()
    stopped_early: bool | None = None
    changes: tuple[Change, ...] = ()
    _cache: dict[str, object] = field(default_factory=dict, repr=False, compare=False)

    def __post_init__(self) -> None:
        if self.values.shape != (len(self.channels), len(self.time_s)):
            raise ValueError(
                f"values have shape {self.values.shape}, want {(len(self.channels), len(self.time_s))}"
            )

    @property
    def duration_s(self) -> float:
        """From the first sample to the last, seconds; 0 for fewer than two samples."""
        return float(self.time_s[-1] - self.time_s[0]) if len(self.time_s) > 1 else 0.0

    @property
    def interval_s(self) -> float | None:
        """The usual time between samples (median), seconds; None for fewer than two samples."""
        return float(np.median(np.diff(self.time_s))) if len(self.time_s) > 1 else None

    def gaps(self) -> list[Gap]:
        """Stretches of more than 2.5 usual intervals without a sample."""
        interval = self.interval_s
        if interval is None or interval <= 0:
            return []
        steps = np.diff(self.time_s)
        return [
            Gap(float(self.time_s[i]), float(self.time_s[i + 1]))
            for i in np.flatnonzero(steps > 2.5 * interval)
        ]

    def find(self, quantity: str, roles: Iterable[str] | None = None, domain: str | None = None) -> list[int]:
        """Indices of the channels of this quantity, in the order of `roles` where given; those without
        a single value are left out."""
        wanted = None if roles is None else list(roles)
        found = [
            i
            for i, c in enumerate(self.channels)
            if c.quantity == quantity
            and (wanted is None or c.role in wanted)
            and (domain is None or c.domain == domain)
            and bool(np.isfinite(self.values[i]).any())
        ]
        if wanted is not None:
            found.sort(key=lambda i: wanted.index(self.channels[i].role))
        return found

    def first(
        self, quantity: str, roles: Iterable[str] | None = None, domain: str | None = None
    ) -> int | None:
        """The first of `find`, or None."""
        found = self.find(quantity, roles, domain)
        return found[0] if found else None

    def index_at(self, seconds: float) -> int:
        """The index of the sample nearest to a moment."""
        i = int(np.searchsorted(self.time_s, seconds))
        if i <= 0:
            return 0
        if i >= len(self.time_s):
            return len(self.time_s) - 1
        return i if self.time_s[i] - seconds <= seconds - self.time_s[i - 1] else i - 1

    def between(self, start_s: float, end_s: float) -> slice:
        """The samples from start to end, both included."""
        return slice(
            int(np.searchsorted(self.time_s, start_s, "left")),
            int(np.searchsorted(self.time_s, end_s, "right")),
        )

    def every(self, count: int) -> Recording:
        """One sample in so many: of each channel the first it gave among them, of a flag whether it was ever up."""
        whole = len(self.time_s) // count * count
        if count < 2 or whole == 0:
            return self
        blocks = self.values[:, :whole].reshape(len(self.channels), -1, count)
        first = np.isfinite(blocks).argmax(axis=2)
        values = np.take_along_axis(blocks, first[:, :, None], axis=2)[:, :, 0]
        for k, channel in enumerate(self.channels):
            if channel.quantity == "flag":
                values[k] = np.fmax.reduce(blocks[k], axis=1)
        return Recording(
            self.channels, self.time_s[:whole:count], values, self.marks, self.stopped_early, self.changes
        )

    @property
    def die(self) -> int | None:
        """The channel that stands for the die (`core.die`): of several, the one that is hottest on average."""
        known = [k for k in range(len(self.channels)) if bool(np.isfinite(self.values[k]).any())]
        found = [known[k] for k in die_channels([self.channels[k] for k in known])]
        if len(found) < 2:
            return found[0] if found else None
        with np.errstate(all="ignore"):
            return max(found, key=lambda k: float(np.nanmean(self.values[k])))

    @property
    def package_power(self) -> int | None:
        """The channel of the processor's package power, else of any cpu power."""
        found = self.first("power", ["package"], "cpu")
        return found if found is not None else self.first("power", ["package", "core", "die"], "cpu")

    @property
    def own_work(self) -> int | None:
        """The channel that counts the load's own work; not what a drive or a graphics chip gets done."""
        return self.first("work", domain="cpu")

    def cpu_clock(self) -> Array | None:
        """The processor's clock, shape (n,), MHz: the mean over its cores' clocks; None without any."""
        if "clock" not in self._cache:
            cores = self.find("clock", ["core"], "cpu")
            rows = cores or self.find("clock", ["package", "die", "other"], "cpu")
            with np.errstate(all="ignore"):
                self._cache["clock"] = mean_rows(self.values[rows]) if rows else None
        found = self._cache["clock"]
        assert found is None or isinstance(found, np.ndarray)
        return found


def held_value(row: Array, index: int, stride: int) -> float | None:
    """A channel's value at a sample, or the one that still holds there, of a channel that has a value at every
    `stride`-th sample only; None in a gap. `row` has shape (n,)."""
    part = row[max(0, index - stride + 1) : index + 1]
    known = part[np.isfinite(part)]
    return float(known[-1]) if len(known) else None


STRIDE_SAMPLES = 2000


def stride_of(row: Array) -> int:
    """At every how many samples a channel has a value: 1 for most, 10 for a probe that is read once a second in a
    recording of ten samples a second. Told from the beginning of the row, shape (n,)."""
    known = np.flatnonzero(np.isfinite(row[:STRIDE_SAMPLES]))
    if len(known) < 3:
        return 1
    steps = np.diff(known)
    usual = int(np.median(steps))
    return usual if usual > 1 and float(np.mean(np.abs(steps - usual) <= 1)) > 0.8 else 1


def mean_rows(rows: Array) -> Array:
    """Column means over those rows that have a value; NaN where none has."""
    have = np.isfinite(rows)
    count = have.sum(axis=0)
    total = np.where(have, rows, 0.0).sum(axis=0)
    return np.asarray(np.where(count > 0, total / np.maximum(count, 1), np.nan))
