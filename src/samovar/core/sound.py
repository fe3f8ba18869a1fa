"""Sound levels read by hand: background taken off, brought to one distance, joined with each other.

Background as in ISO 3744:2010, 8.3.3 (K1); classes of meters from IEC 61672-1; distance by the free field's
20 lg(r), which a room with walls only approaches: such a level is marked as converted.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from samovar.core.uncertainty import combine

LEAST_ABOVE_DB, FREE_OF_IT_DB = 6.0, 15.0
"""Under the first a level is only an upper bound; over the second the background no longer matters."""
DISTANCE_HALF_WIDTH_DB = 1.5
"""95 % half-width of a conversion over distance in an ordinary room: its walls keep levels above the free field's."""


@dataclass(frozen=True, slots=True)
class SoundLevel:
    """A level in dBA with the half-width of its 95 % interval. `upper_bound`: it is at most this; `converted`: it
    was read at another distance."""

    value: float
    half_width: float
    upper_bound: bool = False
    converted: bool = False
    words: str = ""


def background_correction(above_db: float) -> float:
    """K1 of ISO 3744, dB, for a level so far above the background: what is to be taken off it. Never more than
    that for 6 dB, 1.3 dB."""
    if above_db > FREE_OF_IT_DB:
        return 0.0
    return -10.0 * math.log10(1.0 - 10.0 ** (-0.1 * max(above_db, LEAST_ABOVE_DB)))


def at_distance(level_db: float, read_at_m: float, wanted_m: float) -> float:
    """The level at another distance in the free field: 20 lg of their ratio less.

    Raises:
        ValueError: a distance of nothing or less.
    """
    if read_at_m <= 0 or wanted_m <= 0:
        raise ValueError("a distance is more than nothing")
    return level_db - 20.0 * math.log10(wanted_m / read_at_m)


def joined_levels(levels_db: Sequence[float]) -> float:
    """Several sources at once: levels add as energies. Raises ValueError without any."""
    if not levels_db:
        raise ValueError("no levels to join")
    return 10.0 * math.log10(sum(10.0 ** (0.1 * level) for level in levels_db))


def corrected(
    level_db: float,
    half_width_db: float,
    background_db: float | None = None,
    read_at_m: float = 1.0,
    wanted_m: float = 1.0,
) -> SoundLevel:
    """A level as read, without the background and at the distance that is compared.

    Args:
        level_db, half_width_db: as the meter showed, and its class's half-width (k = 2).
        background_db: what it showed with the thing switched off; None where nobody looked.
        read_at_m, wanted_m: where it stood, and where the level is wanted.
    """
    words, value, width, bound = [], level_db, half_width_db, False
    if background_db is not None:
        above = level_db - background_db
        bound = above < LEAST_ABOVE_DB
        if bound:
            words.append(f"at most this: only {above:.1f} dB above the background of {background_db:g} dBA")
        elif (off := background_correction(above)) > 0.0:
            value -= off
            # Both readings carry the meter's width; the difference stretches it by the law's slope.
            share = 10.0 ** (-0.1 * above)
            width = combine(half_width_db / (1.0 - share), half_width_db * share / (1.0 - share))
            words.append(f"read {level_db:g} dBA, background of {background_db:g} dBA taken off")
    moved = abs(read_at_m - wanted_m) > 0.01 * wanted_m
    if moved:
        value = at_distance(value, read_at_m, wanted_m)
        width = combine(width, DISTANCE_HALF_WIDTH_DB)
        words.append(f"converted from {read_at_m:g} m to {wanted_m:g} m")
    return SoundLevel(value, width, bound, moved, "; ".join(words))
