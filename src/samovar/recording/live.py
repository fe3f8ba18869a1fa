"""A run under way: the recorder on its own thread, its samples in the archive and in memory at once."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, replace
from pathlib import Path

import numpy as np

from samovar.archive.archive import Archive
from samovar.archive.records import Review, Setup
from samovar.bench.course import Course
from samovar.bench.course_spec import CourseSpec
from samovar.bench.loads.protocol import LoadError
from samovar.bench.machine import SLOW, Machine
from samovar.bench.recorder import Outcome, Recorder
from samovar.core.by_hand.reading import HandReading, with_room
from samovar.core.die import WHAT_TO_DO, die_channels, hottest
from samovar.core.facts import Facts
from samovar.core.marks import Change, Mark
from samovar.core.quantity import Channel
from samovar.core.recording import Array, Recording
from samovar.core.rig import rates_of
from samovar.recording.late_titles import take_late
from samovar.recording.load_results import scores_of, times_of
from samovar.recording.memory import Samples
from samovar.recording.rescue import SoFar, begin_beside
from samovar.recording.room import ROOM_BY_HAND, ROOM_HOLDS_S, ROOM_SAMPLES
from samovar.recording.under_guard import NO_HEAT, UNGUARDED, Unguardable, guard_of
from samovar.sources.hand import HandSource
from samovar.sources.protocol import Source, close_all

NO_LOAD = "none"
SERVER_PATIENCE_S = 10.0
"""So long the end of a run waits for a server that does not answer; after that the run waits for it in a file."""
SEAL_AGAIN_S = 1.0
"""A run that cannot be sealed now (no room, an archive that another program holds) is tried again so often."""


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
        unguarded: the load runs without a guard; the run is marked so.
        beside: instruments beside the machine; the run closes them.

    Raises:
        LoadError: no such load, not so many threads, or a command that nobody has agreed to.
        Unguardable: nothing that a guard could watch, and no leave to do without.
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
        unguarded: bool = False,
        beside: Sequence[Source] = (),
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
        self._own_loads, self.beside = own, beside
        self.room_by_hand: HandSource | None = None
        if typed and not any(c.role == "inlet" for s in sources for c in s.channels):
            self.room_by_hand = HandSource([ROOM_BY_HAND], machine.clock.now, ROOM_HOLDS_S)
            sources = [*sources, self.room_by_hand]
        self.by_hand = any(load.by_hand for load in made.values())
        sources = [*sources, *machine.companions(), *beside]
        hot = [n for n in names if n not in NO_HEAT and not made[n].by_hand]
        watched = bool(die_channels([c for s in sources for c in s.channels]))
        if hot and not watched and not unguarded:
            close_all(sources)
            raise Unguardable(f"{hot[0]}: {WHAT_TO_DO}, or run it with --unguarded")
        self.spec = spec = replace(spec, unguarded=bool(hot) and (unguarded or not watched))
        self.course = Course(spec, self.by_hand, attended) if loaded else None
        self.recorder = Recorder(
            sources,
            machine.clock,
            self,
            course=self.course,
            loads=[made[name] for name in names],
            set_fans=machine.set_fans,
            guard=machine.guarded_by(guard_of(spec) if loaded and not spec.unguarded else None),
            read_die=self._die_watch,
            rate_hz=fast_hz,
            rates_hz={SLOW: slow_hz},
            for_s=for_s,
            patience_s=patience_s,
            lost=machine.lost,
        )
        self.channels: tuple[Channel, ...] = self.recorder.channels
        self._die = die_channels(self.channels)
        self.outcome: Outcome | None = None
        self.error: str | None = None
        self.moved_to: str | None = None
        self.waits_in: Path | None = None
        self.changed_s: float | None = None
        self.sealed = threading.Event()
        self.give_up = threading.Event()
        self._on_sample = on_sample
        self._samples = Samples(len(self.channels))
        self._lock = threading.Lock()
        self._marks: list[Mark] = []
        self._changes: list[Change] = []
        self.hand_readings: list[HandReading] = []
        try:
            self.writer = archive.runs.begin(
                self.channels, spec.load, machine.clock.started(), review_id=review.id if review else None,
                setup_id=setup.id if setup else None, facts=self.facts, course=asdict(spec),
            )  # fmt: skip
        except BaseException:
            # An archive that takes no run leaves no sensor open.
            close_all(sources)
            raise
        if spec.unguarded:
            self.recorder.mark(UNGUARDED, 0.0)
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
        outcome = Outcome("did-not-finish", "the recorder was cut off", 0.0)
        try:
            outcome = self.recorder.run()
        except LoadError as problem:
            self.error = str(problem)
            outcome = Outcome("did-not-finish", str(problem), self.recorder.elapsed())
        except Exception as problem:
            # Whatever went wrong: what was recorded is kept, and the reason with it.
            self.error = f"the recorder failed: {problem}"
            outcome = Outcome("did-not-finish", self.error, self.recorder.elapsed())
        finally:
            # The one way to the seal: whatever ends the recorder comes through here.
            self.outcome = outcome
            self._close(outcome)
        return outcome

    def _close(self, outcome: Outcome) -> None:
        """Seal the run; nothing that goes wrong beside it keeps it from that."""
        try:
            if self._die_watch is not None:
                self._die_watch.close()
            at_s = self.recorder.elapsed()
            for reading in times_of(self.recorder.load_ends, at_s):
                self.take(reading)
            self._seal(outcome)
            if self.waits_in is None:
                take_late(self.archive, self.number, self.beside, self.recorder.begun_s)
            # The samples are safe: now there is time to look for scores.
            readings, marks = scores_of(self.recorder.load_ends, self._own_loads, at_s)
            for reading in readings:
                self.take(reading)
            for mark in marks:
                self._mark(mark)
            while self.waits_in is None and not self.writer.flush() and not self.give_up.wait(SEAL_AGAIN_S):
                pass
        except Exception as problem:
            self.error = self.error or f"closing the run failed: {problem}"
        finally:
            self.writer.close()
            self.sealed.set()

    def _seal(self, outcome: Outcome) -> None:
        """Seal it where it is; with no room on the disk, or the archive held by another program, it waits in memory;
        where the archive is gone or broken, it goes to a new file beside it; where a server does not answer in time, it
        waits in a file of this machine."""
        until = time.monotonic() + SERVER_PATIENCE_S
        while True:
            try:
                if self.writer.gone:
                    self._move_beside()
                if self.archive.runs.seal(self.writer, outcome.state, outcome.reason):
                    return
            except Exception as problem:
                self.writer.problem = f"the run could not be sealed: {problem}"
                self.writer.gone = self.moved_to is None
            given_up = self.give_up.wait(SEAL_AGAIN_S)
            late = given_up or time.monotonic() > until
            if (late and self._leave_to_journal(outcome)) or given_up:
                return

    def _leave_to_journal(self, outcome: Outcome) -> bool:
        """Whether the run now waits in a file of this machine for its server."""
        try:
            self.waits_in = self.writer.leave_to_journal(outcome.state, outcome.reason)
        except Exception as problem:
            # Nor can this machine keep it: it stays in memory, and is tried again.
            self.writer.problem = f"the run can be kept neither there nor here: {problem}"
        return self.waits_in is not None

    def _move_beside(self) -> None:
        """Go on in a new archive beside the one that is gone, with all that was recorded so far.

        Raises:
            ArchiveError: no file can be made there either.
        """
        so_far = SoFar(
            self.channels,
            *self.arrays(),
            self.marks(),
            tuple(self.hand_readings),
            self.changes(),
            self.facts,
            self.spec,
        )
        fresh, writer = begin_beside(self.archive.where, so_far, self.machine.clock.started())
        words = f"the archive's file was gone: this run ({self.id} there) goes on in {Path(fresh.where).name}"
        self.archive, self.writer, self.moved_to = fresh, writer, fresh.where
        self._mark(Mark(self.recorder.elapsed(), words))

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

    def stop(self, reason: str = "stopped by hand") -> None:
        """End it by hand."""
        self.recorder.stop(reason)

    def wait(self, seconds: float | None = None) -> bool:
        """Wait until it is sealed."""
        return self.sealed.wait(seconds)

    def append(self, at_s: float, values: Sequence[float]) -> None:
        """Take a sample from the recorder."""
        self._samples.append(at_s, values)
        self.writer.append(at_s, values)
        if self.writer.gone and self.moved_to is None:
            try:
                self._move_beside()
            except Exception as problem:
                self.writer.problem = f"the archive's file is gone, and none can be made beside it: {problem}"
        if self._on_sample is not None:
            self._on_sample(at_s, values)

    def amend(self, at_s: float, values: Sequence[float]) -> None:
        """Take values that came too late for their sample."""
        self._samples.amend(at_s, values)
        self.writer.amend(at_s, values)

    def mark(self, mark: Mark) -> None:
        """Take a mark from the recorder."""
        self._mark(mark)

    def _mark(self, mark: Mark) -> None:
        self.show_mark(mark)
        self.writer.mark(mark)

    def show_mark(self, mark: Mark) -> None:
        """Count a mark among the run's that the archive has already."""
        with self._lock:
            self._marks.append(mark)

    def change(self, change: Change) -> None:
        """Take a change of load or fans from the recorder."""
        with self._lock:
            self._changes.append(change)
        self.writer.change(change)

    def take(self, reading: HandReading) -> None:
        """Keep a hand reading in a run that is not sealed yet."""
        self.hand_readings.append(reading)
        self.writer.hand_reading(reading)

    def change_fans(self, share: float) -> None:
        """Set the fans to a share of full speed now, as a step of the course."""
        self.changed_s = self.recorder.elapsed()
        self.recorder.wish_fans(share)

    def join(self, name: str) -> None:
        """Let another load join the one that is on. Raises LoadError: there is none of this name."""
        self._own_loads = self.archive.plans.own_loads()
        load = self.machine.make_load(name, None, self._own_loads)
        self.changed_s = self.recorder.elapsed()
        self.recorder.wish_join(load)

    def leave(self, name: str) -> None:
        """Take a load that joined off again."""
        self.changed_s = self.recorder.elapsed()
        self.recorder.wish_leave(name)

    def note(self, text: str) -> None:
        """Mark this moment; the end of the run, where it is sealed by now."""
        if not self.sealed.is_set():
            self.recorder.mark(text)
        elif self.outcome is not None:
            mark = Mark(self.outcome.duration_s, text)
            self.archive.runs.change_mark(self.number, None, mark)
            self.show_mark(mark)

    def arrays(self) -> tuple[Array, Array]:
        """Times, shape (n,), and values, shape (m, n), so far: see `Samples.arrays`."""
        return self._samples.arrays()

    def die_c(self) -> float | None:
        """The die now, °C; None where it is not known."""
        now = hottest(self._samples.newest(self._die))
        return now if np.isfinite(now) else None

    def room_c(self) -> float | None:
        """The room now: the mean of its probe's last minute, else as typed in; None where it is not known."""
        probes = [k for k, c in enumerate(self.channels) if c.role == "inlet" and c.quantity == "temperature"]
        if probes and self._samples.newest(probes):
            return self._samples.lately(probes[0], ROOM_SAMPLES)
        return with_room(self.facts, self.hand_readings).room.temperature_c

    def marks(self) -> tuple[Mark, ...]:
        """The marks so far, in order of time."""
        with self._lock:
            return tuple(sorted(self._marks, key=lambda m: m.at_s))

    def changes(self) -> tuple[Change, ...]:
        """What was changed of load and fans so far."""
        with self._lock:
            return tuple(self._changes)

    def recording(self) -> Recording:
        """The run so far."""
        # A run under way has not ended, however hot it is.
        return Recording(self.channels, *self.arrays(), self.marks(), False, self.changes())
