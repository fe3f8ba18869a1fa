"""A recording of sound as a log: its level over time, F's range and its third octaves, as a microphone on the Bench gives them.

Nobody knows how loud a file's full scale was: its levels are in decibels over that. What makes a level of them is a reading
entered beside it (`noise fan.wav, known 33`).
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from samovar.core.quantity import FULL_SCALE
from samovar.core.recording import Recording
from samovar.core.sound.meter import SILENCE_DB, Meter, folded, sound_channels
from samovar.exchange.problems import InputError
from samovar.exchange.sound_file import read_sound

BLOCK = 1 << 16


def sound_recording(path: Path) -> tuple[Recording, list[str]]:
    """A recording's levels, a sample a second, and what has to be said of it. Raises InputError."""
    found = read_sound(path)
    meter = Meter(found.rate_hz)
    told = [
        one
        for start in range(0, len(found.channels[0]), BLOCK)
        for one in meter.hear(np.mean([x[start : start + BLOCK] for x in found.channels], axis=0))
    ]
    seconds = len(told) // 2
    if seconds < 1:
        raise InputError(f"{path}: it is shorter than a second; give a longer one")
    channels = sound_channels("recording", meter.bands_hz, FULL_SCALE, FULL_SCALE)
    rows = np.full((len(channels), seconds), np.nan)
    for k in range(seconds):
        levels, bands = folded(told[2 * k : 2 * k + 2])
        rows[: len(levels), k] = levels
        if bands is not None:
            rows[len(levels) :, k] = bands
    rows[rows <= SILENCE_DB] = np.nan
    return Recording(channels, np.arange(seconds, dtype=float), rows), found.warnings
