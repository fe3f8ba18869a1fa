"""This program's own share of a processor, as a channel: the logger that warms the chip is seen doing it."""

from __future__ import annotations

import time
from collections.abc import Callable

from samovar.core.quantity import Channel

CHANNEL = Channel("Samovar itself", "load", "%", "other", "board", "own:cpu")


class OwnShare:
    """Processor time of this process with all its threads since the last sample, in % of one core. The workers of
    a load are processes of their own and not in it."""

    name = "own share"

    def __init__(
        self, now: Callable[[], float] = time.monotonic, spent: Callable[[], float] = time.process_time
    ) -> None:
        self._now, self._spent = now, spent
        self._last: tuple[float, float] | None = None

    @property
    def channels(self) -> tuple[Channel, ...]:
        """One channel."""
        return (CHANNEL,)

    def sample(self) -> list[float]:
        """The share since the last call; NaN at the first."""
        now, spent = self._now(), self._spent()
        last, self._last = self._last, (now, spent)
        if last is None or now <= last[0]:
            return [float("nan")]
        return [100.0 * (spent - last[1]) / (now - last[0])]

    def close(self) -> None:
        """Nothing to let go of."""
