"""Stretches of a run that a person has taken out of every figure, with the reason: a door that was opened, a cable that
was touched. The samples stay; only what is computed from them looks away."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from samovar.core.recording import Recording


@dataclass(frozen=True, slots=True)
class Exclusion:
    """One stretch, seconds from the first sample, both ends in it, and why."""

    start_s: float
    end_s: float
    reason: str


def without(recording: Recording, exclusions: Sequence[Exclusion]) -> Recording:
    """The recording with the samples of these stretches made missing; the same recording where there are none."""
    if not exclusions:
        return recording
    values = recording.values.copy()
    for one in exclusions:
        values[:, recording.between(one.start_s, one.end_s)] = float("nan")
    return replace(recording, values=values, _cache={})


def with_added(exclusions: Sequence[Exclusion], new: Exclusion) -> list[Exclusion]:
    """The stretches with another one, in order of time; those that it touches become one with it, their reasons
    kept.

    Raises:
        ValueError: it is empty or ends before it begins.
    """
    if not new.end_s > new.start_s:
        raise ValueError("a stretch that is left out needs an end after its beginning")
    apart = [e for e in exclusions if e.end_s < new.start_s or e.start_s > new.end_s]
    touching = [e for e in exclusions if e not in apart]
    reasons = list(dict.fromkeys([*(e.reason for e in touching), new.reason]))
    joined = Exclusion(
        min([new.start_s, *(e.start_s for e in touching)]),
        max([new.end_s, *(e.end_s for e in touching)]),
        "; ".join(reasons),
    )
    return sorted([*apart, joined], key=lambda e: e.start_s)


def at(exclusions: Sequence[Exclusion], moment_s: float) -> Exclusion | None:
    """The stretch a moment lies in; None where it lies in none."""
    return next((e for e in exclusions if e.start_s <= moment_s <= e.end_s), None)
