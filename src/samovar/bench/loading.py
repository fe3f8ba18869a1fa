"""The loads of a recording: the one of the course, and those that a person lets join in mid-run."""

from __future__ import annotations

import math
import threading
from collections.abc import Sequence

from samovar.bench.clock import Clock
from samovar.bench.guard import GuardThread
from samovar.bench.loads.protocol import Load, LoadEnd, Told, stop_all
from samovar.core.quantity import Channel

NAN = math.nan


class Loading:
    """Puts loads on and takes them off; safe to be told `off` from any thread, at any moment: it never waits for a
    load that is just being put on, which is then taken off by whoever put it on.

    Args:
        loads: what the course puts on, one for each of its steps, or one for all.
        clock: the run's clock.
    """

    def __init__(self, loads: Sequence[Load], clock: Clock) -> None:
        self._loads = list(loads)
        self.load: Load | None = self._loads[0] if self._loads else None
        self._joined: dict[str, Load] = {}
        self._clock = clock
        self._lock = threading.Lock()
        self._ending = threading.RLock()
        self._turn = 0
        self._said: list[str] = []
        self._last_work: tuple[float, dict[str, float]] | None = None
        self.on = False
        self.watch: GuardThread | None = None

    def step(self, index: int) -> bool:
        """Put on the load of this step of the course; False where it is on already, or was to be taken off before it
        was on. Raises LoadError."""
        wanted = self._loads[min(index, len(self._loads) - 1)]
        if self.on and wanted is self.load and wanted.ended() is None:
            return False
        self.off()
        with self._lock:
            self.load, turn = wanted, self._turn
        wanted.start()
        with self._lock:
            self.on = self._turn == turn
            if self.on and self.watch:
                self.watch.armed.set()
        if not self.on:
            self._end([wanted])
            return False
        self._last_work = (self._clock.now(), _done(wanted))
        if isinstance(wanted, Told):
            self._said += wanted.told()
        return True

    def join(self, load: Load) -> bool:
        """Put another load on beside the course's; False where none is on, or this one is. Raises LoadError."""
        with self._lock:
            turn = self._turn
            if not self.on or load.name in self._joined:
                return False
        load.start()
        with self._lock:
            still = self.on and self._turn == turn
            if still:
                self._joined[load.name] = load
        if not still:
            self._end([load])
        return still

    def leave(self, name: str) -> bool:
        """Take a load off that joined; False where there is none of this name."""
        with self._lock:
            load = self._joined.pop(name, None)
        if load is not None:
            self._end([load])
        return load is not None

    @property
    def joined(self) -> list[str]:
        """The loads that joined and are still on."""
        with self._lock:
            return list(self._joined)

    def ended(self) -> list[tuple[Load, LoadEnd]]:
        """The loads that ended by themselves: the course's, while it is on, and any that joined, which is on no more."""
        with self._lock:
            running = [self.load, *self._joined.values()] if self.on and self.load else []
        found = [(load, end) for load in running if (end := load.ended()) is not None]
        for load, _ in found:
            if load is not self.load:
                self.leave(load.name)
        return found

    def off(self) -> bool:
        """Take everything off, the course's load first; False where nothing was on. When it returns nothing runs any
        more, but for what `said` tells."""
        with self._lock:
            self._turn += 1
            was_on, self.on = self.on, False
            ending = [self.load, *self._joined.values()] if was_on and self.load else []
            self._joined.clear()
            if self.watch:
                self.watch.armed.clear()
        self._end(ending)
        return was_on

    def _end(self, loads: list[Load]) -> None:
        # Whoever comes second waits until what is being ended has ended.
        with self._ending:
            self._said += stop_all(loads)

    def said(self) -> list[str]:
        """What could not be ended since the last call, and what a load has to say of its work, in words."""
        said, self._said = self._said, []
        return said

    def work_rates(self, channels: Sequence[Channel]) -> list[float]:
        """Units of work a second since the last call, one for each channel; NaN where that is not known yet, or where the load
        that is on counts none of it."""
        assert self.load is not None
        if not self.on:
            self._last_work = None
            return [0.0] * len(channels)
        now, done = self._clock.now(), _done(self.load)
        last, self._last_work = self._last_work, (now, done)
        if last is None or now <= last[0]:
            return [NAN] * len(channels)
        before = last[1]
        return [(done.get(c.id, NAN) - before.get(c.id, NAN)) / (now - last[0]) for c in channels]


def _done(load: Load) -> dict[str, float]:
    """What a load has done, by the channel it is counted in."""
    return {channel.id: units for channel, units in zip(load.work, load.work_done())}
