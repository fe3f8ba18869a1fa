"""The recorder: samples its sources at a fixed cadence and hands every sample on at once.

The cadence runs on the monotonic clock. A sample that comes late carries the time it was taken, a
sample that cannot be had is missing, and none is ever made up. A source that hangs is waited for only
briefly: its channels have a gap until it answers, and the others go on.
"""

from __future__ import annotations

import math
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

from samovar.bench.clock import Clock
from samovar.bench.course import Course
from samovar.bench.guard import Guard, GuardThread, Trip
from samovar.bench.loads.protocol import Load, LoadEnd, LoadError
from samovar.core.quantity import Channel
from samovar.core.recording import Mark
from samovar.sources.protocol import Source

NAN = float("nan")
LEAP_S = 10.0
"""A longer time between two samples is no hitch any more."""
WORK = Channel("Work", "work", "1/s", "other", "cpu", "load:work")


class Sink(Protocol):
    """Where samples go: an archive's run, or a list in memory."""

    def append(self, at_s: float, values: Sequence[float]) -> None:
        """Take one sample, one value for each channel."""
        ...

    def mark(self, mark: Mark) -> None:
        """Take a mark."""
        ...


@dataclass(frozen=True, slots=True)
class Outcome:
    """How a recording ended: sealed (the course ran through), stopped (by hand) or did-not-finish."""

    state: str
    reason: str | None
    duration_s: float


class _Reader:
    """Samples one source on its own thread, so that a source that hangs holds up only itself."""

    def __init__(self, source: Source) -> None:
        self.source = source
        self._asked = threading.Semaphore(0)
        self.answered = threading.Event()
        self.busy = False
        self._closing = False
        self.values: list[float] = []
        self._thread = threading.Thread(target=self._serve, name=f"source-{source.name}", daemon=True)
        self._thread.start()

    def close(self) -> None:
        """End the thread and close the source; one that hangs keeps both until it answers."""
        self._closing = True
        self._asked.release()

    def ask(self) -> None:
        if not self.busy:
            self.busy = True
            self.answered.clear()
            self._asked.release()

    def _serve(self) -> None:
        while True:
            self._asked.acquire()
            if self._closing:
                self.source.close()
                return
            self.values = self.source.sample()
            self.busy = False
            self.answered.set()


class Recorder:
    """One recording under way.

    Args:
        sources: what is sampled, in this order; `channels` joins theirs and the work rate.
        clock: the run's clock.
        course: what happens when; None records until stopped or `for_s` is over.
        loads: what the course puts on, one for each of its steps, or one for all; none records without.
        set_fans: sets the machine's fans to a share of full speed; False where hands must.
        guard: when to stop the load; None without one.
        read_die: a quick look at the die for the guard's own thread.
        sink: takes every sample and mark as it comes.
        rate_hz: samples a second.
        for_s: ends a recording without a course after this time.
        patience_s: how long a source is waited for; None waits without limit and without a thread,
            for sources that cannot hang.
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
        for_s: float | None = None,
        patience_s: float | None = 0.25,
    ) -> None:
        self.sources = list(sources)
        self.channels = tuple(c for s in self.sources for c in s.channels) + ((WORK,) if loads else ())
        self.clock = clock
        self.course = course
        self._loads = list(loads)
        self.load: Load | None = self._loads[0] if self._loads else None
        self._set_fans = set_fans
        self.load_end: LoadEnd | None = None
        self._last_at_s: float | None = None
        self._sink = sink
        self._guard = guard
        self._interval_s = 1.0 / rate_hz
        self._for_s = for_s
        self._patience_s = patience_s
        self._stop = threading.Event()
        self._trip: Trip | None = None
        self._loaded = False
        self._lock = threading.RLock()
        self._marks: list[Mark] = []
        self._start = clock.now()
        self._last_work: tuple[float, float] | None = None
        self._readers = [_Reader(s) for s in self.sources] if patience_s is not None else []
        self._die = next(
            (i for i, c in enumerate(self.channels) if c.quantity == "temperature" and c.role == "die"), None
        )
        self._power = next(
            (i for i, c in enumerate(self.channels) if c.quantity == "power" and c.role == "package"), None
        )
        watch = (
            guard is not None and read_die is not None and self._die is not None and patience_s is not None
        )
        self._watch = (
            GuardThread(guard, read_die, self.elapsed, self._tripped)
            if watch and guard and read_die
            else None
        )

    def elapsed(self) -> float:
        """The run's time now, seconds."""
        return self.clock.now() - self._start

    @property
    def stopping(self) -> bool:
        """Whether it was asked to stop."""
        return self._stop.is_set()

    def stop(self) -> None:
        """End the recording by hand: the load stops at once, the run is sealed as stopped."""
        self._stop.set()
        self._load_off()

    def mark(self, text: str) -> Mark:
        """Note something at this moment."""
        mark = Mark(self.elapsed(), text)
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
        try:
            return self._run()
        finally:
            self._load_off()
            if self._watch:
                self._watch.close()
            for reader in self._readers:
                reader.close()
            if not self._readers:
                for source in self.sources:
                    source.close()

    def _run(self) -> Outcome:
        tick = 0
        self._follow(self.course.step if self.course else ("load" if self.load else "idle"), 0.0)
        while True:
            if tick == 0:
                # The run's time is counted from its first sample.
                self._start = self.clock.now()
            # The moment the sources are asked: waiting for one that hangs must not make the others late.
            at_s = self.elapsed() if tick else 0.0
            values = self._collect()
            self._sink.append(at_s, values)
            self._tell_a_leap(at_s)
            self._hand_on_marks()
            if self._stop.is_set():
                return Outcome("stopped", "stopped by hand", at_s)
            trip = self._trip or self._own_guard(at_s, values) or self._other_limits(at_s, values)
            if trip is not None:
                return self._ended_by(trip, at_s)
            self._look_for_the_end()
            if self.course is not None:
                before = (self.course.step, self.course.index)
                step = self.course.advance(
                    at_s, self._pick(values, self._die), self._pick(values, self._power)
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
        last, self._last_at_s = self._last_at_s, at_s
        if last is not None and at_s - last > max(LEAP_S, 5.0 * self._interval_s):
            self._sink.mark(
                Mark(at_s, f"no sample for {at_s - last:.0f} s: the machine slept, or stood still")
            )

    def _look_for_the_end(self) -> None:
        """A load that ends by itself, such as a command, ends its step."""
        if not self._loaded or self.load is None or self.course is None:
            return
        end = self.load.ended()
        if end is not None:
            self.load_end = end
            self.mark(f"{self.load.name} {end.words}")
            self._hand_on_marks()
            self.course.load_ended()

    def _done(self, at_s: float) -> Outcome:
        """A command that failed has not done what it was to measure."""
        if self.load_end is not None and self.load_end.status != 0 and self.load is not None:
            return Outcome("did-not-finish", f"{self.load.name} {self.load_end.words}", at_s)
        return Outcome("sealed", None, at_s)

    def _ended_by(self, trip: Trip, at_s: float) -> Outcome:
        self._load_off()
        self._sink.mark(Mark(trip.at_s, f"guard: {trip.reason}"))
        return Outcome("did-not-finish", trip.reason, at_s)

    def _collect(self) -> list[float]:
        values: list[float] = []
        if self._patience_s is None:
            for source in self.sources:
                values.extend(source.sample())
        else:
            for reader in self._readers:
                reader.ask()
            # A rig that lives faster than life waits for us: there is no need to hurry its sensors.
            hurry = self.clock.speed == 1.0
            patience = max(0.02, min(self._patience_s, 0.5 * self._interval_s)) if hurry else 2.0
            for reader in self._readers:
                if reader.answered.wait(patience):
                    values.extend(reader.values)
                else:
                    values.extend([NAN] * len(reader.source.channels))
        if self.load is not None:
            values.append(self._work_rate())
        return values

    def _work_rate(self) -> float:
        assert self.load is not None
        if not self._loaded:
            self._last_work = None
            return 0.0
        now, done = self.clock.now(), self.load.work_done()
        last, self._last_work = self._last_work, (now, done)
        return (done - last[1]) / (now - last[0]) if last and now > last[0] else NAN

    @staticmethod
    def _pick(values: list[float], index: int | None) -> float:
        return NAN if index is None else values[index]

    def _own_guard(self, at_s: float, values: list[float]) -> Trip | None:
        """The guard's look at the recorder's own samples, where no thread watches."""
        if self._guard is None or self._watch is not None or not self._loaded or self._die is None:
            return None
        return self._guard.look(at_s, values[self._die])

    def _other_limits(self, at_s: float, values: list[float]) -> Trip | None:
        """The limits of other sensors than the die, by the recorder's own samples."""
        if self._guard is None or not self._guard.limits or not self._loaded:
            return None
        return self._guard.look_at_others(at_s, self.channels, values)

    def _tripped(self, trip: Trip) -> None:
        self._load_off()
        self._trip = trip

    def _follow(self, step: str, at_s: float) -> None:
        """Do what a new step of the course asks for."""
        if self.load is None:
            return
        if step == "load":
            self._put_on(at_s)
        elif self._loaded:
            self._load_off()
            self._sink.mark(Mark(at_s, "load off"))

    def _put_on(self, at_s: float) -> None:
        """The load of the course's present step, and the fans as it wants them."""
        index = self.course.index if self.course else 0
        wanted = self._loads[min(index, len(self._loads) - 1)]
        part = self.course.part if self.course else None
        if part is not None and part.fan_share is not None:
            done = self._set_fans is not None and self._set_fans(part.fan_share)
            share = f"fans {100 * part.fan_share:.0f} %"
            self._sink.mark(Mark(at_s, share if done else f"{share}: set them by hand"))
        if self._loaded and wanted is self.load:
            return
        with self._lock:
            self._load_off()
            self.load = wanted
            self.load.start()
            self._loaded = True
            self._last_work = (self.clock.now(), self.load.work_done())
        if self._watch:
            self._watch.armed.set()
        self._sink.mark(Mark(at_s, f"load on: {self.load.name}"))

    def _load_off(self) -> None:
        with self._lock:
            if self.load is not None and self._loaded:
                self._loaded = False
                if self._watch:
                    self._watch.armed.clear()
                self.load.stop()

    def _hand_on_marks(self) -> None:
        with self._lock:
            marks, self._marks = self._marks, []
        for mark in marks:
            self._sink.mark(mark)


__all__ = ["WORK", "LoadError", "Outcome", "Recorder", "Sink"]
