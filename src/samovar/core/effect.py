"""What a change did: before, after, the difference, and how long it took to half of it and to nine tenths.

Between a moment at which something was changed and a later one. Step response as control engineering has it: the time to
half and to 90 % of the whole difference, on a series smoothed over a few seconds, so that no lone sample decides.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from samovar.core.despike import despiked
from samovar.core.marks import Change
from samovar.core.measured import COVERAGE_FACTOR, Measured, combine
from samovar.core.quantity import QUANTITIES, Channel
from samovar.core.recording import Array, Recording
from samovar.core.uncertainty import mean_of

BEFORE_S, AFTER_S = 30.0, 60.0
"""Before a change the mean over so long, after it the mean over the end of what follows."""
AROUND_S = 5.0
"""Around a cursor, which is set by eye, the mean over so much on either side."""
SMOOTH_S = 6.0
EDGE_S = 2.0
"""The last seconds before the next change may already be of it."""
LEAST_SHARE = 0.02
"""A difference of less than this of the value, or within its own half-width, took no time that could be told."""
_FIRST = ("temperature", "power", "clock", "fan", "work", "noise")


@dataclass(frozen=True, slots=True)
class Effect:
    """What became of one channel. `half_s` and `ninety_s`: seconds from the change to half and nine tenths of the
    difference; None where there is none to speak of, or it was not yet reached for good."""

    channel: Channel
    before: Measured
    after: Measured
    half_s: float | None
    ninety_s: float | None

    @property
    def difference(self) -> Measured:
        """After less before, both widths joined."""
        width = combine(self.before.half_width or 0.0, self.after.half_width or 0.0)
        return Measured(self.after.value - self.before.value, width or None)

    @property
    def unit(self) -> str:
        """Of the difference: kelvin for temperatures."""
        return {"°C": "K", "dBA": "dB"}.get(self.channel.unit, self.channel.unit)

    @property
    def shown(self) -> bool:
        """Whether anything changed by more than the values are known."""
        gap = self.difference
        level = max(abs(self.before.value), abs(self.after.value))
        least = 0.5 if self.channel.quantity == "temperature" else LEAST_SHARE * level
        return abs(gap.value) > max(gap.half_width or 0.0, least)

    def words(self) -> str:
        """What it did, as a sentence's end: `took 28 ±1 K off CPU die, 90 % of it in 94 s`."""
        gap = self.difference
        decimals = 0 if self.channel.quantity in ("clock", "fan", "work") else 1
        size = Measured(abs(gap.value), gap.half_width).text(self.unit, finest=decimals)
        verb = f"took {size} off" if gap.value < 0 else f"added {size} to"
        text = f"{verb} {self.channel.name}"
        if self.ninety_s is not None:
            text += f", 90 % of it in {self.ninety_s:.0f} s"
        return text


def effects(
    recording: Recording,
    from_s: float,
    to_s: float,
    *,
    around: bool = False,
    rows: Sequence[int] | None = None,
) -> list[Effect]:
    """What became of every channel that has values on both sides, temperatures first.

    Args:
        recording: one run.
        from_s: when something was changed; `around`: a cursor instead, with the mean about it for `before`.
        to_s: the end of what followed it, or another cursor.
        rows: only the channels at these positions.
    """
    found = []
    for k in range(len(recording.channels)) if rows is None else rows:
        channel = recording.channels[k]
        if not QUANTITIES[channel.quantity].averaged or channel.role == "core":
            continue
        effect = _effect(recording, channel, recording.values[k], from_s, to_s, around)
        if effect is not None:
            found.append(effect)
    rank = {q: k for k, q in enumerate(_FIRST)}
    return sorted(found, key=lambda e: rank.get(e.channel.quantity, len(rank)))


def of_changes(recording: Recording) -> list[tuple[Change, float, list[Effect]]]:
    """Every change of a run that something was on for long enough after, with the end of what followed it, and what it
    did."""
    end = float(recording.time_s[-1]) if len(recording.time_s) else 0.0
    changes = sorted(recording.changes, key=lambda c: c.at_s)
    found = []
    for change, following in itertools.zip_longest(changes, changes[1:]):
        until = following.at_s if following is not None else end
        if until - change.at_s >= BEFORE_S and change.at_s >= BEFORE_S:
            found.append((change, until, effects(recording, change.at_s, until - EDGE_S)))
    return found


def _effect(
    recording: Recording, channel: Channel, row: Array, from_s: float, to_s: float, around: bool
) -> Effect | None:
    if around:
        first, last = (from_s - AROUND_S, from_s + AROUND_S), (to_s - AROUND_S, to_s + AROUND_S)
    else:
        length = min(AFTER_S, 0.5 * (to_s - from_s))
        first, last = (from_s - BEFORE_S, from_s - 0.5), (to_s - length, to_s)
    parts = [row[recording.between(*span)] for span in (first, last)]
    if channel.quantity == "temperature":
        parts = [despiked(p) for p in parts]
    known = [p[np.isfinite(p)] for p in parts]
    if not all(len(p) for p in known):
        return None
    before, after = (_mean(p) for p in known)
    plain = Effect(channel, before, after, None, None)
    if not plain.shown:
        return plain
    half, ninety = (_time_to(recording, row, from_s, to_s, before.value, after.value, s) for s in (0.5, 0.9))
    return Effect(channel, before, after, half, ninety)


def _mean(values: Array) -> Measured:
    """A mean with what its scatter leaves open; of what drifts, the drift is in it."""
    mean = mean_of(values)
    if len(values) < 4:
        return mean
    ends = np.array_split(values, 2)
    drift = abs(float(ends[1].mean() - ends[0].mean()))
    return Measured(mean.value, combine(mean.half_width or 0.0, COVERAGE_FACTOR * drift / np.sqrt(12.0)))


def _time_to(
    recording: Recording, row: Array, from_s: float, to_s: float, before: float, after: float, share: float
) -> float | None:
    """Seconds from the change until a share of the difference was reached for the first time."""
    part = recording.between(from_s, to_s)
    time_s, x = recording.time_s[part], row[part]
    good = np.isfinite(x)
    time_s, x = time_s[good], x[good]
    if len(x) < 3:
        return None
    width = max(1, round(SMOOTH_S / max(1e-6, float(np.median(np.diff(time_s))))))
    if width > 1 and len(x) > width:
        padded = np.pad(x, (width // 2, width - 1 - width // 2), mode="edge")
        x = np.convolve(padded, np.ones(width) / width, "valid")
    progress = (x - before) / (after - before)
    reached = np.flatnonzero(progress >= share)
    if len(reached) == 0:
        return None
    k = int(reached[0])
    if k == 0:
        return max(0.0, float(time_s[0]) - from_s)
    a, b = progress[k - 1], progress[k]
    at = time_s[k - 1] + (share - a) / (b - a) * (time_s[k] - time_s[k - 1])
    return max(0.0, float(at) - from_s)
