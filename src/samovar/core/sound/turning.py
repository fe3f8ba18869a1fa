"""How fast a fan turns, by the series that its blades leave in the sound."""

from __future__ import annotations

import math
from dataclasses import dataclass

from samovar.core.sound.bands import Spectrum
from samovar.core.sound.tones import lines_of, noise_floor

SLOWEST_RPM, FASTEST_RPM = 150.0, 12_000.0
HARMONICS = 8
BLADES_MOST = 60
LEAST_HARMONICS = 2
OFF_SHARE = 0.006
"""A line within this share of a harmonic's place is that harmonic: a fan's speed wanders by less over a listening."""
MISSED_DB = 6.0
"""What a harmonic that is missing under one that is there speaks against a series."""
CAPPED_DB = 20.0
"""A line counts for no more, however strong: one whine is no series."""
LINE_SHARE = 0.25
"""A line's place is known to about this share of a bin, standard uncertainty."""


@dataclass(frozen=True, slots=True)
class Turning:
    """A speed, rpm, with the half-width of its 95 % interval, by so many blades, and the harmonics it was told by."""

    rpm: float
    half_width: float
    blades: int
    harmonics: tuple[int, ...]


def check_blades(blades: int) -> None:
    """Whether a fan can have so many. Raises ValueError."""
    if not 1 <= blades <= BLADES_MOST:
        raise ValueError(f"{blades} blades: a fan has from 1 to {BLADES_MOST}; correct it")


def turning_of(spectrum: Spectrum, blades: int) -> Turning | None:
    """The speed of a fan with so many blades: the series of passages that explains the lines best; None where no two lines
    make one. Raises ValueError: no number of blades."""
    check_blades(blades)
    floor = noise_floor(spectrum)
    step = spectrum.step_hz
    lines = [
        (
            line.hz,
            min(
                CAPPED_DB,
                10.0 * math.log10(1.0 + line.power / max(float(floor[line.first : line.last].sum()), 1e-300)),
            ),
        )
        for line in lines_of(spectrum)
    ]
    lowest, highest = blades * SLOWEST_RPM / 60.0, blades * FASTEST_RPM / 60.0
    best: tuple[float, list[tuple[int, float, float]]] | None = None
    for hz, _ in lines:
        for number in range(1, 4):
            base = hz / number
            if not lowest <= base <= highest:
                continue
            hits = []
            for harmonic in range(1, HARMONICS + 1):
                off = max(OFF_SHARE * harmonic * base, 1.5 * step)
                near = [one for one in lines if abs(one[0] - harmonic * base) <= off]
                if near:
                    line = min(near, key=lambda one: abs(one[0] - harmonic * base))
                    hits.append((harmonic, *line))
            if len(hits) < LEAST_HARMONICS:
                continue
            missed = hits[-1][0] - len(hits)
            score = sum(strength for _, _, strength in hits) - MISSED_DB * missed
            if best is None or score > best[0] + 1e-9:
                best = (score, hits)
    if best is None or best[0] <= 0.0:
        return None
    hits = best[1]
    # Each harmonic tells the base as many times more finely as its number.
    weight = sum(k * k for k, _, _ in hits)
    base = sum(k * hz for k, hz, _ in hits) / weight
    rest = sum((hz - k * base) ** 2 for k, hz, _ in hits) / max(1, len(hits) - 1)
    error = math.sqrt(max(rest, (LINE_SHARE * step) ** 2) / weight)
    return Turning(60.0 * base / blades, 2.0 * 60.0 * error / blades, blades, tuple(k for k, _, _ in hits))
