"""Sampling several sources at one cadence, each as often as it is asked for, none waiting for another."""

from __future__ import annotations

import threading
from collections.abc import Sequence

from samovar.bench.clock import Clock
from samovar.core.quantity import Channel
from samovar.sources.protocol import Source

NAN = float("nan")


class _Reader:
    """Samples one source on its own thread, so that a source that hangs holds up only itself."""

    def __init__(self, source: Source) -> None:
        self.source = source
        self._asked = threading.Semaphore(0)
        self.answered = threading.Event()
        self.busy = False
        self._closing = False
        self.values: list[float] = []
        self._thread = threading.Thread(target=self._serve, name=f"source-{source.name}", daemon=True)
        self._thread.start()

    def close(self) -> None:
        """End the thread and close the source; one that hangs keeps both until it answers."""
        self._closing = True
        self._asked.release()

    def ask(self) -> None:
        if not self.busy:
            self.busy = True
            self.answered.clear()
            self._asked.release()

    def _serve(self) -> None:
        while True:
            self._asked.acquire()
            if self._closing:
                self.source.close()
                return
            self.values = self.source.sample()
            self.busy = False
            self.answered.set()


class Sampler:
    """All sources of a recording.

    Args:
        sources: what is sampled, in this order; `channels` joins theirs.
        clock: the run's clock.
        interval_s: from tick to tick.
        rates_hz: how often each source is asked, by its name; at every tick where it is not named.
        patience_s: how long a source is waited for; None waits without limit and without a thread, for
            sources that cannot hang.
    """

    def __init__(
        self,
        sources: Sequence[Source],
        clock: Clock,
        interval_s: float,
        rates_hz: dict[str, float],
        patience_s: float | None,
    ) -> None:
        self._sources = list(sources)
        self._clock = clock
        self._interval_s = interval_s
        self._patience_s = patience_s
        self._every = [
            max(1, round(1.0 / (rates_hz[s.name] * interval_s))) if s.name in rates_hz else 1
            for s in self._sources
        ]
        self._last = [-1] * len(self._sources)
        self._readers = [_Reader(s) for s in self._sources] if patience_s is not None else []

    @property
    def channels(self) -> tuple[Channel, ...]:
        """The channels of all sources."""
        return tuple(c for s in self._sources for c in s.channels)

    @property
    def strides(self) -> list[int]:
        """For each channel, at every how many ticks it is asked."""
        return [
            every for s, every in zip(self._sources, self._every, strict=True) for _ in range(len(s.channels))
        ]

    def collect(self, tick: int) -> list[float]:
        """One value for each channel; NaN where a source is not asked at this tick, or does not answer in time."""
        # A tick that was missed must not cost a slow source its turn: what counts is the turns passed since.
        due = [tick // every > last for every, last in zip(self._every, self._last, strict=True)]
        for k, asked in enumerate(due):
            if asked:
                self._last[k] = tick // self._every[k]
        if self._patience_s is None:
            rows = [
                s.sample() if asked else [NAN] * len(s.channels)
                for s, asked in zip(self._sources, due, strict=True)
            ]
            return [v for row in rows for v in row]
        for reader, asked in zip(self._readers, due, strict=True):
            if asked:
                reader.ask()
        # A rig that lives faster than life waits for us: there is no need to hurry its sensors.
        hurry = self._clock.speed == 1.0
        patience = max(0.02, min(self._patience_s, 0.5 * self._interval_s)) if hurry else 2.0
        values: list[float] = []
        for reader, asked in zip(self._readers, due, strict=True):
            if asked and reader.answered.wait(patience):
                values.extend(reader.values)
            else:
                values.extend([NAN] * len(reader.source.channels))
        return values

    def close(self) -> None:
        """Close every source."""
        for reader in self._readers:
            reader.close()
        if not self._readers:
            for source in self._sources:
                source.close()
