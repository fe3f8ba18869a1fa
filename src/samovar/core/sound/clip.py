"""Short pieces of sound for others to hear: the calmest stretch of a recording, and several brought to one loudness scale.

What is heard side by side is to be as loud as it was beside each other: every piece gets one common gain, so that the louder one
sounds louder, and a tone of known level to set the volume by.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from samovar.core.recording import Array

CLIP_S = 6.0
"""Long enough for a hunting fan to swing once or twice, short enough to be sent along."""
LOOKED_S = 0.25
FADE_S = 0.15
TOP_DB = -3.0
"""The highest peak of all pieces comes to this, under full scale."""
TONE_HZ, TONE_S = 1000.0, 4.0
TONE_OVER_DB = 6.0
"""The tone stands so much over the loudest piece's level: it is to be heard in a room, and does not startle."""


@dataclass(frozen=True)
class Clip:
    """A piece of sound: samples, 1 at full scale, shape (n,), its rate, and the level of a full-scale sine in it, dB; None
    where nobody knows how loud it was."""

    samples: Array
    rate_hz: float
    full_scale_db: float | None = None


def calmest(samples: Array, rate_hz: float, seconds: float = CLIP_S) -> Array:
    """The stretch of so many seconds whose level varies least: without the knock, the word, the door."""
    size, step = round(seconds * rate_hz), max(1, round(LOOKED_S * rate_hz))
    if len(samples) <= size:
        return samples
    blocks = len(samples) // step
    power = (samples[: blocks * step].reshape(blocks, step) ** 2).mean(axis=1)
    level = 10.0 * np.log10(np.maximum(power, 1e-30))
    width = max(1, size // step)
    spread = [float(np.ptp(level[k : k + width])) for k in range(max(1, blocks - width + 1))]
    start = int(np.argmin(spread)) * step
    return samples[start : start + size]


@dataclass(frozen=True)
class Mixed:
    """Pieces at one common gain, by name, each of samples of shape (n,) with its rate; the tone beside them, and the level it
    stands for, dBA."""

    pieces: dict[str, tuple[Array, float]]
    tone: Array
    tone_rate_hz: float
    tone_dba: float


def at_one_gain(clips: Mapping[str, Clip]) -> Mixed | None:
    """Pieces brought to one scale; those whose scale nobody knows cannot be held against others, and are left out. None
    where nothing is left."""
    known = {
        name: clip for name, clip in clips.items() if clip.full_scale_db is not None and len(clip.samples)
    }
    if not known:
        return None
    # In amplitudes of a common scale: that of the least sensitive one.
    common_db = max(clip.full_scale_db or 0.0 for clip in known.values())
    scaled = {
        name: (clip.samples - float(clip.samples.mean()))
        * 10.0 ** (0.05 * ((clip.full_scale_db or 0.0) - common_db))
        for name, clip in known.items()
    }
    loudest = max(float(np.sqrt(np.mean(x * x))) for x in scaled.values())
    tone_size = math.sqrt(2.0) * loudest * 10.0 ** (0.05 * TONE_OVER_DB)
    peak = max(tone_size, *(float(np.abs(x).max()) for x in scaled.values()))
    if peak <= 0.0:
        return None
    gain = 10.0 ** (0.05 * TOP_DB) / peak
    pieces = {
        name: (_faded(gain * x, known[name].rate_hz), known[name].rate_hz) for name, x in scaled.items()
    }
    rate = max(clip.rate_hz for clip in known.values())
    t = np.arange(round(TONE_S * rate)) / rate
    tone = _faded(gain * tone_size * np.sin(2.0 * np.pi * TONE_HZ * t), rate)
    return Mixed(pieces, tone, rate, common_db + 20.0 * math.log10(tone_size))


def _faded(samples: Array, rate_hz: float) -> Array:
    count = min(len(samples) // 2, round(FADE_S * rate_hz))
    out = samples.copy()
    swell = np.sin(0.5 * np.pi * np.arange(count) / max(count, 1)) ** 2
    out[:count] *= swell
    out[len(out) - count :] *= swell[::-1]
    return out
