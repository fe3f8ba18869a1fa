"""Channels that came into a run after it had begun: a log that had no titles yet when it was opened."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Protocol, runtime_checkable

import numpy as np

from samovar.archive.archive import Archive
from samovar.core.quantity import Channel
from samovar.core.recording import Array
from samovar.sources.protocol import Source

if TYPE_CHECKING:
    from samovar.recording.live import LiveRun


@runtime_checkable
class Late(Protocol):
    """A source that may have had no channels when it was opened."""

    def late(self, moments_s: Array) -> tuple[tuple[Channel, ...], Array]:
        """The channels that came since, and what they said, shape (m, n), at moments of the run's clock, shape (n,)."""
        ...


def told_at(seen_s: Array, told: Array, moments_s: Array, counts_s: float) -> Array:
    """What was told last at each of some moments, shape (m, n); NaN where nothing was yet, or longer ago than it counts.

    Args:
        seen_s: when each row came, rising, shape (r,).
        told: what it said, shape (m, r).
        moments_s: shape (n,).
        counts_s: for how long a row counts.
    """
    last = np.searchsorted(seen_s, moments_s, "right") - 1
    fresh = (last >= 0) & (moments_s - seen_s[last] <= counts_s)
    return np.where(fresh, told[:, last], np.nan)


def seen_of(live: LiveRun) -> tuple[tuple[Channel, ...], Array, Array]:
    """All that is known of a run under way: its channels and those that came after it had begun, times, shape (n,), and values,
    shape (m, n)."""
    channels, (time_s, values) = live.channels, live.arrays()
    late = [source for source in live.beside if isinstance(source, Late)]
    for source in late if len(time_s) and not live.sealed.is_set() else ():
        more, rows = source.late(time_s + live.recorder.begun_s)
        if more:
            channels, values = (*channels, *more), np.vstack([values, rows])
    return channels, time_s, values


def take_late(archive: Archive, number: int, sources: Sequence[Source], begun_s: float) -> None:
    """Give a sealed run the channels that came after it had begun; `begun_s` is its beginning by the run's clock."""
    for source in sources:
        if not isinstance(source, Late):
            continue
        recording = archive.runs.recording(number, [])
        channels, values = source.late(recording.time_s + begun_s)
        if channels:
            archive.runs.widen(number, channels, values)
