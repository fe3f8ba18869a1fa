"""The recorder: samples its sources at a fixed cadence and hands every sample on at once.

The cadence runs on the monotonic clock. A sample that comes late carries the time it was taken, a
sample that cannot be had is missing, and none is ever made up. A source that hangs is waited for only
briefly: its channels have a gap until it answers, and the others go on.
"""

from __future__ import annotations

import math
import threading
from bisect import bisect_left
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

from samovar.bench.clock import Clock
from samovar.bench.course import Course
from samovar.bench.guard import Guard, GuardThread, Trip
from samovar.bench.loading import Loading
from samovar.bench.loads.heartbeat import heart
from samovar.bench.loads.protocol import WORK, Load, LoadEnd, LoadError
from samovar.bench.sampler import Late, Sampler
from samovar.core.die import die_channels, hottest
from samovar.core.marks import FANS, JOINS, LEAVES, LOAD, Change, Mark
from samovar.sources.protocol import Source

NAN = float("nan")
LEAP_S = 10.0
"""A longer time between two samples is no hitch any more."""
MOMENTS_HELD = 2400
"""Of so many samples the moments are known, so that what comes late finds its own: two minutes at 20 Hz, longer than a wire
is waited for or a logger keeps rows to itself."""


class Sink(Protocol):
    """Where samples go: an archive's run, or a list in memory."""

    def append(self, at_s: float, values: Sequence[float]) -> None:
        """Take one sample, one value for each channel."""
        ...

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        """Take values that came too late for the sample of this moment; NaN where there is nothing to add."""
        ...

    def mark(self, mark: Mark) -> None:
        """Take a mark."""
        ...

    def change(self, change: Change) -> None:
        """Take a change of load or fans."""
        ...


@dataclass(frozen=True, slots=True)
class Outcome:
    """How a recording ended: sealed (the course ran through), stopped (by hand), interrupted (the machine is gone) or
    did-not-finish, and whether it was the guard that ended it."""

    state: str
    reason: str | None
    duration_s: float
    by_guard: bool = False


class Recorder:
    """One recording under way.

    Args:
        sources: what is sampled, in this order; `channels` joins theirs and the rates of work.
        clock: the run's clock.
        course: what happens when; None records until stopped or `for_s` is over.
        loads: what the course puts on, one for each of its steps, or one for all; none records without.
        set_fans: sets the machine's fans to a share of full speed; False where hands must.
        guard: when to stop the load; None without one.
        read_die: a quick look at the die for the guard's own thread.
        sink: takes every sample and mark as it comes.
        rate_hz: samples a second.
        rates_hz: sources that are asked less often, by name; their channels have no value in between.
        for_s: ends a recording without a course after this time.
        patience_s: how long sources are waited for at each tick; None waits without limit and without a thread,
            for sources that cannot hang.
        lost: why the machine cannot be measured any more, looked at with every sample; None as long as it can.
    """

    def __init__(
        self,
        sources: Sequence[Source],
        clock: Clock,
        sink: Sink,
        *,
        course: Course | None = None,
        loads: Sequence[Load] = (),
        set_fans: Callable[[float], bool] | None = None,
        guard: Guard | None = None,
        read_die: Callable[[], float] | None = None,
        rate_hz: float = 1.0,
        rates_hz: dict[str, float] | None = None,
        for_s: float | None = None,
        patience_s: float | None = 0.25,
        lost: Callable[[], str | None] = lambda: None,
    ) -> None:
        self._interval_s = 1.0 / rate_hz
        self._sampler = Sampler(sources, clock, self._interval_s, rates_hz or {}, patience_s)
        self._loading = Loading(loads, clock)
        self._work = tuple(dict.fromkeys(c for load in loads for c in load.work))
        self.channels = self._sampler.channels + self._work
        self.strides = self._sampler.strides + [1] * len(self._work)
        self.clock = clock
        self.course = course
        self._set_fans = set_fans
        self.load_ends: list[tuple[str, LoadEnd]] = []
        self._moments: deque[float] = deque(maxlen=MOMENTS_HELD)
        self._sink = sink
        self._guard = guard
        self._for_s = for_s
        self._lost = lost
        self._stop = threading.Event()
        self.stop_reason = ""
        self._trip: Trip | None = None
        self._lock = threading.Lock()
        self._marks: list[Mark] = []
        self._wishes: list[Callable[[float], None]] = []
        self._start = clock.now()
        self._die = die_channels(self.channels)
        self._power = next(
            (i for i, c in enumerate(self.channels) if c.quantity == "power" and c.role == "package"), None
        )
        watch = guard is not None and read_die is not None and bool(self._die) and patience_s is not None
        self._watch = (
            GuardThread(guard, read_die, self.elapsed, self._tripped)
            if watch and guard and read_die
            else None
        )
        self._loading.watch = self._watch

    @property
    def load(self) -> Load | None:
        """The course's load, on or not."""
        return self._loading.load

    @property
    def joined(self) -> list[str]:
        """The loads that joined the course's and are on."""
        return self._loading.joined

    def elapsed(self) -> float:
        """The run's time now, seconds."""
        return self.clock.now() - self._start

    @property
    def begun_s(self) -> float:
        """The moment of its first sample, by the run's clock."""
        return self._start

    @property
    def stopping(self) -> bool:
        """Whether it was asked to stop."""
        return self._stop.is_set()

    def stop(self, reason: str = "stopped by hand") -> None:
        """End the recording by hand: the load stops at once, the run is sealed as stopped."""
        self.stop_reason = reason
        self._stop.set()
        self._loading.off()

    def wish_fans(self, share: float) -> None:
        """Set the fans to a share of full speed at the next sample, whatever the course says."""
        self._wish(lambda at_s: self._fans(share, at_s))

    def wish_join(self, load: Load) -> None:
        """Let another load join the course's at the next sample; nothing happens where none is on by then."""
        self._wish(lambda at_s: self._join(load, at_s))

    def wish_leave(self, name: str) -> None:
        """Take a load that joined off again at the next sample."""
        self._wish(lambda at_s: self._leave(name, at_s))

    def _wish(self, act: Callable[[float], None]) -> None:
        with self._lock:
            self._wishes.append(act)

    def _fulfil(self, at_s: float) -> None:
        """Do what was wished for since the last sample."""
        with self._lock:
            wishes, self._wishes = self._wishes, []
        for act in wishes:
            act(at_s)

    def _fans(self, share: float, at_s: float) -> None:
        done = self._set_fans is not None and self._set_fans(share)
        change = Change(at_s, FANS, value=share)
        self._sink.change(change)
        words = change.words
        self._sink.mark(Mark(at_s, words if done else f"{words}: set them by hand"))

    def _join(self, load: Load, at_s: float) -> None:
        try:
            joins = self._loading.join(load)
        except LoadError as problem:
            self._sink.mark(Mark(at_s, f"{load.name} could not join: {problem}"))
            return
        if joins:
            self._sink.change(Change(at_s, JOINS, load.name))
            self._sink.mark(Mark(at_s, f"{load.name} joins" + (": start it by hand" if load.by_hand else "")))

    def _leave(self, name: str, at_s: float) -> None:
        if self._loading.leave(name):
            self._sink.change(Change(at_s, LEAVES, name))
            self._sink.mark(Mark(at_s, f"{name} leaves"))

    def mark(self, text: str, at_s: float | None = None) -> Mark:
        """Note something at this moment, or at one that lies behind."""
        mark = Mark(self.elapsed() if at_s is None else at_s, text)
        with self._lock:
            self._marks.append(mark)
        return mark

    def run(self) -> Outcome:
        """Record until the course is through, the time is over, the guard trips or `stop` is called.

        Raises:
            LoadError: the load could not be put on; nothing of it runs.
        """
        self._start = self.clock.now()
        if self._watch:
            self._watch.start()
        with heart().vouched(self._watch.ticking if self._watch else None):
            try:
                return self._run()
            finally:
                self._loading.off()
                if self._watch:
                    self._watch.close()
                self._sampler.close()
                self._say(self.elapsed())

    def _run(self) -> Outcome:
        tick = 0
        self._follow(self.course.step if self.course else ("load" if self.load else "idle"), 0.0)
        while True:
            if tick == 0:
                # The run's time is counted from its first sample.
                self._start = self.clock.now()
            # The moment the sources are asked: waiting for one that hangs must not make the others late.
            at_s = self.elapsed() if tick else 0.0
            values, late = self._sampler.collect(tick)
            if self.load is not None:
                values += self._loading.work_rates(self._work)
            self._place(late, at_s, values)
            self._sink.append(at_s, values)
            self._tell_a_leap(at_s)
            self._say(at_s)
            self._hand_on_marks()
            self._fulfil(at_s)
            if self._stop.is_set():
                return Outcome("stopped", self.stop_reason, at_s)
            trip = self._trip or self._own_guard(at_s, values) or self._other_limits(at_s, values)
            if trip is not None:
                return self._ended_by(trip, at_s)
            why = self._lost()
            if why is not None:
                return Outcome("interrupted", why, at_s)
            self._look_for_the_end()
            if self.course is not None:
                before = (self.course.step, self.course.index)
                step = self.course.advance(
                    at_s, self._die_now(values), NAN if self._power is None else values[self._power]
                )
                if (step, self.course.index) != before:
                    self._follow(step, at_s)
                if step == "done":
                    return self._done(at_s)
            elif self._for_s is not None and at_s >= self._for_s - 0.5 * self._interval_s:
                return Outcome("sealed", None, at_s)
            # A tick that was missed is not made up: the next one on the grid is taken.
            tick = max(tick + 1, math.floor(self.elapsed() / self._interval_s + 0.25))
            self.clock.wait_until(self._start + tick * self._interval_s, self._stop)

    def _tell_a_leap(self, at_s: float) -> None:
        """A long time without a sample is marked: the machine slept, or everything stood still."""
        last = self._moments[-1] if self._moments else None
        self._moments.append(at_s)
        if last is not None and at_s - last > max(LEAP_S, 5.0 * self._interval_s):
            self._sink.mark(
                Mark(at_s, f"no sample for {at_s - last:.0f} s: the machine slept, or stood still")
            )

    def _place(self, late: list[Late], at_s: float, values: list[float]) -> None:
        """What came late goes to the sample whose moment is nearest to its own: this one, or one before."""
        moments = [*self._moments, at_s] if late else []
        for piece in late:
            moment_s = piece.moment_s - self._start
            if moment_s < moments[0] - self._interval_s:
                # Taken before the run began, or longer ago than anything is waited for.
                continue
            end = piece.first + len(piece.values)
            after = bisect_left(moments, moment_s, 1, len(moments) - 1) if len(moments) > 1 else 0
            nearest_s = min(moments[max(0, after - 1) : after + 1], key=lambda one_s: abs(one_s - moment_s))
            if nearest_s != at_s:
                row = [NAN] * len(self.channels)
                row[piece.first : end] = piece.values
                self._sink.amend(nearest_s, row)
            else:
                fresh = values[piece.first : end]
                values[piece.first : end] = [
                    new if math.isfinite(new) else old for new, old in zip(fresh, piece.values, strict=True)
                ]

    def _say(self, at_s: float) -> None:
        """What went wrong with sources, or could not be ended, is marked."""
        for words in (*self._sampler.said(), *self._loading.said()):
            self._sink.mark(Mark(at_s, words))

    def _look_for_the_end(self) -> None:
        """A load that ends by itself, such as a command, ends its step; one that joined is only noted."""
        for load, end in self._loading.ended():
            self.load_ends.append((load.name, end))
            self.mark(f"{load.name} {end.words}")
            self._hand_on_marks()
            if end.tripped:
                self._tripped(Trip(self.elapsed(), end.tripped))
            elif load is self.load and self.course is not None:
                self.course.load_ended()

    def _done(self, at_s: float) -> Outcome:
        """A load that failed has not done what it was to measure."""
        for name, end in self.load_ends:
            if end.failed:
                return Outcome("did-not-finish", f"{name} {end.words}", at_s)
        return Outcome("sealed", None, at_s)

    def _ended_by(self, trip: Trip, at_s: float) -> Outcome:
        self._loading.off()
        self._sink.change(Change(trip.at_s, LOAD))
        self._sink.mark(Mark(trip.at_s, f"guard: {trip.reason}"))
        return Outcome("did-not-finish", trip.reason, at_s, by_guard=True)

    def _die_now(self, values: Sequence[float]) -> float:
        return hottest([values[k] for k in self._die])

    def _own_guard(self, at_s: float, values: list[float]) -> Trip | None:
        """The guard's look at the recorder's own samples, where no thread watches."""
        if self._guard is None or self._watch is not None or not self._loading.on or not self._die:
            return None
        return self._guard.look(at_s, self._die_now(values))

    def _other_limits(self, at_s: float, values: list[float]) -> Trip | None:
        """The limits of other sensors than the die, by the recorder's own samples."""
        if self._guard is None or not self._guard.limits or not self._loading.on:
            return None
        return self._guard.look_at_others(at_s, self.channels, values)

    def _tripped(self, trip: Trip) -> None:
        self._trip = trip
        self._loading.off()

    def _follow(self, step: str, at_s: float) -> None:
        """Do what a new step of the course asks for."""
        if self.load is None:
            return
        if step == "load":
            self._put_on(at_s)
        elif self._loading.off():
            self._sink.change(Change(at_s, LOAD))
            self._sink.mark(Mark(at_s, "load off"))

    def _put_on(self, at_s: float) -> None:
        """The load of the course's present step, and the fans as it wants them."""
        part = self.course.part if self.course else None
        if part is not None and part.fan_share is not None:
            self._fans(part.fan_share, at_s)
        if self._loading.step(self.course.index if self.course else 0) and self.load is not None:
            self._sink.change(Change(at_s, LOAD, self.load.name))
            self._sink.mark(Mark(at_s, f"load on: {self.load.name}"))

    def _hand_on_marks(self) -> None:
        with self._lock:
            marks, self._marks = self._marks, []
        for mark in marks:
            self._sink.mark(mark)


__all__ = ["WORK", "LoadError", "Outcome", "Recorder", "Sink"]
