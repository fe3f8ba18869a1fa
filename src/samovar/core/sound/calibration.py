"""From full scale to pascals: by a calibrator's tone, or by a level that was read beside the recording.

Sources: IEC 60942:2017 (a class 1 calibrator's level is within 0.4 dB); IEC 61672-1:2013, table 5 (what a class leaves open of a
measurement).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from samovar.core.measured import combine
from samovar.core.recording import Array
from samovar.core.rig import METER_HALF_WIDTH_DB
from samovar.core.sound.bands import spectrum_of
from samovar.core.sound.listening import SHORTEST_S, Listening, is_clipped, over_full_scale

CALIBRATOR_DB = 94.0
LOUDEST_DB, QUIETEST_DB = 140.0, 60.0
TONES_HZ = (250.0, 1000.0)
"""What calibrators sound at."""
OFF_SHARE = 0.05
TONE_PART = 0.9
"""Of a calibrator's recording so much of the power is its tone's."""
CALIBRATOR_HALF_WIDTH_DB = 0.4
MICROPHONE_HALF_WIDTH_DB = 1.0
"""What a microphone that was calibrated at one frequency leaves open at the others, and the place it stands at."""
KNOWN_HALF_WIDTH_DB = METER_HALF_WIDTH_DB["class 2"]
"""A level that was read beside is as good as the meter most people have."""


@dataclass(frozen=True, slots=True)
class Scale:
    """What a level over full scale is to be raised by to be one over 20 µPa, dB, and what that leaves open."""

    raise_db: float
    half_width_db: float


def by_calibrator(channels: Sequence[Array], rate_hz: float, level_db: float = CALIBRATOR_DB) -> Scale:
    """The scale that a calibrator's recording tells.

    Args:
        channels: its samples, 1 at full scale, shape (n,).
        rate_hz: their rate.
        level_db: what the calibrator sounds at.

    Raises:
        ValueError: its tone is not there, or was cut off; what to do.
    """
    if not QUIETEST_DB <= level_db <= LOUDEST_DB:
        raise ValueError(f"a calibrator of {level_db:g} dB; write its level, such as 94 or 114")
    if len(channels[0]) < SHORTEST_S * rate_hz:
        raise ValueError(
            f"its calibration is {len(channels[0]) / rate_hz:.2f} s long; record at least {SHORTEST_S:g} s"
        )
    if any(is_clipped(x) for x in channels):
        raise ValueError("its calibration ran into the end of its scale; record both anew with less gain")
    spectrum = spectrum_of([x - float(x.mean()) for x in channels], rate_hz, 1.0)
    total = float(spectrum.power.sum())
    top = int(np.argmax(spectrum.power))
    hz = float(spectrum.hz[top])
    near = min(TONES_HZ, key=lambda one: abs(one - hz))
    around = slice(*np.searchsorted(spectrum.hz, (hz - 0.02 * near, hz + 0.02 * near)))
    tone = float(spectrum.power[around].sum())
    if total <= 0.0 or abs(hz - near) > OFF_SHARE * near or tone < TONE_PART * total:
        raise ValueError(
            "there is no calibrator's tone in its calibration, of 1 kHz or 250 Hz; record it with the calibrator on"
        )
    return Scale(
        level_db - over_full_scale(tone), combine(CALIBRATOR_HALF_WIDTH_DB, MICROPHONE_HALF_WIDTH_DB)
    )


def as_stated(full_scale_db: float) -> Scale:
    """The scale of a microphone whose full scale is known: the level of a full-scale sine over 20 µPa, from its data sheet or an
    earlier calibration."""
    return Scale(full_scale_db, combine(CALIBRATOR_HALF_WIDTH_DB, MICROPHONE_HALF_WIDTH_DB))


def by_known_level(listening: Listening, level_dba: float) -> Scale:
    """The scale that a known equivalent level of the recording tells. Raises ValueError: it is silent, or no level."""
    if not math.isfinite(level_dba) or not -10.0 <= level_dba <= 140.0:
        raise ValueError(f"a known level of {level_dba:g} dBA; write what a meter showed beside it")
    if listening.level_db is None:
        raise ValueError("it is silent: no known level gives it a scale")
    return Scale(level_dba - listening.level_db, KNOWN_HALF_WIDTH_DB)
