"""What does not belong to the machine is cut out of a recording: a knock, a word, a door, a gust.

A machine's F stays near its lower levels. What stands out of them for a few seconds is somebody or something else; a level that
stays up is the machine's own.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from samovar.core.phases import mask_runs
from samovar.core.recording import Array
from samovar.core.sound.listening import RUN_IN_S
from samovar.core.sound.weighting import a_weighted, time_weighted

OVER_DB = 4.0
"""A steady fan's own F is within this, but for one time in thousands."""
LOW, LOWEST = 30.0, 5.0
"""The percentiles of F that tell the machine's own, however often something else is heard, and how it spreads."""
SWING_TIMES = 4.0
"""What stands out by so many times that spread is no hunting fan's swing."""
LONGEST_S = 4.0
"""Nobody knocks, or says a word, for longer: what is up for so long is the machine."""
BEFORE_S, AFTER_S = 0.25, 0.75
"""So much around what stands out goes with it: F rises at once, and takes its time to fall."""
LEAST_LEFT = 0.4
"""With less of the time left, it was no undisturbed moment at all."""
JOINED_S = 0.02
LOOKED_S = 0.1


@dataclass(frozen=True)
class Cut:
    """What is left: the samples, shape (n,), and the stretches that were left out, seconds from the beginning. `enough`:
    whether what is left tells how it sounds."""

    samples: Array
    left_out: tuple[tuple[float, float], ...]
    enough: bool

    @property
    def words(self) -> str:
        """What was left out, for people; empty where nothing was."""
        if not self.left_out:
            return ""
        spans = ", ".join(f"{a:.1f} to {b:.1f} s" for a, b in self.left_out[:4])
        more = f" and {len(self.left_out) - 4} more" if len(self.left_out) > 4 else ""
        return f"left out, for something else was heard: {spans}{more}"


def undisturbed(samples: Array, rate_hz: float) -> Cut:
    """A recording without what stands out of it.

    Args:
        samples: 1 at full scale, shape (n,).
        rate_hz: their rate.
    """
    x = samples - float(samples.mean())
    weighted = a_weighted(x, rate_hz)
    squares = weighted * weighted
    stride = max(1, round(LOOKED_S * rate_hz))
    fast = time_weighted(squares, rate_hz)[stride - 1 :: stride]
    level = 10.0 * np.log10(np.maximum(fast, 1e-30))
    risen = round(RUN_IN_S / LOOKED_S)
    if len(level) <= 2 * risen:
        return Cut(samples, (), True)
    lowest, usual = np.percentile(level[risen:], (LOWEST, LOW))
    loud = level > usual + max(OVER_DB, SWING_TIMES * (usual - lowest))
    loud[:risen] = False
    keep = np.ones(len(level), bool)
    for first, last in mask_runs(loud):
        if (last - first) * LOOKED_S < LONGEST_S:
            keep[max(0, first - math.ceil(BEFORE_S / LOOKED_S)) : last + math.ceil(AFTER_S / LOOKED_S)] = (
                False
            )
    if keep.all():
        return Cut(samples, (), True)
    edges = np.flatnonzero(np.diff(keep.astype(int), prepend=0, append=0))
    kept = [
        (int(a) * stride, min(int(b) * stride, len(samples)))
        for a, b in zip(edges[::2], edges[1::2], strict=True)
    ]
    gone = np.flatnonzero(np.diff((~keep).astype(int), prepend=0, append=0))
    left_out = tuple(
        (round(float(a) * LOOKED_S, 1), round(float(b) * LOOKED_S, 1))
        for a, b in zip(gone[::2], gone[1::2], strict=True)
    )
    enough = bool(keep.mean() >= LEAST_LEFT)
    return Cut(_joined([samples[a:b] for a, b in kept], rate_hz), left_out, enough)


def _joined(pieces: list[Array], rate_hz: float) -> Array:
    """Pieces one after the other, each seam a short crossing of equal power, so that none of them clicks."""
    if not pieces:
        return np.empty(0)
    width = max(1, round(JOINED_S * rate_hz))
    out = pieces[0]
    rise = np.sin(0.5 * np.pi * (np.arange(width) + 0.5) / width)
    for piece in pieces[1:]:
        if min(len(out), len(piece)) <= width:
            continue
        seam = out[-width:] * rise[::-1] + piece[:width] * rise
        out = np.concatenate([out[:-width], seam, piece[width:]])
    return out
