"""A source whose values a person types: a room thermometer on the wall, a meter without a plug."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence

from samovar.core.quantity import Channel

NAN = float("nan")


class HandSource:
    """Each channel holds the value typed last; before the first it is not known.

    `hold_s`: so long after it was typed a value still counts, by the run's clock; afterwards it is a gap.
    """

    name = "by hand"

    def __init__(self, channels: Sequence[Channel], now: Callable[[], float], hold_s: float = 600.0) -> None:
        self._channels = tuple(channels)
        self._now = now
        self._hold_s = hold_s
        self._lock = threading.Lock()
        self._values: dict[str, tuple[float, float]] = {}

    @property
    def channels(self) -> tuple[Channel, ...]:
        """What is typed in."""
        return self._channels

    def enter(self, name: str, value: float, seconds_ago: float = 0.0) -> None:
        """Take a value, read so many seconds ago. Raises KeyError: no such channel."""
        if all(c.name != name for c in self._channels):
            raise KeyError(name)
        with self._lock:
            self._values[name] = (self._now() - seconds_ago, value)

    def sample(self) -> list[float]:
        """The value of each channel that still counts, NaN for the others."""
        now = self._now()
        with self._lock:
            held = [self._values.get(c.name) for c in self._channels]
        return [v[1] if v is not None and now - v[0] <= self._hold_s else NAN for v in held]

    def close(self) -> None:
        """Nothing to let go of."""
