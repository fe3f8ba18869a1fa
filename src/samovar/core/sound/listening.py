"""What is heard in a recording before anything is known of its calibration: levels over full scale, spectrum, swing, faults.

Sources: IEC 61672-1:2013 for A-weighting, F and the equivalent level; percentile levels as the levels exceeded for so much of the
time (ISO 1996-1:2016, 3.1.5). Levels here are in dB over a full-scale sine of 1 kHz.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from samovar.core.recording import Array
from samovar.core.sound.bands import Spectrum, spectrum_of
from samovar.core.sound.weighting import FAST_S, a_weighted, time_weighted
from samovar.core.uncertainty import mean_of

FULL_SCALE_SQUARE = 0.5
"""The mean square of a full-scale sine."""
SEGMENT_S = 2.0
"""Windows of half a hertz: fine enough for tones and the lowest band, short enough to be averaged."""
SHORTEST_S = 1.0
"""Less than this is no recording of a fan."""
RUN_IN_S = 5.0 * FAST_S
"""F has risen to within 0.03 dB of a steady sound by then; what it shows before belongs to its own beginning."""
FOLLOWED_HZ = 1000.0
"""So often F is kept for percentiles: it moves by less than 0.04 dB in between."""
BLOCK_S = 0.125
SLOW_HZ = 20.0
"""So often the level is looked at for a swing."""
LEAST_PERIODS = 3
REGULAR = 0.45
"""A swing is regular where the level is so alike to itself one period later (its autocorrelation)."""
SAME_PERIOD = 0.8
"""A likeness of this share of the best is a period's own."""
LEAST_SWING_DB = 0.25
KNOCK_DB, KNOCK_S = 10.0, 1.0
"""What stands out of the usual level by so much, for no longer than this, is a knock, not the fan."""
GAIN_DB, AFTER_S, SPREADS = 1.0, 0.5, 2.0
"""A fan's own level is never so much, and so many times its spread, under its median for so long; a gain that was turned down is."""
LOW_HZ, LOW_TIMES = 50.0, 100.0
"""Where so many times more power lies under this frequency than over it, wind or a hand was at the microphone."""
AT_TOP = 0.985
FLAT_SAMPLES = 3
STEEP_STEPS = 8.0
LEAST_FLAT_TOPS = 2
SIXTEEN_BITS = 2.0**-15
NEAR_TOP, LEAST_AT_TOP, PILE = 0.9, 5, 5.0
"""From so high on the values count that a cut-off one is held against; so many at the very top, and so many times as many as
of the others, are a pile."""


@dataclass(frozen=True)
class Listening:
    """One recording, listened to.

    Attributes:
        duration_s, rate_hz: of it.
        clipped: whether it ran into an end of its scale.
        warnings: what has to be said of it.
        mean_square: of the A-weighted signal, all channels' mean; 0 for digital silence.
        fast_db: F over full scale at every millisecond once it has risen, shape (n,); empty for silence.
        highest_db: the highest F at any sample.
        own_half_width_db: what the sound's own variation leaves open of the equivalent level.
        spectrum: its power spectrum, unweighted.
        swing_db, period_s: the standard deviation of F, and the period of a regular swing.
    """

    duration_s: float
    rate_hz: float
    clipped: bool
    warnings: tuple[str, ...]
    mean_square: float
    fast_db: Array
    highest_db: float
    own_half_width_db: float
    spectrum: Spectrum
    swing_db: float | None
    period_s: float | None

    @property
    def is_silent(self) -> bool:
        """Whether there is nothing in it at all."""
        return self.mean_square <= 0.0

    @property
    def level_db(self) -> float | None:
        """The equivalent A-weighted level over a full-scale sine of 1 kHz, dB."""
        return None if self.is_silent else over_full_scale(self.mean_square)

    def exceeded_db(self, share: float) -> float:
        """The level of F that is exceeded for this share of the time, over full scale."""
        return float(np.percentile(self.fast_db, 100.0 * (1.0 - share)))


def over_full_scale(mean_square: float) -> float:
    """A mean square in dB over a full-scale sine."""
    return 10.0 * math.log10(mean_square / FULL_SCALE_SQUARE)


def listen(channels: Sequence[Array], rate_hz: float, warnings: Sequence[str] = ()) -> Listening:
    """Listen to a recording.

    Args:
        channels: the samples of each, 1 at full scale, shape (n,), finite.
        rate_hz: their rate.
        warnings: what was said of it while it was read.

    Raises:
        ValueError: it is too short.
    """
    length = len(channels[0])
    if length < SHORTEST_S * rate_hz:
        raise ValueError(f"{length / rate_hz:.2f} s long; give at least {SHORTEST_S:g} s of it")
    said = list(warnings)
    clipped = any(is_clipped(x) for x in channels)
    if clipped:
        said.append(
            "it ran into the end of its scale: levels are too low, and tones may be its own; record it with less gain"
        )
    # A constant is no sound.
    centred = [x - float(x.mean()) for x in channels]
    spectrum = spectrum_of(centred, rate_hz, SEGMENT_S)
    if all(float(np.abs(x).max()) < 1e-9 for x in centred):
        said.append("digital silence: nothing was recorded; see which input was chosen")
        nothing = np.empty(0)
        return Listening(
            length / rate_hz, rate_hz, clipped, tuple(said), 0.0, nothing, -math.inf, 0.0, spectrum, None, None
        )  # fmt: skip
    squares = np.zeros(length)
    for x in centred:
        weighted = a_weighted(x, rate_hz)
        squares += weighted * weighted
    squares /= len(centred)
    mean_square = float(squares.mean())
    fast = time_weighted(squares, rate_hz)
    highest = over_full_scale(max(float(fast.max()), 1e-30))
    first, stride = round(RUN_IN_S * rate_hz), max(1, int(rate_hz / FOLLOWED_HZ))
    fast_db = 10.0 * np.log10(np.maximum(fast[first::stride], 1e-30) / FULL_SCALE_SQUARE)
    step_s = stride / rate_hz
    swing, period = _swing(fast_db, step_s)
    said += _disturbed(fast_db, step_s, spectrum)
    return Listening(
        length / rate_hz, rate_hz, clipped, tuple(said), mean_square, fast_db, highest,
        _own_half_width(squares, rate_hz), spectrum, swing, period,
    )  # fmt: skip


def _own_half_width(squares: Array, rate_hz: float) -> float:
    """What the sound's own variation leaves open of its level, dB: of the mean of correlated blocks."""
    size = max(1, round(BLOCK_S * rate_hz))
    blocks = squares[: len(squares) // size * size].reshape(-1, size).mean(axis=1)
    mean = mean_of(blocks, 0.0)
    if mean.half_width is None or mean.value <= 0.0:
        return 0.0
    return 10.0 * math.log10(1.0 + mean.half_width / mean.value)


def _swing(fast_db: Array, step_s: float) -> tuple[float | None, float | None]:
    """The standard deviation of the level, and its period where it swings regularly."""
    if len(fast_db) < 10:
        return None, None
    deviation = float(fast_db.std())
    size = max(1, round(1.0 / (SLOW_HZ * step_s)))
    slow = fast_db[: len(fast_db) // size * size].reshape(-1, size).mean(axis=1)
    n = len(slow)
    if deviation < LEAST_SWING_DB or n < 16:
        return deviation, None
    # A level that drifts has no period by that.
    t = np.arange(n, dtype=float)
    slow = slow - np.polyval(np.polyfit(t, slow, 1), t)
    spectrum = np.abs(np.fft.rfft(slow, 2 * n)) ** 2
    raw = np.fft.irfft(spectrum)[:n]
    if raw[0] <= 0.0:
        return deviation, None
    alike = raw / raw[0] * n / (n - np.arange(n))
    longest = n // LEAST_PERIODS
    below = np.flatnonzero(alike[:longest] < 0.0)
    if len(below) == 0 or below[0] + 1 >= longest - 1:
        return deviation, None
    start = int(below[0])
    highest = float(alike[start:longest].max())
    inner = alike[start + 1 : longest - 1]
    tops = (
        start
        + 1
        + np.flatnonzero((inner >= alike[start : longest - 2]) & (inner > alike[start + 2 : longest]))
    )
    # What comes again after one period does so after two: the first is the period.
    tops = tops[alike[tops] >= SAME_PERIOD * highest]
    if highest < REGULAR or len(tops) == 0:
        return deviation, None
    top = int(tops[0])
    a, b, c = alike[top - 1 : top + 2]
    bend = a - 2.0 * b + c
    off = 0.5 * (a - c) / bend if bend < 0.0 else 0.0
    return deviation, float((top + off) * size * step_s)


def _disturbed(fast_db: Array, step_s: float, spectrum: Spectrum) -> list[str]:
    """What does not belong to a fan: knocks, wind."""
    said = []
    usual = float(np.median(fast_db))
    over = np.flatnonzero(fast_db > usual + KNOCK_DB)
    if len(over):
        groups = np.split(over, np.flatnonzero(np.diff(over) > 1) + 1)
        knocks = [g for g in groups if len(g) * step_s <= KNOCK_S]
        if knocks:
            moments = ", ".join(f"{RUN_IN_S + g[0] * step_s:.1f} s" for g in knocks[:5])
            more = f" and {len(knocks) - 5} more" if len(knocks) > 5 else ""
            said.append(
                f"knocks, or words, at {moments}{more}: they are in its levels; record it again, or cut them out"
            )
        if _gain_moved(fast_db, step_s, usual, [g[-1] for g in knocks]):
            said.append(
                "after a loud moment it is quieter than before, and comes back: the recorder sets its gain by itself, and no level "
                "of it holds; switch that off"
            )
    low = float(spectrum.power[(spectrum.hz > 0.0) & (spectrum.hz < LOW_HZ)].sum())
    high = float(spectrum.power[spectrum.hz >= LOW_HZ].sum())
    if high > 0.0 and low > LOW_TIMES * high:
        said.append(f"nearly all of it lies under {LOW_HZ:g} Hz: wind, or a hand, at the microphone")
    return said


def _gain_moved(fast_db: Array, step_s: float, usual: float, ends: Sequence[int]) -> bool:
    """Whether the level sinks under the usual one after a knock: F alone only falls back to it."""
    width = max(1, round(AFTER_S / step_s))
    limit = max(GAIN_DB, SPREADS * (usual - float(np.percentile(fast_db, 16.0))))
    for end in ends:
        back = np.flatnonzero(fast_db[end:] < usual + 1.0)
        if len(back):
            after = fast_db[end + int(back[0]) :][: 2 * width]
            if len(after) >= width and float(np.median(after)) < usual - limit:
                return True
    return False


def is_clipped(x: Array) -> bool:
    """Whether a signal, shape (n,), was cut off at an end of its scale: flat tops with steep sides, or far more samples at the
    very top than anywhere near it. A slow sine's top is flat too, but its sides are not steep, and it thins out smoothly."""
    steps = np.abs(np.diff(x))
    moving = steps[steps > 0.0]
    if len(moving) == 0:
        return False
    # A signal that was drawn has no steps of its own: those of 16 bits count for it.
    quantum = min(float(moving.min()), float(np.abs(x).max()) * SIXTEEN_BITS)
    return any(_has_flat_tops(y, steps, quantum) or _piles_up(y, quantum) for y in (x, -x))


def _has_flat_tops(x: Array, steps: Array, quantum: float) -> bool:
    high = x >= AT_TOP * float(x.max())
    flat = high[1:] & high[:-1] & (steps <= 1.5 * quantum)
    edges = np.flatnonzero(np.diff(flat.astype(np.int8), prepend=0, append=0))
    found = 0
    for first, last in zip(edges[::2], edges[1::2], strict=True):
        if last - first < FLAT_SAMPLES - 1:
            continue
        before = abs(x[first] - x[first - 1]) if first > 0 else 0.0
        after = abs(x[last + 1] - x[last]) if last + 1 < len(x) else 0.0
        found += bool(max(before, after) > STEEP_STEPS * quantum)
        if found >= LEAST_FLAT_TOPS:
            return True
    return False


def _piles_up(x: Array, quantum: float) -> bool:
    """Whether the highest value is there far more often than those near it. What repeats itself exactly has every value as
    often as any other."""
    top = float(x.max())
    near = x[x >= NEAR_TOP * top]
    at_top = int((near >= top - 0.5 * quantum).sum())
    if at_top < LEAST_AT_TOP or top <= 0.0:
        return False
    below = int((near >= top - 2.5 * quantum).sum()) - at_top
    each = (len(near) - at_top) / max(1, len(np.unique(near)) - 1)
    return at_top >= PILE * below and at_top >= PILE * each
