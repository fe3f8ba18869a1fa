"""A recorded run on the bench again, at any speed: what a machine would have shown, without the machine."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

from samovar.bench.clock import Clock, ScaledClock
from samovar.bench.guard import Guard
from samovar.bench.loads.catalogue import OwnLoad
from samovar.bench.loads.protocol import Load, LoadError
from samovar.bench.machine import DieWatch
from samovar.core.recording import Recording
from samovar.sources.protocol import Probed, Source
from samovar.sources.replay import ReplaySource


class ReplayMachine:
    """Answers like a machine, from a recording; it carries no load, since the recorded one is in its samples.

    Args:
        recording: what was recorded.
        speed: how many of its seconds pass in one of ours.
    """

    def __init__(self, recording: Recording, speed: float = 1.0) -> None:
        self._recording = recording
        self._clock = ScaledClock(speed)

    @property
    def clock(self) -> Clock:
        """The time it is replayed in."""
        return self._clock

    @property
    def duration_s(self) -> float:
        """How long the replay takes, in its own seconds."""
        return self._recording.duration_s

    def fit(self, setup: str, products: Sequence[str] = (), changes: Mapping[str, Any] | None = None) -> bool:
        """What is recorded is fitted already."""
        return False

    def set_fans(self, share: float) -> bool:
        """Its fans turned long ago."""
        return False

    def probe(self) -> list[Probed]:
        """The recorded channels, with their first values."""
        if len(self._recording.time_s) == 0:
            return []
        first = [float(v) for v in self._recording.values[:, 0]]
        return [
            Probed(channel, None if math.isnan(value) else value, "ok")
            for channel, value in zip(self._recording.channels, first, strict=True)
        ]

    def open_sources(
        self, roles: Mapping[str, str] | None = None, split: bool = False
    ) -> tuple[list[Source], DieWatch | None]:
        """The recording from its beginning. There is nothing to guard."""
        return [ReplaySource(self._recording, self._clock.now)], None

    def companions(self) -> list[Source]:
        """None: what this program costs now is no part of the recording."""
        return []

    def known_facts(self) -> dict[str, Any]:
        """A recording tells none."""
        return {}

    def guarded_by(self, guard: Guard | None) -> Guard | None:
        """The guard stands here."""
        return guard

    def lost(self) -> str | None:
        """It never is."""
        return None

    def loads(self) -> dict[str, str]:
        """None: the recorded load is in the samples."""
        return {}

    def make_load(
        self, name: str, threads: int | None = None, own: Mapping[str, OwnLoad] | None = None
    ) -> Load:
        """Always raises LoadError."""
        raise LoadError(f"{name}: a replayed run carries no further load; record with none")
