"""What a run's load is guarded by, and what is said where nothing can."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.bench.course_spec import CourseSpec, read_limits
from samovar.bench.guard import Guard
from samovar.bench.loads.protocol import LoadError
from samovar.core.die import die_channels
from samovar.core.instrument import FOLLOW, Instrument
from samovar.core.quantity import Channel

NO_HEAT = ("idle",)
"""Loads that make no heat: there is nothing to guard."""
UNGUARDED = "unguarded: no guard watched the die"
"""The mark of a run whose load ran without a guard."""


class Unguardable(LoadError):
    """Nothing on the machine stands for the die, and nobody has said that the load may run without a guard."""


def guard_is_slow(channels: Sequence[Channel], beside: Sequence[object]) -> str:
    """Why the guard cannot be as quick as it should: all that stands for the die comes from a log that is followed, or from
    instruments. The words for people; empty where the machine's own sensors do.

    Args:
        channels: all of a run's.
        beside: the sources beside the machine.
    """
    die = [channels[k] for k in die_channels(channels)]
    described = [
        one
        for one in (getattr(source, "instrument", None) for source in beside)
        if isinstance(one, Instrument)
    ]
    slowest = ""
    for channel in die:
        there = next((one for one in described if channel.id.startswith(f"{one.name}:")), None)
        if there is None:
            return ""
        every = (
            "as its log is written"
            if there.protocol.name == FOLLOW
            else f"as a reading every {there.every_s:g} s"
        )
        slowest = f"only as quick {every} ({there.name})"
    return slowest


def guard_of(spec: CourseSpec) -> Guard:
    """The guard that a course asks for. Raises LoadError: a limit that guards nothing."""
    try:
        return Guard(spec.stop_above_c, limits=read_limits(spec.limits), rise_k_per_s=spec.rise_k_per_s)
    except ValueError as problem:
        raise LoadError(f"{spec.load}: {problem}; set the course's guard right") from problem
