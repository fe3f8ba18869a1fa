"""Sensors against each other: what software, a contact probe and a spot thermometer say of the same part, side by side,
with which of them to believe and why.

Two values agree where they differ by no more than their joint uncertainty (normalised error of at most one, as in
ISO/IEC 17043). A surface is never hotter than the part beneath it: where it reads hotter than the part's own sensor,
that sensor sits elsewhere, or is off.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from samovar.core.measured import Measured, combine
from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.core.surface import PARTS, SOFTWARE, Surface
from samovar.core.uncertainty import mean_of

SOFTWARE_HALF_WIDTH_K = 3.0
"""What a sensor that only software reads is taken to be good for: nobody calibrates it."""
AROUND_S = 15.0


@dataclass(frozen=True, slots=True)
class Told:
    """What one sensor says of a part, °C: by which kind of instrument, and its name."""

    by: str
    name: str
    value: Measured


@dataclass(frozen=True, slots=True)
class Agreement:
    """What several sensors say of one part. `difference_k` is the greatest less the least; `agree` where their joint
    uncertainty covers it; `believe` the one to go by, and `why` in words."""

    part: str
    told: tuple[Told, ...]
    difference_k: Measured
    agree: bool
    believe: Told
    why: str


def agreements(recording: Recording, reading: Reading, surfaces: Sequence[Surface] = ()) -> list[Agreement]:
    """Every part of which two sensors or more have something to say.

    Args:
        recording, reading: one run.
        surfaces: what was taken by hand in it.
    """
    found = []
    for part in PARTS:
        mine = [s for s in surfaces if s.part == part]
        # Two spots of one part are two places: each is held against the part's own sensors, not against the other.
        for spot in list(dict.fromkeys(s.spot for s in mine)) or [""]:
            taken = [s for s in mine if s.spot == spot]
            told = [*_software(recording, reading, part, taken), *(Told(s.by, s.by, s.value) for s in taken)]
            if len(told) >= 2:
                found.append(replace(_weigh(part, told), part=spot or part))
    return found


def _software(recording: Recording, reading: Reading, part: str, taken: Sequence[Surface]) -> list[Told]:
    """What the part's own sensors say: around the moments at which it was measured by hand, else while steady."""
    out: list[Told] = []
    for index in recording.find("temperature", [part]):
        channel, row = recording.channels[index], recording.values[index]
        if part == "die" and channel.domain != "cpu":
            continue
        moments = [s.at_s for s in taken if s.at_s is not None]
        if moments:
            row = np.concatenate([row[recording.between(at - AROUND_S, at + AROUND_S)] for at in moments])
        elif (
            channel.name in reading.steady and reading.window is not None and reading.window.span is not None
        ):
            row = row[recording.between(*reading.window.span)]
        else:
            continue
        if np.isfinite(row).any():
            mean = mean_of(row)
            width = combine(mean.half_width or 0.0, SOFTWARE_HALF_WIDTH_K)
            out.append(Told(SOFTWARE, channel.name, Measured(mean.value, width)))
    if part == "die" and len(out) == 1 and not taken:
        out += _hottest_core(recording, reading)
    return out


def _hottest_core(recording: Recording, reading: Reading) -> list[Told]:
    cores = [
        (reading.steady[c.name].mean, c.name)
        for i in recording.find("temperature", ["core"], "cpu")
        if (c := recording.channels[i]).name in reading.steady
    ]
    if not cores:
        return []
    mean, name = max(cores)
    return [Told(SOFTWARE, f"hottest core, {name}", Measured(mean, SOFTWARE_HALF_WIDTH_K))]


def _weigh(part: str, told: list[Told]) -> Agreement:
    top, low = max(told, key=lambda t: t.value.value), min(told, key=lambda t: t.value.value)
    gap = top.value.value - low.value.value
    joint = combine(top.value.half_width or 0.0, low.value.half_width or 0.0)
    agree = gap <= joint
    software = [t for t in told if t.by == SOFTWARE]
    by_hand = sorted((t for t in told if t.by != SOFTWARE), key=lambda t: t.value.half_width or 1e9)
    difference = Measured(gap, joint)
    if not by_hand:
        return Agreement(part, tuple(told), difference, agree, *_among_software(part, software, agree))
    best = by_hand[0]
    if not software:
        return Agreement(
            part, tuple(told), difference, agree, best, "the narrowest uncertainty of those taken by hand"
        )
    own = max(software, key=lambda t: t.value.value)
    over = best.value.value - own.value.value
    if agree:
        return Agreement(
            part,
            tuple(told),
            difference,
            True,
            own,
            "they agree, and the part's own sensor is there at every moment",
        )
    if over > 0:
        why = "the surface is hotter than the sensor beneath it says: that sensor sits elsewhere, or is off"
        return Agreement(part, tuple(told), difference, False, best, why)
    why = f"it is inside; the surface is {-over:.0f} K cooler, as a surface may be"
    return Agreement(part, tuple(told), difference, False, own, why)


def _among_software(part: str, told: list[Told], agree: bool) -> tuple[Told, str]:
    first = told[0]
    if agree:
        return first, "they agree"
    cores = [t for t in told if t.name.startswith("hottest core")]
    if cores:
        nearest = min(
            (t for t in told if t not in cores), key=lambda t: abs(t.value.value - cores[0].value.value)
        )
        off = nearest.value.value - cores[0].value.value
        word = "above" if off > 0 else "under"
        return cores[
            0
        ], f"{nearest.name} stands {abs(off):.0f} K {word} it: it may carry an offset made for the fans"
    lower = min(told, key=lambda t: t.value.value)
    return lower, "nothing here tells which is right; a value with an offset made for the fans reads high"
