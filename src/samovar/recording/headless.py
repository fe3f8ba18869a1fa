"""A run recorded without the interface: progress on standard error, the id first, the reading last."""

from __future__ import annotations

import json
import math
import os
import select
import signal
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.records import Review, Setup
from samovar.bench.course_spec import CourseSpec, clock_text, spec_of
from samovar.bench.loads.catalogue import MOST_THREADS
from samovar.bench.machine import Machine
from samovar.core.die import is_stop_temperature, stop_range
from samovar.core.facts import Facts
from samovar.exchange.export import FORMATS
from samovar.exchange.problems import InputError
from samovar.recording.instruments import listens
from samovar.recording.live import NO_LOAD, LiveRun
from samovar.sources.protocol import Source

FAILED_STATUS, GUARD_STATUS, CUT_OFF_STATUS = 1, 3, 4
LONGEST_S = 30 * 86400.0
"""No recording is meant to last longer than a month."""
SUSPEND_PATIENCE_S = 3.0
"""So long a run that is to be suspended may take to be sealed."""


def check_call(
    sysroot: Path,
    rates_hz: Sequence[float | None],
    for_s: float | None,
    to: Path | None,
    stop_above_c: float | None = None,
    unguarded: bool = False,
    threads: int | None = None,
) -> None:
    """Refuse a call that cannot be carried out before anything is recorded.

    Raises:
        InputError: what is wrong with it, and what would do.
    """
    if not sysroot.is_dir():
        raise InputError(f"{sysroot}: there is no such folder; name one that holds sys and proc")
    for name, rate_hz in zip(("--rate", "--slow-rate"), rates_hz, strict=False):
        if rate_hz is not None and not 0.1 <= rate_hz <= 20.0:
            raise InputError(f"{name} {rate_hz:g}: from 0.1 to 20 samples a second; choose one between")
    if for_s is not None and not (math.isfinite(for_s) and 0 < for_s <= LONGEST_S):
        raise InputError(f"--for {for_s:g}: a time is more than nothing and at most 30 days; give seconds")
    if threads is not None and not 1 <= threads <= MOST_THREADS:
        raise InputError(
            f"--threads {threads}: a load has from 1 to {MOST_THREADS} threads; choose a number between"
        )
    if stop_above_c is not None and not is_stop_temperature(stop_above_c):
        raise InputError(
            f"--stop-above {stop_above_c:g}: a guard stops at a temperature {stop_range()}; give one"
        )
    if stop_above_c is not None and unguarded:
        raise InputError("--stop-above and --unguarded: a load has a guard or none; name one of the two")
    if to is not None and to.suffix.lower() not in FORMATS:
        raise InputError(f"{to}: an export is a .csv or a .parquet file; change the ending")


def allow_commands(archive: Archive, names: Sequence[str]) -> None:
    """Keep the leave to run these loads' commands, as they now read. Raises InputError: no such command."""
    for name in names:
        if archive.plans.allow(name) is None:
            raise InputError(f"--allow {name}: there is no command of this name here; see samovar frame read")


def course_for(load: str, threads: int | None, for_s: float | None, stop_above_c: float) -> CourseSpec:
    """The course of a call: a short load gets a short idle before and a short cool-down after it."""
    if for_s is None:
        return CourseSpec(load, threads, stop_above_c=stop_above_c)
    idle = min(60.0, max(2.0, 0.25 * for_s))
    return CourseSpec(
        load,
        threads,
        idle_least_s=idle,
        idle_most_s=idle if for_s < 240.0 else 600.0,
        load_s=for_s,
        cool_down_most_s=min(900.0, for_s),
        stop_above_c=stop_above_c,
    )


def course_of(
    archive: Archive, review: Review | None, setup: Setup | None, load: str, threads: int | None,
    for_s: float | None, stop_above_c: float | None,
) -> CourseSpec:  # fmt: skip
    """The course of a call: its cell's own where the review has this load and no time is named, else the usual."""
    if review is None or setup is None or load not in review.loads or for_s is not None:
        return course_for(load, threads, for_s, 105.0 if stop_above_c is None else stop_above_c)
    body = archive.plans.body_of(review.courses.get(load))
    spec = spec_of(load, body, setup.facts.cpu.temperature_limit_c, threads)
    return spec if stop_above_c is None else replace(spec, stop_above_c=stop_above_c)


def record(
    archive: Archive,
    machine: Machine,
    spec: CourseSpec,
    *,
    rates_hz: tuple[float | None, float | None],
    for_s: float | None,
    review: Review | None,
    setup: Setup | None,
    as_json: bool,
    listening: bool = False,
    facts: Facts | None = None,
    unguarded: bool = False,
    beside: Sequence[Source] = (),
) -> tuple[LiveRun, int]:
    """Record one run in the foreground; the answer is the run and the exit status. `rates_hz`: of the fast and of
    the slow sensors, the rig's own where None; `listening`: lines on standard input are done and kept; `facts`:
    what is known of the machine, where no setup tells; `unguarded`: without a guard; `beside`: instruments.

    Raises:
        LoadError: the load cannot be put on.
    """
    progress = _Progress()
    run = LiveRun(
        archive,
        machine,
        spec,
        review=review,
        setup=setup,
        rate_hz=rates_hz[0],
        slow_rate_hz=rates_hz[1],
        for_s=for_s if spec.load == NO_LOAD else None,
        on_sample=progress.sample,
        typed=listening,
        facts=facts,
        unguarded=unguarded,
        beside=beside,
    )
    progress.run = run
    print(json.dumps({"run": run.id}) if as_json else run.id, flush=True)
    if any(map(listens, beside)):
        from samovar.recording.ear import ears_of

        ears_of(run, beside, told=lambda heard: print(f"samovar: {run.id}: {heard.words}", file=sys.stderr))
    if listening:
        from samovar.recording.by_line import listen

        listen(run)
    with _signals() as signals:
        run.start()
        while not run.sealed.is_set() and run.alive:
            signals.wait(0.5)
            signals.act(run)
    progress.end()
    signals.suspend()
    return run, _status(run)


def _status(run: LiveRun) -> int:
    """The exit status; what went wrong is said on standard error."""
    outcome = run.outcome
    if run.moved_to is not None:
        print(f"samovar: the archive's file was gone: the run is {run.id} in {run.moved_to}", file=sys.stderr)
    if run.waits_in is not None:
        print(
            f"samovar: {run.archive.where}: the server does not answer; {run.id} waits in {run.waits_in} and is "
            "handed on as soon as that archive is opened here again",
            file=sys.stderr,
        )
    elif outcome is None or run.writer.problem is not None:
        problem = run.writer.problem or "the recorder ended"
        print(
            f"samovar: {run.id}: it could not be sealed ({problem}); the next start finds it", file=sys.stderr
        )
        return FAILED_STATUS
    if outcome is None:
        return FAILED_STATUS
    if run.error is not None:
        print(f"samovar: {run.id}: {run.error}", file=sys.stderr)
        return FAILED_STATUS
    if outcome.state == "interrupted":
        print(f"samovar: {run.id}: interrupted: {outcome.reason}", file=sys.stderr)
        return CUT_OFF_STATUS
    if outcome.state == "did-not-finish":
        how = "the guard stopped the load" if outcome.by_guard else "it did not finish"
        print(f"samovar: {run.id}: {how}: {outcome.reason}", file=sys.stderr)
        return GUARD_STATUS if outcome.by_guard else FAILED_STATUS
    return 0


class _Progress:
    """One line on standard error, at most one a second, rewritten in place on a terminal."""

    def __init__(self) -> None:
        self.run: LiveRun | None = None
        self._shown = 0.0
        self._terminal = sys.stderr.isatty()

    def sample(self, at_s: float, values: Sequence[float]) -> None:
        now = time.monotonic()
        if self.run is None or now - self._shown < 1.0:
            return
        self._shown = now
        die = self.run.die_c()
        warm = "" if die is None else f", die {die:.1f} °C"
        problem = f", {self.run.writer.problem}" if self.run.writer.problem else ""
        text = f"{self.run.id} {clock_text(at_s)} {self.run.step}{warm}{problem}"
        print(
            f"\r{text:<78}" if self._terminal else text,
            end="" if self._terminal else "\n",
            file=sys.stderr,
            flush=True,
        )

    def end(self) -> None:
        if self._terminal and self._shown:
            print(file=sys.stderr)


class _Signals:
    """What signals have asked for. Their handlers only take note: one may come at any moment, and must not find the
    program holding what it then asks for."""

    def __init__(self, pipe: int) -> None:
        self._pipe = pipe
        self._stops = 0
        self._told = 0
        self._suspend = False

    def note(self, number: int, _frame: object) -> None:
        """A signal's handler."""
        if number == signal.SIGTSTP:
            self._suspend = True
        else:
            self._stops += 1

    def wait(self, seconds: float) -> None:
        """Return after so long, or at once when a signal came."""
        if select.select([self._pipe], [], [], seconds)[0]:
            os.read(self._pipe, 64)

    def act(self, run: LiveRun) -> None:
        """Do what was asked for. Asked a second time, the run no longer waits for room on the disk either."""
        if self._suspend:
            # The load is off, and the run sealed, before the program stands still.
            run.stop("suspended: the load was stopped first")
            run.sealed.wait(SUSPEND_PATIENCE_S)
            self.suspend()
        if self._stops > self._told:
            self._told = self._stops
            if run.recorder.stopping:
                run.give_up.set()
            run.stop()

    def suspend(self) -> None:
        """Stand still where that was asked for, until the program is continued."""
        if self._suspend:
            self._suspend = False
            os.kill(os.getpid(), signal.SIGSTOP)


@contextmanager
def _signals() -> Iterator[_Signals]:
    """SIGINT, SIGTERM and SIGHUP end the run in order while this holds, SIGTSTP before the program stands still."""
    reading, writing = os.pipe()
    os.set_blocking(writing, False)
    found = _Signals(reading)
    woken = signal.set_wakeup_fd(writing, warn_on_full_buffer=False)
    wanted = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP, signal.SIGTSTP)
    before = {s: signal.signal(s, found.note) for s in wanted}
    try:
        yield found
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)
        signal.set_wakeup_fd(woken)
        os.close(reading)
        os.close(writing)
