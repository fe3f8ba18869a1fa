"""What a run's load is guarded by, and what is said where nothing can."""

from __future__ import annotations

from samovar.bench.course_spec import CourseSpec, read_limits
from samovar.bench.guard import Guard
from samovar.bench.loads.protocol import LoadError

NO_HEAT = ("idle",)
"""Loads that make no heat: there is nothing to guard."""
UNGUARDED = "unguarded: no guard watched the die"
"""The mark of a run whose load ran without a guard."""


class Unguardable(LoadError):
    """Nothing on the machine stands for the die, and nobody has said that the load may run without a guard."""


def guard_of(spec: CourseSpec) -> Guard:
    """The guard that a course asks for. Raises LoadError: a limit that guards nothing."""
    try:
        return Guard(spec.stop_above_c, limits=read_limits(spec.limits), rise_k_per_s=spec.rise_k_per_s)
    except ValueError as problem:
        raise LoadError(f"{spec.load}: {problem}; set the course's guard right") from problem
