"""Sound levels read by hand: background taken off, brought to one distance, joined with each other.

Background as in ISO 3744:2010, 8.3.3 (K1), whose greatest correction is 1.3 dB; distance by the free field's
20 lg(r), which a room with walls only approaches: such a level is marked as converted. One meter reads level and
background, and what it is off by is common to both: taking the one from the other leaves it as it is. What each
reading scatters by is its own, and the difference stretches it by the law's slope.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from samovar.core.measured import combine

LEAST_ABOVE_DB, FREE_OF_IT_DB = 6.0, 15.0
"""Under the first a level is only an upper bound; over the second the background no longer matters."""
DISTANCE_SHARE = 0.25
"""95 % half-width of a conversion over distance, as a share of it: in an ordinary room, whose walls keep levels above
the free field's, a doubling takes some 4.5 dB off and not 6."""
MOST_OFF_DB = 1.3
"""What ISO 3744 takes off a level that is 6 dB or less above its background."""


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
    1.3 dB, that for 6 dB."""
    if above_db > FREE_OF_IT_DB:
        return 0.0
    if above_db <= LEAST_ABOVE_DB:
        return MOST_OFF_DB
    return -10.0 * math.log10(1.0 - 10.0 ** (-0.1 * above_db))


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
    meter_half_width_db: float,
    background_db: float | None = None,
    read_at_m: float = 1.0,
    wanted_m: float = 1.0,
    *,
    own_half_width_db: float = 0.0,
    background_half_width_db: float = 0.0,
) -> SoundLevel:
    """A level as read, without the background and at the distance that is compared.

    Args:
        level_db: as the meter showed.
        meter_half_width_db: what the meter's class leaves open (k = 2), common to level and background.
        background_db: what it showed with the thing switched off; None where nobody looked.
        read_at_m, wanted_m: where it stood, and where the level is wanted.
        own_half_width_db, background_half_width_db: what each reading scattered by.
    """
    words, value, own, bound = [], level_db, own_half_width_db, False
    if background_db is not None:
        above = level_db - background_db
        off = background_correction(above)
        value -= off
        bound = above < LEAST_ABOVE_DB
        if bound:
            over = f"only {above:.1f} dB above" if above > 0 else "no louder than"
            words.append(f"at most this: {over} the background of {round(background_db, 1):g} dBA")
        elif off > 0.0:
            share = 10.0 ** (-0.1 * above)
            own = combine(own / (1.0 - share), background_half_width_db * share / (1.0 - share))
            words.append(f"background of {round(background_db, 1):g} dBA taken off")
    width = combine(meter_half_width_db, own)
    moved = abs(read_at_m - wanted_m) > 0.01 * wanted_m
    if moved:
        there = at_distance(value, read_at_m, wanted_m)
        width = combine(width, DISTANCE_SHARE * abs(there - value))
        value = there
        words.append(f"converted from {read_at_m:.3g} m to {wanted_m:g} m")
    return SoundLevel(value, width, bound, moved, "; ".join(words))
