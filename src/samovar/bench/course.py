"""The course of a run: idle until calm, load until steady, cool-down until near idle again.

A course is told each sample and answers what to do; it owns no thread, clock or load.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from dataclasses import dataclass, field

import numpy as np

from samovar.bench.course_spec import CourseSpec, CourseStep
from samovar.core.steady import (
    DRIFT_LIMIT_K_PER_MIN,
    POWER_DRIFT_PCT_PER_MIN,
    find_steady,
    has_settled,
    plain_slope,
)
from samovar.core.uncertainty import mean_of

CHECK_EVERY_S = 10.0
READING_WAIT_S = 90.0
"""So long a settled load waits for a reading that is due, where a person attends."""
MOST_LEFT_K = 0.27
"""A load is not over while more than this of its way is still ahead."""
DRIFT_MARGIN = 0.9
"""The course asks for a little less drift than the reading does, so that the reading finds it steady too."""

NOISE = "noise"
AHEAD_S = 60.0
"""In a load of a fixed length what is due once settled, or at the end, is listened to so long before its end."""
SAME_READING = {"contact": "surface"}
"""Kinds of readings that a course asks for by another's name."""


@dataclass
class Course:
    """One course under way. `step` is idle, load, cool-down or done; `index` which of the load's steps it is
    at; `since_s` when it began. With `by_hand` the load waits, after idle, until `release` is called. With
    `attended` a load that has settled goes on for a while until the readings due then have been taken; so it does for sound
    levels where a microphone `listens`, and for as long as it is `listening`."""

    spec: CourseSpec
    by_hand: bool = False
    attended: bool = False
    listening: bool = False
    listens: bool = False
    step: str = "idle"
    index: int = 0
    waiting: bool = False
    since_s: float = 0.0
    steps: list[tuple[str, float]] = field(default_factory=lambda: [("idle", 0.0)])
    idle_die_c: float | None = None
    _time: list[float] = field(default_factory=list)
    _die: list[float] = field(default_factory=list)
    _power: list[float] = field(default_factory=list)
    _checked_s: float = 0.0
    _ended: bool = False
    _settled_s: float | None = None
    _taken: set[str] = field(default_factory=set)
    _released: bool = False

    def __post_init__(self) -> None:
        if self.spec.idle_most_s <= 0 and not self.by_hand:
            self.step = "load"
            self.steps = [("load", 0.0)]

    @property
    def part(self) -> CourseStep:
        """The load's step now, or the one that comes first."""
        return self.spec.plan[self.index]

    @property
    def settled(self) -> bool:
        """Whether the load has settled and goes on only for a reading that is due."""
        return self._settled_s is not None

    def release(self) -> None:
        """A load that is started by hand runs now."""
        self._released = True

    def reading_taken(self, what: str) -> None:
        """A person has taken a reading of this kind; a surface may be taken with a contact probe too."""
        self._taken.add(SAME_READING.get(what, what))

    def _wait_for_readings(self, at_s: float) -> bool:
        """Whether the load goes on, though it has settled, for a reading that is still due."""
        due = [
            r
            for r in self.spec.readings
            if r.at_s is None
            and r.what not in self._taken
            and (self.attended or (self.listens and r.what == NOISE))
        ]
        if self.listening:
            return True
        if not due or self.part.load_s is not None:
            return False
        if self._settled_s is None:
            self._settled_s = at_s
        return at_s - self._settled_s < READING_WAIT_S

    def is_due(self, what: str, at_s: float) -> bool:
        """Whether a reading of this kind is to be taken now, at a moment of the run, and was not yet."""
        if self.step != "load" or what in self._taken:
            return False
        part = self.part
        return any(
            at_s - self.since_s >= due.at_s
            if due.at_s is not None
            else self.settled or (part.load_s is not None and at_s - self.since_s >= part.load_s - AHEAD_S)
            for due in self.spec.readings
            if due.what == what
        )

    def load_ended(self) -> None:
        """The load has come to its own end: its step is over at the next sample."""
        self._ended = True

    def advance(self, at_s: float, die_c: float, power_w: float = math.nan) -> str:
        """Tell one sample; the answer is the step that holds from now on."""
        self._time.append(at_s)
        self._die.append(die_c)
        self._power.append(power_w)
        if self.step == "idle" and (self.waiting or self._released or self._idle_over(at_s)):
            if self.by_hand and not self._released:
                self.waiting = True
            else:
                self.waiting = False
                self.idle_die_c = self._recent_die(15.0)
                self._go("load", at_s)
        elif self.step == "load" and (self._ended or self._over(at_s)):
            self._ended, self._settled_s = False, None
            if self.index + 1 < len(self.spec.plan):
                self.index += 1
                self._go("load", at_s)
            else:
                self._go("cool-down", at_s)
        elif self.step == "cool-down" and self._cool(at_s):
            self._go("done", at_s)
        return self.step

    def _over(self, at_s: float) -> bool:
        """Whether the load's step ends with this sample."""
        if self._settled_s is None and not self._load_over(at_s):
            return False
        return not self._wait_for_readings(at_s)

    def _go(self, step: str, at_s: float) -> None:
        if step == "cool-down" and self.spec.cool_down_most_s <= 0:
            step = "done"
        self.step, self.since_s = step, at_s
        self.steps.append((step, at_s))
        self._checked_s = at_s

    def _tail(self, seconds: float) -> int:
        return bisect_left(self._time, self._time[-1] - seconds)

    def _recent_die(self, seconds: float) -> float | None:
        recent = np.array(self._die[self._tail(seconds) :])
        recent = recent[np.isfinite(recent)]
        return float(np.median(recent)) if len(recent) else None

    def _due(self, at_s: float) -> bool:
        if at_s - self._checked_s < CHECK_EVERY_S:
            return False
        self._checked_s = at_s
        return True

    def _idle_over(self, at_s: float) -> bool:
        length = at_s - self.since_s
        if length >= self.spec.idle_most_s:
            return True
        if length < self.spec.idle_least_s or not self._due(at_s):
            return False
        window = self._window(self.since_s, self.spec.idle_least_s)
        if window is None:
            return False
        time_s, die = window
        if len(die) < 8:
            return False
        return abs(plain_slope(time_s, die)) < self.spec.calm_k_per_min

    def _load_over(self, at_s: float) -> bool:
        length = at_s - self.since_s
        part = self.part
        if part.load_s is not None:
            return length >= part.load_s
        if length >= (part.load_most_s or self.spec.load_most_s):
            return True
        if length < 1.5 * self.spec.steady_least_s or not self._due(at_s):
            return False
        least = self.spec.steady_least_s
        begin = self._tail(length)
        time_s, die, power = (np.array(row[begin:]) for row in (self._time, self._die, self._power))
        good = np.isfinite(die)
        if not has_settled(time_s[good], die[good], DRIFT_MARGIN * DRIFT_LIMIT_K_PER_MIN, least, MOST_LEFT_K):
            return False
        if self.spec.within_k is not None:
            window = find_steady(time_s, die, shortest_s=least)
            mean = mean_of(die[time_s >= window.start_s]) if window.start_s is not None else None
            if mean is None or mean.half_width is None or mean.half_width > self.spec.within_k:
                return False
        good = np.isfinite(power)
        if not good.any() or float(power[good].mean()) <= 0:
            return True
        # A die that rides its limit is flat at once; only its power tells that the cooler has settled.
        recent = good & (time_s >= at_s - least)
        share = 100.0 * power / float(power[good].mean())
        limit = DRIFT_MARGIN * POWER_DRIFT_PCT_PER_MIN
        return has_settled(time_s[good], share[good], limit, least) if recent.any() else True

    def _window(self, since_s: float, seconds: float) -> tuple[np.ndarray, np.ndarray] | None:
        begin = self._tail(min(seconds, self._time[-1] - since_s))
        time_s, die = np.array(self._time[begin:]), np.array(self._die[begin:])
        good = np.isfinite(die)
        return (time_s[good], die[good]) if good.any() else None

    def _cool(self, at_s: float) -> bool:
        if at_s - self.since_s >= self.spec.cool_down_most_s:
            return True
        if at_s - self._checked_s < 2.0:
            return False
        self._checked_s = at_s
        now = self._recent_die(5.0)
        if self.idle_die_c is None:
            return at_s - self.since_s >= min(60.0, self.spec.cool_down_most_s)
        return (
            now is not None and at_s - self.since_s >= 10.0 and now <= self.idle_die_c + self.spec.cool_down_k
        )
