"""The loads of a recording: the one of the course, and those that a person lets join in mid-run."""

from __future__ import annotations

import math
import threading
from collections.abc import Sequence

from samovar.bench.clock import Clock
from samovar.bench.guard import GuardThread
from samovar.bench.loads.protocol import Load

NAN = math.nan


class Loading:
    """Puts loads on and takes them off; safe to be told `off` from any thread, at any moment.

    Args:
        loads: what the course puts on, one for each of its steps, or one for all.
        clock: the run's clock.
    """

    def __init__(self, loads: Sequence[Load], clock: Clock) -> None:
        self._loads = list(loads)
        self.load: Load | None = self._loads[0] if self._loads else None
        self._joined: dict[str, Load] = {}
        self._clock = clock
        self._lock = threading.RLock()
        self._last_work: tuple[float, float] | None = None
        self.on = False
        self.watch: GuardThread | None = None

    def step(self, index: int) -> bool:
        """Put on the load of this step of the course; False where it is on already. Raises LoadError."""
        wanted = self._loads[min(index, len(self._loads) - 1)]
        if self.on and wanted is self.load:
            return False
        with self._lock:
            self.off()
            self.load = wanted
            self.load.start()
            self.on = True
            self._last_work = (self._clock.now(), self.load.work_done())
        if self.watch:
            self.watch.armed.set()
        return True

    def join(self, load: Load) -> None:
        """Put another load on beside the course's. Raises LoadError."""
        with self._lock:
            if self.on and load.name not in self._joined:
                load.start()
                self._joined[load.name] = load

    def leave(self, name: str) -> bool:
        """Take a load off that joined; False where there is none of this name."""
        with self._lock:
            load = self._joined.pop(name, None)
            if load is not None:
                load.stop()
        return load is not None

    @property
    def joined(self) -> list[str]:
        """The loads that joined and are still on."""
        with self._lock:
            return list(self._joined)

    def off(self) -> bool:
        """Take everything off; False where nothing was on."""
        with self._lock:
            for load in self._joined.values():
                load.stop()
            self._joined.clear()
            if self.load is None or not self.on:
                return False
            self.on = False
            if self.watch:
                self.watch.armed.clear()
            self.load.stop()
            return True

    def work_rate(self) -> float:
        """Units of work a second since the last call; NaN where that is not known yet."""
        assert self.load is not None
        if not self.on:
            self._last_work = None
            return 0.0
        now, done = self._clock.now(), self.load.work_done()
        last, self._last_work = self._last_work, (now, done)
        return (done - last[1]) / (now - last[0]) if last and now > last[0] else NAN
