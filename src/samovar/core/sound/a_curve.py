"""The A-weighting by its poles, for whoever needs no more than its value at a frequency.

Source: IEC 61672-1:2013, annex E (E.1 to E.4), and its normalisation at 1 kHz.
"""

from __future__ import annotations

import math

F1_HZ, F2_HZ, F3_HZ, F4_HZ = 20.598997, 107.65265, 737.86223, 12194.217
"""The pole frequencies: the first and the last are double."""


def a_weight_db(hz: float) -> float:
    """The A-weighting at a frequency, dB."""
    f = hz * hz
    gain = (F4_HZ**2 * f * f) / ((f + F1_HZ**2) * math.sqrt((f + F2_HZ**2) * (f + F3_HZ**2)) * (f + F4_HZ**2))
    return 20.0 * math.log10(gain) + 2.0


def a_weighted_energy(hz: float, db: float) -> float:
    """What a level at a frequency adds to an A-weighted sum of energies: 1 for 0 dBA."""
    return float(10.0 ** (0.1 * (db + a_weight_db(hz))))
