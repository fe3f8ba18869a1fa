"""A recorded run as a source: its samples again, at the pace of any clock."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from samovar.core.quantity import Channel
from samovar.core.recording import Recording

NAN = float("nan")


class ReplaySource:
    """Gives, at each moment, the sample that was recorded last before it; nothing once it is over, and nothing
    inside a gap of the recording.

    Args:
        recording: what was recorded.
        now: the clock it is replayed by; a clock that runs fast replays fast.
    """

    name = "replay"

    def __init__(self, recording: Recording, now: Callable[[], float]) -> None:
        self._recording = recording
        self._now = now
        self._begin: float | None = None
        # A sample counts until the next is due, and half an interval longer, so that no rounding opens a gap.
        self._reach_s = 1.5 * (recording.interval_s or 1.0)

    @property
    def channels(self) -> tuple[Channel, ...]:
        """The recording's channels."""
        return self._recording.channels

    @property
    def over(self) -> bool:
        """Whether its last sample lies behind."""
        return (
            self._begin is not None and self._now() - self._begin > self._recording.duration_s + self._reach_s
        )

    def sample(self) -> list[float]:
        """The sample that was current at this moment of the recording, NaN where there was none."""
        now = self._now()
        if self._begin is None:
            self._begin = now
        time_s = self._recording.time_s
        at_s = now - self._begin + (float(time_s[0]) if len(time_s) else 0.0)
        index = int(np.searchsorted(time_s, at_s + 1e-9, side="right")) - 1
        if index < 0 or at_s - float(time_s[index]) > self._reach_s:
            return [NAN] * len(self.channels)
        return [float(v) for v in self._recording.values[:, index]]

    def close(self) -> None:
        """Nothing to let go of."""
