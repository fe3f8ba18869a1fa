"""What changed between two moments of a run: each channel's value at both, and the difference."""

from __future__ import annotations

from dataclasses import dataclass

from samovar.core.quantity import Channel
from samovar.core.recording import Recording, held_value, stride_of

_FIRST = ("temperature", "power", "clock", "fan", "work")


@dataclass(frozen=True, slots=True)
class Between:
    """One channel at two moments, in its unit; None where it has no value there."""

    channel: Channel
    first: float | None
    second: float | None

    @property
    def change(self) -> float | None:
        """Second less first."""
        return None if self.first is None or self.second is None else self.second - self.first


def between(recording: Recording, first_s: float, second_s: float) -> list[Between]:
    """Every channel that has a value at one of two moments, temperatures first; a channel that is read less often
    counts with the value that still holds."""
    if len(recording.time_s) == 0:
        return []
    places = (recording.index_at(first_s), recording.index_at(second_s))
    found = []
    for channel, row in zip(recording.channels, recording.values, strict=True):
        a, b = (held_value(row, place, stride_of(row)) for place in places)
        if a is not None or b is not None:
            found.append(Between(channel, a, b))
    rank = {q: k for k, q in enumerate(_FIRST)}
    return sorted(found, key=lambda x: rank.get(x.channel.quantity, len(rank)))
