"""Channels that came into a run after it had begun: a log that had no titles yet when it was opened."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol, runtime_checkable

from samovar.archive.archive import Archive
from samovar.core.quantity import Channel
from samovar.core.recording import Array
from samovar.sources.protocol import Source


@runtime_checkable
class Late(Protocol):
    """A source that may have had no channels when it was opened."""

    def late(self, moments_s: Array) -> tuple[tuple[Channel, ...], Array]:
        """The channels that came since, and what they said, shape (m, n), at moments of the run's clock, shape (n,)."""
        ...


def take_late(archive: Archive, number: int, sources: Sequence[Source], begun_s: float) -> None:
    """Give a sealed run the channels that came after it had begun; `begun_s` is its beginning by the run's clock."""
    for source in sources:
        if not isinstance(source, Late):
            continue
        recording = archive.runs.recording(number, [])
        channels, values = source.late(recording.time_s + begun_s)
        if channels:
            archive.runs.widen(number, channels, values)
