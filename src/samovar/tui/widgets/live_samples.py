"""The samples of a run under way as the strips want them, grown by what is new alone."""

from __future__ import annotations

import numpy as np

from samovar.core.envelope import Envelope
from samovar.core.quantity import Channel
from samovar.core.recording import Array
from samovar.tui.widgets.strip_plan import with_means

FIRST_COUNTED = 2
"""The first two samples do not count as gaps: rates have nothing to differ from yet."""


class LiveSamples:
    """Times and values with the row that `with_means` adds, and their envelope. `gaps` counts the samples
    in which a channel lacks its value; one that never gave a value has no gaps: it is not there.

    Twice a second a long run is looked at anew: whatever has been looked at before is not copied or
    counted again.
    """

    def __init__(self, channels: tuple[Channel, ...]) -> None:
        self._plain = channels
        self.channels, first = with_means(channels, np.empty((len(channels), 0)))
        self._buffer = np.empty((first.shape[0], 1024))
        self.gaps = 0
        self._seen = np.zeros(len(channels), dtype=bool)
        self._count = 0
        self.envelope: Envelope | None = None

    @property
    def values(self) -> Array:
        """Shape (m, n) with the mean's row last where there is one."""
        return self._buffer[:, : self._count]

    def extend(self, time_s: Array, values: Array) -> None:
        """Go on to the newest sample; `time_s`, shape (n,), and `values`, shape (m, n), only ever grow."""
        known, count = self._count, len(time_s)
        new = values[:, known:count]
        while self._buffer.shape[1] < count:
            self._buffer = np.concatenate([self._buffer, np.empty_like(self._buffer)], axis=1)
        self._buffer[:, known:count] = with_means(self._plain, new)[1]
        self._count_gaps(values, max(known, FIRST_COUNTED), count)
        self._count = count
        if self.envelope is None:
            self.envelope = Envelope(time_s, self.values)
        else:
            self.envelope.extend(time_s, self.values)

    def _count_gaps(self, values: Array, known: int, count: int) -> None:
        if count <= known:
            return
        seen = self._seen | ~np.isnan(values[:, known:count]).all(axis=1)
        if bool((seen != self._seen).any()):
            # A channel spoke up for the first time: what it lacked before is a gap after all.
            self._seen, self.gaps, known = seen, 0, FIRST_COUNTED
        self.gaps += int(np.count_nonzero(np.isnan(values[self._seen, known:count]).any(axis=0)))
