"""Curves of several runs on one time axis, aligned at the start of their loads."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from samovar.core.reading import Reading
from samovar.core.recording import Array, Recording

MOST_POINTS = 100_000
"""A load of more than a day is drawn at a coarser step: nobody sees the difference."""


@dataclass(frozen=True)
class Overlay:
    """Curves over the room. time_s: shape (n,), 0 at load start; rise_k: shape (m, n), NaN outside a
    run; names: m of them."""

    names: tuple[str, ...]
    time_s: Array
    rise_k: Array


def overlay(
    runs: Sequence[tuple[str, Recording, Reading]], before_s: float = 60.0, step_s: float = 1.0
) -> Overlay:
    """The die's rise over the room in each run, from a little before its load to the end of the load.

    A run whose room is not known, or that has no die or load, gives a row of NaN.
    """
    loads = [reading.load_phase() for _, _, reading in runs]
    longest = max((load.duration_s for load in loads if load is not None), default=0.0)
    step_s = max(step_s, longest / MOST_POINTS)
    time_s = np.arange(-before_s, longest + step_s, step_s)
    rows = np.full((len(runs), len(time_s)), np.nan)
    for k, ((_, recording, reading), load) in enumerate(zip(runs, loads, strict=True)):
        room = reading.thermal.room_c if reading.thermal else None
        if recording.die is None or load is None or room is None:
            continue
        own, die = recording.time_s - load.start_s, recording.values[recording.die] - room
        good = np.isfinite(die)
        if good.sum() < 2:
            continue
        inside = (time_s >= own[good][0]) & (time_s <= load.duration_s - 3.0)
        rows[k, inside] = np.interp(time_s[inside], own[good], die[good])
    return Overlay(tuple(name for name, _, _ in runs), time_s, rows)
