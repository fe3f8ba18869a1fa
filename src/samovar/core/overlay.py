"""Curves of several runs on one time axis, aligned at the start of their loads."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from samovar.core.quantity import QUANTITIES, Channel
from samovar.core.reading import Reading
from samovar.core.recording import Array, Recording
from samovar.core.results.figure import PARTS_IN_WORDS

MOST_POINTS = 100_000
"""A load of more than a day is drawn at a coarser step: nobody sees the difference."""


@dataclass(frozen=True)
class Overlay:
    """Curves of one quantity. time_s: shape (n,), 0 at load start; values: shape (m, n), NaN outside a run; names: m of
    them; label and unit: what is drawn; quantity: gives its colour and its strip."""

    names: tuple[str, ...]
    time_s: Array
    values: Array
    label: str = "rise over the room"
    unit: str = "K"
    quantity: str = "temperature"


@dataclass(frozen=True)
class Curve:
    """One run to be drawn among others: its name, and of which of its channels (None: the die)."""

    name: str
    recording: Recording
    reading: Reading
    channel: str | None = None


def overlay(runs: Sequence[Curve], before_s: float = 60.0, step_s: float = 1.0) -> Overlay:
    """One channel of each run, from a little before its load to the end of the load: over the room where it is a
    temperature and the room is known of all of them.

    A run whose die's room is not known, or that has no such channel or load, gives a row of NaN.
    """
    spans = [_span(one) for one in runs]
    longest = max((b - a for a, b in spans if b > a), default=0.0)
    step_s = max(step_s, longest / MOST_POINTS)
    time_s = np.arange(-before_s, longest + step_s, step_s)
    rows = np.full((len(runs), len(time_s)), np.nan)
    indices = [_index(one) for one in runs]
    drawn = next((c.recording.channels[k] for c, k in zip(runs, indices, strict=True) if k is not None), None)
    quantity = drawn.quantity if drawn is not None else "temperature"
    rooms = [one.reading.room.value if one.reading.room else None for one in runs]
    of_die = all(one.channel is None for one in runs)
    over_room = quantity == "temperature" and (of_die or all(room is not None for room in rooms))
    for k, (one, index, room, (start_s, end_s)) in enumerate(zip(runs, indices, rooms, spans, strict=True)):
        if index is None or end_s <= start_s or (over_room and room is None):
            continue
        own, row = one.recording.time_s - start_s, one.recording.values[index]
        row = row - room if over_room and room is not None else row
        good = np.isfinite(row)
        if good.sum() < 2:
            continue
        inside = (time_s >= own[good][0]) & (time_s <= end_s - start_s - 3.0)
        rows[k, inside] = np.interp(time_s[inside], own[good], row[good])
    names = tuple(one.name for one in runs)
    if over_room:
        label = "rise over the room" if of_die else _of_part(drawn, "over the room")
        return Overlay(names, time_s, rows, label, "K", quantity)
    unit = drawn.unit if drawn is not None else "°C"
    return Overlay(names, time_s, rows, _of_part(drawn, QUANTITIES[quantity].label.lower()), unit, quantity)


def _span(one: Curve) -> tuple[float, float]:
    """From and to of its load; all of a run of another channel than the die's in which no load shows."""
    load = one.reading.load_phase()
    if load is not None:
        return load.start_s, load.end_s
    return (0.0, 0.0) if one.channel is None else (0.0, one.recording.duration_s)


def _index(one: Curve) -> int | None:
    if one.channel is None:
        return one.recording.die
    return next((k for k, c in enumerate(one.recording.channels) if c.name == one.channel), None)


def _of_part(channel: Channel | None, what: str) -> str:
    """What is drawn, with the part it is of where that is not the die."""
    if channel is None or channel.role in ("die", "core", "package", "other"):
        return what
    return f"{PARTS_IN_WORDS.get(channel.role, channel.role)} {what}"
