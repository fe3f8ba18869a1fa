"""What is a sound's own in every third octave, once the room's is taken off; and the level that these add up to.

Source: ISO 3744:2010, 8.2.3 and 8.3: the correction K1 is made in every band, and where a band is too near the background, a
level that rests on it is an upper bound.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from samovar.core.sound.a_curve import a_weighted_energy
from samovar.core.sound.levels import LEAST_ABOVE_DB, background_correction

RESTS_ON_BOUNDS_DB = 0.5
"""Where the bands that are bounds can move the level by more than this, the level is one too (as much as F is read to)."""


@dataclass(frozen=True, slots=True)
class OwnBand:
    """One third octave: its nominal frequency, what is the sound's own in it, dB, and whether that is at most so much."""

    hz: float
    db: float
    at_most: bool


@dataclass(frozen=True, slots=True)
class OwnLevel:
    """What the bands add up to, dBA, and whether that is at most so much."""

    dba: float
    at_most: bool


def own_bands(
    bands: Sequence[tuple[float, float]], background: Sequence[tuple[float, float]]
) -> tuple[OwnBand, ...]:
    """The room taken off band by band, each as ISO 3744 has it: from 15 dB over it on nothing, under 6 dB 1.3 dB and a bound.

    Args:
        bands: as listened to: nominal frequency, Hz, and level, dB; shape (n, 2).
        background: the room's own, likewise; a band that it lacks is taken as it stands.
    """
    behind: Mapping[float, float] = dict(background)
    found = []
    for hz, db in bands:
        above = db - behind.get(hz, -math.inf)
        found.append(OwnBand(hz, db - background_correction(above), above < LEAST_ABOVE_DB))
    return tuple(found)


def own_level(bands: Sequence[OwnBand]) -> OwnLevel | None:
    """The A-weighted level that they add up to; None without any. It is a bound where the bands that are bounds matter."""
    sure = sum(a_weighted_energy(band.hz, band.db) for band in bands if not band.at_most)
    most = sure + sum(a_weighted_energy(band.hz, band.db) for band in bands if band.at_most)
    if most <= 0.0:
        return None
    at_most = sure <= 0.0 or 10.0 * math.log10(most / sure) > RESTS_ON_BOUNDS_DB
    return OwnLevel(10.0 * math.log10(most), at_most)
