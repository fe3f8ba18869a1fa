"""A recording of sound as a log: its level over time, F's range and its third octaves, as a microphone on the Bench gives them.

Nobody knows how loud a file's full scale was: its levels are in decibels over that. What makes a level of them is a reading
entered beside it (`noise fan.wav, known 33`).
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from samovar.core.quantity import FULL_SCALE, Channel
from samovar.core.recording import Recording
from samovar.core.sound.meter import SILENCE_DB, Meter, energy_mean_db, in_db
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
    rows = np.full((3 + len(meter.bands_hz), seconds), np.nan)
    for k in range(seconds):
        pair = told[2 * k : 2 * k + 2]
        fast = np.concatenate([one.fast_db for one in pair])
        rows[:3, k] = in_db([float(np.mean([one.mean_square for one in pair]))])[0], fast.min(), fast.max()
        bands = [one.bands_db for one in pair if one.bands_db is not None]
        if bands:
            rows[3:, k] = [energy_mean_db(band) for band in np.array(bands).T]
    rows[rows <= SILENCE_DB] = np.nan
    names = [("level", "noise"), ("least F", "fast"), ("greatest F", "fast")]
    channels = [
        Channel(f"recording {what}", kind, FULL_SCALE, "other", "case", f"recording:{what}")
        for what, kind in names
    ]
    channels += [
        Channel(f"recording {hz:g} Hz", "band", FULL_SCALE, "other", "case", f"recording:{hz:g}")
        for hz in meter.bands_hz
    ]
    return Recording(tuple(channels), np.arange(seconds, dtype=float), rows), found.warnings
