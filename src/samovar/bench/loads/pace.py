"""When a worker works and when it rests: all the time, a share of every period, or unevenly as in a game."""

from __future__ import annotations

import random
import time
from collections.abc import Callable

FRAME_S = 1.0 / 60.0
SCENE_S, PAUSE_S = 20.0, 1.5


class SteadyPace:
    """Busy for `duty` of every `period_s`."""

    def __init__(
        self, duty: float, period_s: float,
        now: Callable[[], float] = time.monotonic, sleep: Callable[[float], None] = time.sleep,
    ) -> None:  # fmt: skip
        self._duty, self._period_s = duty, period_s
        self._now, self._sleep = now, sleep
        self._began = now()

    def rest(self) -> None:
        """Called after each block of work: sleeps where this period's work is done."""
        if self._duty >= 1.0:
            return
        now = self._now()
        if now - self._began >= self._duty * self._period_s:
            # A block may run past its share: the rest grows with it, so that the duty is kept.
            self._sleep(max(0.0, (now - self._began) * (1.0 / self._duty - 1.0)))
            self._began = self._now()


class GamePace:
    """Sixty frames a second: the first thread nearly full, the others uneven, all of them still for a moment
    every 20 s. The seed decides the unevenness, so it is the same each time."""

    def __init__(
        self, index: int, seed: int,
        now: Callable[[], float] = time.monotonic, sleep: Callable[[float], None] = time.sleep,
    ) -> None:  # fmt: skip
        self._random = random.Random(seed * 101 + index)
        self._share = 0.9 if index == 0 else self._random.uniform(0.2, 0.6)
        self._now, self._sleep = now, sleep
        self._first = self._frame = now()
        self._wanted = self._share

    def rest(self) -> None:
        """Sleeps to the next frame where this one's work is done."""
        now = self._now()
        if now - self._frame < self._wanted * FRAME_S:
            return
        due = self._frame + FRAME_S
        if (now - self._first) % SCENE_S > SCENE_S - PAUSE_S:
            due = now + PAUSE_S
        self._sleep(max(0.0, due - now))
        self._frame = self._now()
        self._wanted = min(0.95, max(0.05, self._random.gauss(self._share, 0.12)))
