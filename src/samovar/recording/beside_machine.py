"""Another machine beside the one under test, measured in the same run: what feeds it, or what it feeds.

It is an instrument like any other: its channels bear its name, none of them is taken for the machine under test's own, and
one that cannot be reached is a gap in them alone.
"""

from __future__ import annotations

import math
import threading
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from samovar.agent.link import LinkError, Unreachable
from samovar.agent.machine import FarMachine
from samovar.bench.clock import Clock
from samovar.bench.loads.protocol import LoadError
from samovar.core.instrument import Instrument
from samovar.core.quantity import Channel
from samovar.core.recording import Array
from samovar.recording.late_titles import told_at
from samovar.sources.protocol import Belated, Probed, Source

NAN = float("nan")
REACHED_WITHIN_S = 8.0
"""So long the beginning of a run waits for it; one that comes later joins it from then on."""
AFTER_S = 0.25
"""What is asked at a sample's moment is answered a little later."""
COUNTS_S = 3.0
"""A value of one that came later counts for so long."""


class BesideMachine:
    """One machine that a command reaches an agent on.

    Args:
        instrument: its address holds the command.
        clock: the run's clock.
    """

    def __init__(self, instrument: Instrument, clock: Clock) -> None:
        self.name = instrument.name
        self._clock = clock
        self._command = instrument.command
        self._machine: FarMachine | None = None
        self._source: Source | None = None
        self._channels: tuple[Channel, ...] = ()
        self._closed = False
        self._came_later: list[tuple[float, list[float]]] = []
        self._lock = threading.Lock()
        self.trouble = f"no word from an agent in {REACHED_WITHIN_S:g} s"
        reaching = threading.Thread(target=self._reach, name=f"reach-{self.name}", daemon=True)
        reaching.start()
        reaching.join(REACHED_WITHIN_S)
        with self._lock:
            if self._source is not None:
                self._channels = self._named(self._source.channels)

    def _reach(self) -> None:
        try:
            # It never ends a run by being away, and is looked for as long as that lasts.
            machine = FarMachine(self._command, lost_after_s=math.inf)
        except Unreachable as problem:
            self.trouble = str(problem)
            return
        try:
            sources, _ = machine.open_sources()
        except LoadError as problem:
            self.trouble = str(problem)
            machine.close()
            return
        with self._lock:
            if not self._closed:
                self._machine, self._source = machine, sources[0]
                return
        machine.close()

    def _named(self, channels: Sequence[Channel]) -> tuple[Channel, ...]:
        """Its channels under its name, none with a part in the machine under test."""
        return tuple(
            replace(one, name=f"{self.name} {one.name}", role="other", domain="case", id=f"{self.name}:{one.id or one.name}")
            for one in channels
        )  # fmt: skip

    @property
    def channels(self) -> tuple[Channel, ...]:
        """Its channels; none where it could not be reached in time."""
        return self._channels

    def sample(self) -> list[float]:
        """What its sensors say now; NaN where that does not come in time. Raises Gone: the link is cut."""
        source = self._source
        if source is None or self._channels:
            return source.sample() if source is not None else []
        # Reached after the run had begun: what it says is kept for `late`, at the pace of the run.
        row = source.sample()
        with self._lock:
            self._came_later.append((self._clock.now(), row))
        return []

    def late(self, moments_s: Array) -> tuple[tuple[Channel, ...], Array]:
        """What it measures since it was reached, where that was after the run had begun: see `late_titles`."""
        with self._lock:
            rows = list(self._came_later)
        if self._channels or self._source is None or not rows:
            return (), np.empty((0, len(moments_s)))
        seen_s = np.array([at_s for at_s, _ in rows])
        told = np.array([row for _, row in rows]).T
        rows_at = told_at(seen_s, told, moments_s + AFTER_S, COUNTS_S + AFTER_S)
        return self._named(self._source.channels), rows_at

    def belated(self) -> list[tuple[float, list[float]]]:
        """What came too late for its own sample."""
        if not isinstance(self._source, Belated) or not self._channels or self._machine is None:
            return []
        # What came over the wire bears this program's time; a machine under test that lives faster has its own.
        apart_s = self._clock.now() - self._machine.clock.now()
        return [(moment_s + apart_s, values) for moment_s, values in self._source.belated()]

    def probed(self, patience_s: float = 0.0) -> list[Probed]:
        """What it says now; one channel without a value where it cannot be reached."""
        if self._machine is not None and self._channels:
            try:
                found = self._machine.probe()
            except LinkError as problem:
                return [Probed(c, None, "unreadable", str(problem)) for c in self._channels]
            return [
                replace(one, channel=channel)
                for one, channel in zip(found, self._named([one.channel for one in found]), strict=True)
            ]
        unknown = Channel(self.name, "load", "%", "other", "case", f"{self.name}:")
        return [Probed(unknown, None, "unreadable", self.trouble)]

    def close(self) -> None:
        """Take leave of its agent."""
        with self._lock:
            self._closed = True
            machine, self._machine = self._machine, None
        if machine is not None:
            machine.close()
