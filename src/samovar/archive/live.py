"""A run under way: the recorder on its own thread, its samples in the archive and in memory at once."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from dataclasses import asdict

import numpy as np

from samovar.archive.archive import Archive
from samovar.archive.records import HandReading, Review, Setup
from samovar.bench.course import Course
from samovar.bench.course_spec import CourseSpec, read_limits
from samovar.bench.guard import Guard
from samovar.bench.loads.protocol import LoadError
from samovar.bench.machine import SLOW, Machine
from samovar.bench.recorder import Outcome, Recorder
from samovar.core.facts import Facts
from samovar.core.quantity import Channel
from samovar.core.recording import Array, Mark, Recording
from samovar.core.rig import rates_of
from samovar.sources.hand import HandSource

NO_LOAD = "none"
ROOM = "room"
ROOM_BY_HAND = Channel("Room by hand", "temperature", "°C", "inlet", "case", "hand:room")
ROOM_HOLDS_S = 1800.0
"""So long a room temperature that was typed in counts; a room drifts."""


class LiveRun:
    """One run being recorded.

    Args:
        archive: where it goes.
        machine: what is measured and loaded.
        spec: its course; a load named `none` records without load until `stop` or `for_s`.
        review, setup: the cell it belongs to; the inbox where None.
        rate_hz: samples a second of clocks, powers and the chip's temperatures; the rig's own where None.
        slow_rate_hz: of the other sensors; the rig's own where None.
        for_s: with no load, ends the recording after this time.
        on_sample: told every sample, from the recorder's thread.
        patience_s: see Recorder.
        attended: a person takes the readings that the course asks for; without one it waits for none.
        typed: a person may type the room's temperature, where no probe gives it.

    Raises:
        LoadError: no such load, or not so many threads.
    """

    def __init__(
        self,
        archive: Archive,
        machine: Machine,
        spec: CourseSpec,
        *,
        review: Review | None = None,
        setup: Setup | None = None,
        facts: Facts | None = None,
        rate_hz: float | None = None,
        slow_rate_hz: float | None = None,
        for_s: float | None = None,
        on_sample: Callable[[float, Sequence[float]], None] | None = None,
        patience_s: float | None = 0.25,
        attended: bool = False,
        typed: bool = False,
    ) -> None:
        self.archive = archive
        self.machine = machine
        self.spec = spec
        self.review = review
        self.setup = setup
        self.facts = facts or (setup.facts if setup else Facts())
        if setup is not None:
            machine.fit(setup.name, [p.name for p in setup.products], setup.changes)
        loaded = spec.load != NO_LOAD
        own = archive.plans.own_loads()
        names = [part.load or spec.load for part in spec.plan] if loaded else []
        made = {name: machine.make_load(name, spec.threads, own) for name in dict.fromkeys(names)}
        rig = setup.rig if setup else None
        fast_hz = rate_hz or rates_of(rig)[0]
        slow_hz = min(fast_hz, slow_rate_hz or (rates_of(rig)[1] if rate_hz is None else fast_hz))
        sources, self._die_watch = machine.open_sources(rig.sensors if rig else None, slow_hz < fast_hz)
        self._own_loads = own
        self.room_by_hand: HandSource | None = None
        if typed and not any(c.role == "inlet" for s in sources for c in s.channels):
            self.room_by_hand = HandSource([ROOM_BY_HAND], machine.clock.now, ROOM_HOLDS_S)
            sources = [*sources, self.room_by_hand]
        self.by_hand = any(load.by_hand for load in made.values())
        self.course = Course(spec, self.by_hand, attended) if loaded else None
        self.recorder = Recorder(
            [*sources, *machine.companions()],
            machine.clock,
            self,
            course=self.course,
            loads=[made[name] for name in names],
            set_fans=machine.set_fans,
            guard=Guard(spec.stop_above_c, limits=read_limits(spec.limits), rise_k_per_s=spec.rise_k_per_s)
            if loaded
            else None,
            read_die=self._die_watch,
            rate_hz=fast_hz,
            rates_hz={SLOW: slow_hz},
            for_s=for_s,
            patience_s=patience_s,
        )
        self.channels: tuple[Channel, ...] = self.recorder.channels
        self.outcome: Outcome | None = None
        self.error: str | None = None
        self.changed_s: float | None = None
        self.sealed = threading.Event()
        self.give_up = threading.Event()
        self._on_sample = on_sample
        self._lock = threading.Lock()
        self._time = np.empty(1024)
        self._values = np.empty((len(self.channels), 1024))
        self._count = 0
        self._marks: list[Mark] = []
        self.hand_readings: list[HandReading] = []
        self.writer = archive.runs.begin(
            self.channels,
            spec.load,
            machine.clock.started(),
            review_id=review.id if review else None,
            setup_id=setup.id if setup else None,
            facts=self.facts,
            course=asdict(spec),
        )
        self._thread: threading.Thread | None = None

    @property
    def number(self) -> int:
        """The run's number in the archive."""
        return self.writer.number

    @property
    def pass_number(self) -> int:
        """Which pass of its cell it is."""
        return self.writer.pass_number

    @property
    def id(self) -> str:
        """The run's name."""
        return f"r{self.number:04d}"

    @property
    def step(self) -> str:
        """The course's step now; idle for a recording without load."""
        return self.course.step if self.course else "idle"

    def start(self) -> None:
        """Record on a thread of its own."""
        self._thread = threading.Thread(target=self.run, name="recorder", daemon=True)
        self._thread.start()

    @property
    def alive(self) -> bool:
        """Whether it was started on a thread of its own that still lives."""
        return self._thread is not None and self._thread.is_alive()

    def run(self) -> Outcome:
        """Record in the foreground; returns once the run is sealed."""
        try:
            self.outcome = self.recorder.run()
        except LoadError as problem:
            self.error = str(problem)
            self.outcome = Outcome("did-not-finish", str(problem), self.recorder.elapsed())
        except Exception as problem:
            # Whatever went wrong: what was recorded is kept, and the reason with it.
            self.error = f"the recorder failed: {problem}"
            self.outcome = Outcome("did-not-finish", self.error, self.recorder.elapsed())
        finally:
            if self._die_watch is not None:
                self._die_watch.close()
        self._keep_score()
        # With no room on the disk, or the archive held by another program, the run waits in memory.
        while not self.archive.runs.seal(self.writer, self.outcome.state, self.outcome.reason):
            if self.give_up.wait(1.0):
                break
        self.sealed.set()
        return self.outcome

    def release(self) -> None:
        """The load that a person starts elsewhere runs now."""
        if self.course is not None:
            self.course.release()

    def load_over(self) -> None:
        """The load that a person starts elsewhere has ended."""
        if self.course is not None:
            self.course.load_ended()

    @property
    def waiting(self) -> bool:
        """Whether it waits for a person to start the load."""
        return self.course is not None and self.course.waiting

    def _keep_score(self) -> None:
        """The score of a command, and the time it took, among the readings by hand."""
        end = self.recorder.load_end
        if end is None:
            return
        at_s, name = self.recorder.elapsed(), self.spec.load
        found = [HandReading(at_s, "time", round(end.seconds, 2), 0.1, "s", f"{name}, from start to exit")]
        if end.score is not None:
            unit = end.score_unit[:10]
            found.append(HandReading(at_s, "score", end.score, None, unit, f"{name}, from its output"))
        for reading in found:
            self.archive.runs.add_hand_reading(self.number, reading)
            self.hand_readings.append(reading)

    def stop(self) -> None:
        """End it by hand."""
        self.recorder.stop()

    def wait(self, seconds: float | None = None) -> bool:
        """Wait until it is sealed."""
        return self.sealed.wait(seconds)

    def append(self, at_s: float, values: Sequence[float]) -> None:
        """Take a sample from the recorder."""
        self.writer.append(at_s, values)
        with self._lock:
            if self._count == len(self._time):
                self._time = np.concatenate([self._time, np.empty(self._count)])
                self._values = np.concatenate([self._values, np.empty_like(self._values)], axis=1)
            self._time[self._count] = at_s
            self._values[:, self._count] = values
            self._count += 1
        if self._on_sample is not None:
            self._on_sample(at_s, values)

    def mark(self, mark: Mark) -> None:
        """Take a mark from the recorder."""
        with self._lock:
            self._marks.append(mark)
        self.writer.mark(mark)

    def change_fans(self, share: float) -> None:
        """Set the fans to a share of full speed now, as a step of the course."""
        self.changed_s = self.recorder.elapsed()
        self.recorder.wish_fans(share)

    def join(self, name: str) -> None:
        """Let another load join the one that is on. Raises LoadError: there is none of this name."""
        load = self.machine.make_load(name, None, self._own_loads)
        self.changed_s = self.recorder.elapsed()
        self.recorder.wish_join(load)

    def leave(self, name: str) -> None:
        """Take a load that joined off again."""
        self.changed_s = self.recorder.elapsed()
        self.recorder.wish_leave(name)

    def note(self, text: str) -> None:
        """Mark this moment."""
        self.recorder.mark(text)

    def read_by_hand(
        self,
        quantity: str,
        value: float,
        half_width: float | None,
        unit: str,
        instrument: str,
        seconds_ago: float = 0.0,
    ) -> None:
        """Keep a value that a person took now, or so many seconds ago. The room's goes to its channel too."""
        at_s = max(0.0, self.recorder.elapsed() - seconds_ago)
        reading = HandReading(at_s, quantity, value, half_width, unit, instrument)
        if quantity == ROOM and self.room_by_hand is not None:
            self.room_by_hand.enter(ROOM_BY_HAND.name, value, seconds_ago)
        self.archive.runs.add_hand_reading(self.number, reading)
        self.hand_readings.append(reading)
        if self.course is not None:
            self.course.reading_taken(quantity)
        self.recorder.mark(f"{quantity} {value:g} {unit} by hand", at_s)

    def arrays(self) -> tuple[Array, Array]:
        """Times, shape (n,), and values, shape (m, n), so far: views, never written to again."""
        with self._lock:
            return self._time[: self._count], self._values[:, : self._count]

    def room_c(self) -> float | None:
        """The room now: the mean of its probe's last minute, else as typed in; None where it is not known."""
        _, values = self.arrays()
        for i, channel in enumerate(self.channels):
            if channel.role == "inlet" and channel.quantity == "temperature" and values.shape[1]:
                recent = values[i, -60:]
                recent = recent[np.isfinite(recent)]
                return float(recent.mean()) if len(recent) else None
        return self.facts.room.temperature_c

    def marks(self) -> tuple[Mark, ...]:
        """The marks so far, in order of time."""
        with self._lock:
            return tuple(sorted(self._marks, key=lambda m: m.at_s))

    def recording(self) -> Recording:
        """The run so far."""
        return Recording(self.channels, *self.arrays(), self.marks())
