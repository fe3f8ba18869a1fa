"""Two recordings of one run, made by two instruments, laid over each other in time."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from samovar.core.phases import find_phases, main_load
from samovar.core.quantity import Channel
from samovar.core.recording import Array, Recording

EDGE_SHARE = 0.5
LEAST_RISE = 3.0
"""A step must be so many times the spread before it to count as a load's edge."""


def load_edge(recording: Recording) -> float | None:
    """When the load begins, s: as its phases say, else where its strongest power, clock or temperature steps up
    the most; None where nothing does."""
    load = main_load(find_phases(recording))
    if load is not None and load.start_s > 0:
        return load.start_s
    best: tuple[float, float] | None = None
    for quantity in ("power", "current", "clock", "noise", "fan", "temperature"):
        for index in recording.find(quantity):
            found = _step(recording.time_s, recording.values[index])
            if found is not None and (best is None or found[0] > best[0]):
                best = found
        if best is not None:
            return best[1]
    return None


def _step(time_s: Array, row: Array) -> tuple[float, float] | None:
    """How strong the greatest step up is, in spreads of what lies before it, and when it comes."""
    good = np.isfinite(row)
    t, x = time_s[good], row[good]
    if len(x) < 20:
        return None
    low, high = np.percentile(x, [5, 90])
    if high <= low:
        return None
    over = np.flatnonzero(x > low + EDGE_SHARE * (high - low))
    first = next((int(k) for k in over if k > 3 and (x[k : k + 5] > low + 0.4 * (high - low)).all()), None)
    if first is None:
        return None
    spread = float(np.std(x[: max(4, first - 1)])) + 1e-9
    strength = float(high - low) / spread
    return (strength, float(t[first])) if strength > LEAST_RISE else None


def offset_between(run: Recording, other: Recording) -> float | None:
    """By how much the other's times have to be moved, s, so that both loads begin together; None where one of
    them shows no beginning."""
    mine, theirs = load_edge(run), load_edge(other)
    return None if mine is None or theirs is None else mine - theirs


def joined(run: Recording, other: Recording, offset_s: float) -> Recording:
    """The run with the other's channels beside its own, each of the other's values at the nearest of the run's
    samples; where the other has none near enough, nothing is made up.

    Args:
        run: gives the time axis, marks and all its channels.
        other: what is joined to it.
        offset_s: what the other's times are moved by, from `offset_between` or as a person set it.
    """
    interval, theirs = run.interval_s or 1.0, other.interval_s or 1.0
    moved = other.time_s + offset_s
    at = np.clip(np.searchsorted(moved, run.time_s), 1, max(1, len(moved) - 1))
    before = np.abs(run.time_s - moved[at - 1]) <= np.abs(moved[np.minimum(at, len(moved) - 1)] - run.time_s)
    nearest = np.where(before, at - 1, np.minimum(at, len(moved) - 1))
    near = np.abs(moved[nearest] - run.time_s) <= 0.75 * max(interval, theirs)
    values = np.where(near[None, :], other.values[:, nearest], np.nan)
    names = {c.name for c in run.channels}
    channels = tuple(_told_apart(c, names) for c in other.channels)
    return Recording(
        run.channels + channels,
        run.time_s,
        np.vstack([run.values, values]),
        run.marks,
        run.stopped_early,
        run.changes,
    )


def _told_apart(channel: Channel, names: set[str]) -> Channel:
    name, number = channel.name, 2
    while name in names:
        name, number = f"{channel.name} ({number})", number + 1
    names.add(name)
    return channel if name == channel.name else replace(channel, name=name)
