"""The run's clock: monotonic, so that a jump of the wall clock leaves a run's time alone."""

from __future__ import annotations

import threading
import time
from datetime import datetime, timezone
from typing import Protocol


class Clock(Protocol):
    """Time as the bench knows it. `speed` is how many of its seconds pass in one of ours."""

    speed: float

    def now(self) -> float:
        """Seconds on a scale that never goes back."""
        ...

    def wait_until(self, moment: float, wake: threading.Event | None = None) -> None:
        """Return at `moment`, or at once when `wake` is set."""
        ...

    def started(self) -> str:
        """The wall clock's date and time now, ISO 8601 in UTC."""
        ...


def wall_time() -> str:
    """The wall clock's date and time, ISO 8601 in UTC to the second."""
    return datetime.now(timezone.utc).replace(microsecond=0).isoformat().replace("+00:00", "Z")


def as_started(moment: datetime | None) -> str:
    """A moment as a run's beginning is kept, ISO 8601 in UTC: one without a zone is this machine's; now where there is
    none, or none that a clock could show."""
    if moment is None:
        return wall_time()
    try:
        return moment.astimezone(timezone.utc).replace(microsecond=0).isoformat().replace("+00:00", "Z")
    except (OverflowError, ValueError, OSError):
        return wall_time()


_BOOT_TIME = getattr(time, "CLOCK_BOOTTIME", None)


def running_time() -> float:
    """Seconds since an arbitrary moment, never set back, those that the machine slept through among them: a
    suspended machine leaves a gap in its run, not a seam."""
    return time.monotonic() if _BOOT_TIME is None else time.clock_gettime(_BOOT_TIME)


class ScaledClock:
    """A clock that runs `speed` times as fast as life, from the moment it is made."""

    def __init__(self, speed: float) -> None:
        self.speed = speed
        self._began = running_time()

    def now(self) -> float:
        """Its seconds since it was made."""
        return (running_time() - self._began) * self.speed

    def wait_until(self, moment: float, wake: threading.Event | None = None) -> None:
        """Sleep until a moment of its own, or until `wake` is set."""
        remaining = (moment - self.now()) / self.speed
        if remaining > 0:
            if wake is None:
                time.sleep(remaining)
            else:
                wake.wait(remaining)

    def started(self) -> str:
        """The wall clock's date and time now."""
        return wall_time()


class MonotonicClock(ScaledClock):
    """The machine's own monotonic clock."""

    def __init__(self) -> None:
        super().__init__(1.0)
