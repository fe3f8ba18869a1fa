"""A run recorded without the interface: progress on standard error, the id first, the reading last."""

from __future__ import annotations

import json
import signal
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.live import NO_LOAD, LiveRun
from samovar.archive.records import Review, Setup
from samovar.bench.course_spec import CourseSpec, clock_text, spec_of
from samovar.bench.machine import Machine
from samovar.core.facts import Facts
from samovar.exchange.export import FORMATS
from samovar.exchange.problems import InputError

GUARD_STATUS = 3


def check_call(sysroot: Path, rates_hz: Sequence[float | None], for_s: float | None, to: Path | None) -> None:
    """Refuse a call that cannot be carried out before anything is recorded.

    Raises:
        InputError: what is wrong with it, and what would do.
    """
    if not sysroot.is_dir():
        raise InputError(f"{sysroot}: there is no such folder; name one that holds sys and proc")
    for name, rate_hz in zip(("--rate", "--slow-rate"), rates_hz, strict=False):
        if rate_hz is not None and not 0.1 <= rate_hz <= 20.0:
            raise InputError(f"{name} {rate_hz:g}: from 0.1 to 20 samples a second; choose one between")
    if for_s is not None and for_s <= 0:
        raise InputError(f"--for {for_s:g}: a time must be more than nothing; give seconds")
    if to is not None and to.suffix.lower() not in FORMATS:
        raise InputError(f"{to}: an export is a .csv or a .parquet file; change the ending")


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
) -> tuple[LiveRun, int]:
    """Record one run in the foreground; the answer is the run and the exit status. `rates_hz`: of the fast and of
    the slow sensors, the rig's own where None; `listening`: lines on standard input are done and kept; `facts`:
    what is known of the machine, where no setup tells.

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
    )
    progress.run = run
    print(json.dumps({"run": run.id}) if as_json else run.id, flush=True)
    if listening:
        from samovar.by_line import listen

        listen(run)
    # The recorder has a thread of its own: a signal is handled in this one, at any moment, and must not find it
    # holding what it then asks for.
    with _stopping(run):
        run.start()
        while not run.sealed.wait(0.5) and run.alive:
            pass
    progress.end()
    outcome = run.outcome
    if outcome is None or not run.sealed.is_set():
        print(f"samovar: {run.id}: it could not be sealed; the next start finds it", file=sys.stderr)
        return run, 1
    if run.error is not None:
        print(f"samovar: {run.id}: {run.error}", file=sys.stderr)
        return run, 1
    if outcome.state == "did-not-finish":
        print(f"samovar: {run.id}: the guard stopped the load: {outcome.reason}", file=sys.stderr)
        return run, GUARD_STATUS
    return run, 0


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
        die = next((v for c, v in zip(self.run.channels, values, strict=True) if c.role == "die"), None)
        warm = "" if die is None or die != die else f", die {die:.1f} °C"
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


@contextmanager
def _stopping(run: LiveRun) -> Iterator[None]:
    """SIGINT, SIGTERM and SIGHUP end the run in order while this holds."""
    signals = [signal.SIGINT, signal.SIGTERM, signal.SIGHUP]

    def stop(*_: object) -> None:
        # Asked a second time, it no longer waits for room on the disk either.
        if run.recorder.stopping:
            run.give_up.set()
        run.stop()

    before = {s: signal.signal(s, stop) for s in signals}
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)
