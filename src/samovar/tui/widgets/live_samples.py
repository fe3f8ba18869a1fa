"""The samples of a run under way as the strips want them, grown by what is new alone."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from samovar.core.envelope import Envelope
from samovar.core.quantity import Channel
from samovar.core.recording import Array
from samovar.tui.channel_view import with_bands

FIRST_COUNTED = 2
"""The first two samples do not count as gaps: rates have nothing to differ from yet."""


class LiveSamples:
    """Times and values with the rows that `with_bands` adds, and their envelope. `gaps` counts the samples
    in which a channel lacks its value; one that never gave a value has no gaps: it is not there. `plain` are the
    run's own channels, without the bands.

    Twice a second a long run is looked at anew: whatever has been looked at before is not copied or
    counted again.
    """

    def __init__(self, channels: tuple[Channel, ...], strides: Sequence[int] = ()) -> None:
        self.plain = channels
        self._strides = np.array(strides or [1] * len(channels), dtype=np.intp)
        self.channels, first = with_bands(channels, np.empty((len(channels), 0)))
        self._buffer = np.empty((first.shape[0], 1024))
        self.gaps = 0
        self._lacked = np.zeros(len(channels), dtype=np.int64)
        self._seen = np.zeros(len(channels), dtype=bool)
        self._count = 0
        self.envelope: Envelope | None = None

    @property
    def values(self) -> Array:
        """Shape (m, n) with the bands' medians last where there are any."""
        return self._buffer[:, : self._count]

    @property
    def speaking(self) -> int:
        """How many of its channels have given a value so far."""
        return int(self._seen.sum())

    @property
    def lacking(self) -> str | None:
        """The channel that lacked most values; None where none did."""
        return self.plain[int(self._lacked.argmax())].name if self._lacked.any() else None

    def extend(self, time_s: Array, values: Array) -> None:
        """Go on to the newest sample; `time_s`, shape (n,), and `values`, shape (m, n), only ever grow."""
        known, count = self._count, len(time_s)
        new = values[:, known:count]
        while self._buffer.shape[1] < count:
            self._buffer = np.concatenate([self._buffer, np.empty_like(self._buffer)], axis=1)
        self._buffer[:, known:count] = with_bands(self.plain, new)[1]
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
            self._lacked[:] = 0
        often = self._seen & (self._strides == 1)
        missing = np.isnan(values[often, known:count])
        self.gaps += int(np.count_nonzero(missing.any(axis=0)))
        self._lacked[often] += missing.sum(axis=1)
        # A channel that is asked less often lacks a value where none came in a whole turn of its own.
        for stride in np.unique(self._strides[self._strides > 1]):
            turns = range(-(-known // stride) * int(stride), count - int(stride) + 1, int(stride))
            rows = self._seen & (self._strides == stride)
            for turn in turns:
                empty = np.isnan(values[rows, turn : turn + stride]).all(axis=1)
                self.gaps += bool(empty.any())
                self._lacked[rows] += empty


def logging_words(channels: int, samples: LiveSamples | None) -> str:
    """How many channels there are, and whether any of them lacks values."""
    if samples is None or samples.gaps == 0:
        return f"{channels} channels, no gaps"
    where = f", most in {samples.lacking}" if samples.lacking is not None else ""
    return f"{channels} channels, {samples.gaps} samples with a gap{where}"
