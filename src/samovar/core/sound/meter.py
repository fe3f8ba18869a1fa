"""A sound level meter for sound that is still coming in: F ten times a second, and third octaves once a second.

The same weightings and bands as for a whole recording (`weighting`, `bands`), put on piece by piece. A piece is weighted with
what came before it, as long as the network remembers, and that is thrown away again (overlap-save: A. V. Oppenheim and
R. W. Schafer, "Discrete-Time Signal Processing", 8.7.3).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.fft import irfft, next_fast_len, rfft
from scipy.signal import lfilter
from scipy.signal.windows import hann

from samovar.core.quantity import Channel
from samovar.core.recording import Array
from samovar.core.sound.bands import bands_over
from samovar.core.sound.listening import AT_TOP, FULL_SCALE_SQUARE
from samovar.core.sound.weighting import FAST_S, a_response

PIECE_S = 0.5
"""Sound is weighted in pieces of this length."""
REMEMBERED_S = 0.25
"""The network's slowest pole, at 20.6 Hz, has forgotten all but 1e-14 of what came so long before."""
TOLD_EVERY_S = 0.1
BANDS_EVERY_S = 1.0
SILENCE_DB = -150.0
"""Levels end here: under the last bit of 24."""


@dataclass(frozen=True)
class Told:
    """What one piece of sound says, all over a full-scale sine of 1 kHz.

    Attributes:
        at_s: where it ends, seconds of sound from the first sample.
        mean_square: of the A-weighted signal.
        fast_db: F at every tenth of a second, dB, shape (n,).
        at_end: whether samples stood at the end of the scale.
        bands_db: the third octaves of the last second, dB, unweighted, shape (m,); None where no second ended here.
    """

    at_s: float
    mean_square: float
    fast_db: Array
    at_end: bool
    bands_db: Array | None


class Meter:
    """Takes blocks of samples of any length, and tells of each half second.

    Args:
        rate_hz: the sound's rate.
    """

    def __init__(self, rate_hz: float) -> None:
        self.rate_hz = rate_hz
        self._piece = round(PIECE_S * rate_hz)
        self._before = np.zeros(round(REMEMBERED_S * rate_hz))
        size = next_fast_len(self._piece + len(self._before), real=True)
        self._size = size
        self._network = a_response(np.arange(size // 2 + 1) * (rate_hz / size))
        self._keep = float(np.exp(-1.0 / (FAST_S * rate_hz)))
        self._state = np.zeros(1)
        self._waiting: list[Array] = []
        self._count = 0
        self._second = np.empty(0)
        self._window = hann(round(BANDS_EVERY_S * rate_hz), sym=False)
        length = len(self._window)
        self._bands = bands_over(length // 2 + 1, rate_hz / length, rate_hz)
        self._pieces = 0

    @property
    def bands_hz(self) -> tuple[float, ...]:
        """The third octaves it tells of, by their nominal frequencies."""
        return tuple(band.nominal_hz for band in self._bands)

    def hear(self, samples: Array) -> list[Told]:
        """Take samples, 1 at full scale, shape (n,); the answer is what the pieces they complete say."""
        self._waiting.append(samples)
        self._count += len(samples)
        if self._count < self._piece:
            return []
        every: Array = np.concatenate(self._waiting)
        told = []
        while len(every) >= self._piece:
            told.append(self._tell(every[: self._piece]))
            every = every[self._piece :]
        self._waiting, self._count = [every], len(every)
        return told

    def _tell(self, piece: Array) -> Told:
        self._pieces += 1
        spectrum = rfft(np.concatenate([self._before, piece]), self._size)
        start = len(self._before)
        weighted = irfft(spectrum * self._network, self._size)[start : start + self._piece]
        self._before = piece[-start:]
        squares = weighted * weighted
        fast, self._state = lfilter([1.0 - self._keep], [1.0, -self._keep], squares, zi=self._state)
        stride = max(1, round(TOLD_EVERY_S * self.rate_hz))
        self._second = np.concatenate([self._second, piece])
        bands = None
        if len(self._second) >= len(self._window):
            bands = self._spectrum(self._second[: len(self._window)])
            self._second = np.empty(0)
        return Told(
            self._pieces * self._piece / self.rate_hz,
            float(squares.mean()),
            in_db(fast[stride - 1 :: stride]),
            bool(np.abs(piece).max() >= AT_TOP),
            bands,
        )

    def _spectrum(self, second: Array) -> Array:
        x = second - float(second.mean())
        part = rfft(x * self._window)
        power = part.real**2 + part.imag**2
        power[1:] *= 2.0
        total = float(power.sum())
        power *= float(x @ x) / len(x) / total if total > 0.0 else 0.0
        return in_db([band.of(power) for band in self._bands])


LEVELS = (("level", "noise"), ("least F", "fast"), ("greatest F", "fast"))
"""What is told besides the bands, and its quantity."""


def sound_channels(
    name: str, bands_hz: Sequence[float], level_unit: str, band_unit: str, accuracy: str = ""
) -> tuple[Channel, ...]:
    """The channels of something that listens: the level, F's least and greatest, and the third octaves."""
    levels = (
        Channel(f"{name} {what}", quantity, level_unit, "other", "case", f"{name}:{what}", accuracy)
        for what, quantity in LEVELS
    )
    bands = (
        Channel(f"{name} {hz:g} Hz", "band", band_unit, "other", "case", f"{name}:{hz:g}") for hz in bands_hz
    )
    return (*levels, *bands)


def folded(pieces: Sequence[Told]) -> tuple[Array, Array | None]:
    """What several pieces say together: level, least and greatest F, dB, shape (3,), and the mean third octaves, shape (m,);
    None where no second ended in them."""
    level = in_db([float(np.mean([piece.mean_square for piece in pieces]))])[0]
    fast = np.concatenate([piece.fast_db for piece in pieces])
    bands = [piece.bands_db for piece in pieces if piece.bands_db is not None]
    mean = np.array([energy_mean_db(row) for row in np.array(bands).T]) if bands else None
    return np.array([level, fast.min(), fast.max()]), mean


def in_db(squares: Sequence[float] | Array) -> Array:
    """Mean squares over a full-scale sine's, dB, shape (n,), none under `SILENCE_DB`."""
    return np.asarray(
        np.maximum(
            SILENCE_DB, 10.0 * np.log10(np.maximum(np.asarray(squares, float), 1e-30) / FULL_SCALE_SQUARE)
        )
    )


def energy_mean_db(levels_db: Array) -> float:
    """The level of the mean energy of levels, dB, shape (n,); those that are not numbers are left out. NaN without any."""
    known = levels_db[np.isfinite(levels_db)]
    return float(10.0 * np.log10(np.mean(10.0 ** (0.1 * known)))) if len(known) else float("nan")
