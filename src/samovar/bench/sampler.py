"""Sampling several sources at one cadence, each as often as it is asked for, none waiting for another."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass

from samovar.bench.clock import Clock
from samovar.core.quantity import Channel
from samovar.sources.async_reader import Answer, AsyncReader
from samovar.sources.protocol import Belated, Gone, Source

NAN = float("nan")
PATIENCE_OF_FAST_RIGS_S = 2.0
"""A rig that lives faster than life waits for us: there is no need to hurry its sensors."""
HANGS_AFTER_S = 5.0
"""A source that owes an answer for so long is said to hang; one that is only slow answers sooner."""


@dataclass(frozen=True, slots=True)
class Late:
    """What a source said after its sample had gone: the values of its channels from place `first` on, and the moment
    it said them, by the run's clock."""

    moment_s: float
    first: int
    values: list[float]


class Sampler:
    """All sources of a recording.

    Args:
        sources: what is sampled, in this order; `channels` joins theirs.
        clock: the run's clock.
        interval_s: from tick to tick.
        rates_hz: how often each source is asked, by its name; at every tick where it is not named.
        patience_s: how long the sources are waited for at each tick; None waits without limit and without a
            thread, for sources that cannot hang.
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
        self._first = [sum(len(s.channels) for s in self._sources[:k]) for k in range(len(self._sources))]
        self._readers = (
            [AsyncReader(s.sample, clock.now, f"source-{s.name}") for s in self._sources]
            if patience_s is not None
            else []
        )
        self._problems: dict[str, str] = {}
        self._said: list[str] = []

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

    def collect(self, tick: int) -> tuple[list[float], list[Late]]:
        """One value for each channel, NaN where a source is not asked at this tick or does not answer in time;
        and what came since the last call, too late for its own sample."""
        # A tick that was missed must not cost a slow source its turn: what counts is the turns passed since.
        due = [tick // every > last for every, last in zip(self._every, self._last, strict=True)]
        for k, asked in enumerate(due):
            if asked:
                self._last[k] = tick // self._every[k]
        values = [NAN] * sum(len(s.channels) for s in self._sources)
        if self._patience_s is None:
            for source, first, asked in zip(self._sources, self._first, due, strict=True):
                if asked:
                    values[first : first + len(source.channels)] = source.sample()
            return values, []
        late = self._late()
        waiting = [
            k
            for k, (reader, asked) in enumerate(zip(self._readers, due, strict=True))
            if asked and reader.ask()
        ]
        deadline = time.monotonic() + self._patience()
        for k in waiting:
            answer = self._readers[k].take(max(1e-6, deadline - time.monotonic()))
            if answer is not None:
                first = self._first[k]
                fresh = self._values(k, answer)
                values[first : first + len(fresh)] = fresh
        self._look_for_silence()
        return values, late

    def said(self) -> list[str]:
        """What went wrong with a source, or right again, since the last call, in words."""
        said, self._said = self._said, []
        return said

    def _patience(self) -> float:
        if self._clock.speed != 1.0 or self._patience_s is None:
            return PATIENCE_OF_FAST_RIGS_S
        return max(0.02, min(self._patience_s, 0.5 * self._interval_s))

    def _late(self) -> list[Late]:
        """The answers that came after their own sample had gone."""
        found = []
        for k, reader in enumerate(self._readers):
            answer = reader.take()
            if answer is not None:
                found.append(Late(answer.came_s, self._first[k], self._values(k, answer)))
        for source, first in zip(self._sources, self._first, strict=True):
            if isinstance(source, Belated):
                found += [Late(moment_s, first, values) for moment_s, values in source.belated()]
        return found

    def _values(self, k: int, answer: Answer[list[float]]) -> list[float]:
        """What a source said, as many values as it has channels; NaN and a word where it failed."""
        source, said = self._sources[k], answer.said
        if isinstance(said, list) and len(said) == len(source.channels):
            self._well(source.name)
            return said
        if isinstance(said, Gone):
            self._ill(source.name, str(said))
            return [NAN] * len(source.channels)
        if isinstance(said, Exception):
            reason = f"{type(said).__name__}: {said}".rstrip(": ")
        else:
            reason = f"it gave {said!r} for {len(source.channels)} channels"[:120]
        self._ill(source.name, f"no value ({reason})")
        return [NAN] * len(source.channels)

    def _look_for_silence(self) -> None:
        for source, reader in zip(self._sources, self._readers, strict=True):
            if reader.silent_s > HANGS_AFTER_S * self._clock.speed:
                self._ill(source.name, f"no answer for {HANGS_AFTER_S:.0f} s, it hangs")

    def _ill(self, name: str, words: str) -> None:
        if name not in self._problems:
            self._problems[name] = words
            self._said.append(f"{name}: {words}")

    def _well(self, name: str) -> None:
        if self._problems.pop(name, None) is not None:
            self._said.append(f"{name}: answers again")

    def close(self) -> None:
        """Close every source; one that hangs is closed once it answers."""
        for source, reader in zip(self._sources, self._readers, strict=False):
            reader.close(source.close)
        if not self._readers:
            for source in self._sources:
                source.close()
