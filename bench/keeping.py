"""How fast a large archive answers, how soon the program is there."""

from __future__ import annotations

import compileall
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
import uuid
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import samovar
from bench.table import Row

if TYPE_CHECKING:
    from samovar.archive import Archive

RUNS = 2000


def measure() -> Iterator[Row]:
    """Archive, start."""
    yield from _archives()
    # As an installed program has it: compiled.
    compileall.compile_dir(Path(samovar.__file__).parent, quiet=2)
    yield Row("start: --version", _version(), 0.1, "s")
    if shutil.which("tmux"):
        first, filled = _first_screen()
        yield Row("start: something on the screen", first, 0.4, "s")
        yield Row("start: first screen filled", filled, 0.9, "s")


def best(work: Callable[[], object], times: int = 5) -> float:
    took = []
    for _ in range(times):
        started = time.perf_counter()
        work()
        took.append(time.perf_counter() - started)
    return statistics.median(took)


def _archives() -> Iterator[Row]:
    """The same archive in a file and on a server."""
    from tests.server import PROGRAMS, Server

    from samovar.archive import Archive
    from samovar.archive.moving import move

    with tempfile.TemporaryDirectory() as folder, Archive(Path(folder) / "a.sqlite") as archive:
        key = _fill(archive)
        yield from _answers(archive, key, "a file")
        if PROGRAMS is None:
            return
        server = Server()
        try:
            with Archive(server.database()) as there:
                move(archive, there)
                server.sql("ANALYZE", there.where.rsplit("/", 1)[1])
                yield from _answers(there, key, "a server")
        finally:
            server.close()


def _answers(archive: Archive, key: int, where: str) -> Iterator[Row]:
    from samovar.archive.review_data import load_review
    from samovar.archive.rig_comparison import compare_on
    from samovar.archive.told import latest_runs, plans_of
    from samovar.core.results.figure import figure_of

    def desk() -> None:
        reviews = archive.reviews.reviews()
        for plan in plans_of(archive, reviews).values():
            plan.coverage.measured_cells()
            plan.proposal()
        archive.reviews.last_run_of_each()
        latest_runs(archive, 40)

    def comparing() -> None:
        review = archive.reviews.review(key)
        assert review is not None
        compare_on(load_review(archive, review), "worst case", figure_of("rise"))

    yield Row(f"2,000 runs in {where}: what the Desk asks of it", best(desk), 0.2, "s")
    yield Row(f"2,000 runs in {where}: comparing 12 setups × 3 passes", best(comparing), 0.3, "s")


def _fill(archive: Archive) -> int:
    """Runs of a wide review and of others; the answer is the wide one's key."""
    from samovar.core.reading import read
    from samovar.core.results.compute import results_of
    from samovar.demo.plan import FACTS, PlannedRun
    from samovar.demo.record import record

    run = record(PlannedRun("Osprey 161", "worst case", 22.5, 1), FACTS, {}).recording
    reading = read(run, FACTS)
    results = results_of(run, reading)
    key = archive.reviews.add_review("Wide", "Which?", ["worst case"])
    setups = [archive.reviews.add_setup(key, f"Setup {k}", None, reference=k == 0) for k in range(12)]
    others = [archive.reviews.add_review(f"Other {k}", "Which?", ["worst case"]) for k in range(20)]
    theirs = {r: [archive.reviews.add_setup(r, f"Setup {k}", None) for k in range(12)] for r in others}
    for number in range(RUNS):
        mine = number < 36
        review_id = key if mine else others[number % 20]
        archive.runs.findings.store(
            archive.runs.add(
                run, "worst case", "2026-03-02T09:00:00Z", facts=FACTS,
                review_id=review_id, setup_id=(setups if mine else theirs[review_id])[number % 12],
            ),
            reading,
            results,
        )  # fmt: skip
    return key


def _version() -> float:
    command = [sys.executable, "-m", "samovar", "--version"]
    return best(lambda: subprocess.run(command, capture_output=True, check=True))


def _first_screen() -> tuple[float, float]:
    """From the call to the first picture, and to the Desk on screen, on an archive that is there already; medians of
    five."""
    first, took = [], []
    with tempfile.TemporaryDirectory() as folder:
        archive = Path(folder) / "a.sqlite"
        subprocess.run(
            [sys.executable, "-m", "samovar", "runs", "--archive", str(archive)],
            capture_output=True,
            check=True,
        )
        for _ in range(5):
            tmux = ["tmux", "-L", f"samovar-{uuid.uuid4().hex[:8]}", "-f", os.devnull]
            subprocess.run([*tmux, "new-session", "-d", "-x", "160", "-y", "50", "sh"], check=True)
            subprocess.run(
                [*tmux, "send-keys", "-l", f"exec {sys.executable} -m samovar --archive {archive}"],
                check=True,
            )
            subprocess.run([*tmux, "send-keys", "Enter"], check=True)
            started = time.perf_counter()
            seen = None
            while True:
                shown = subprocess.run(
                    [*tmux, "capture-pane", "-p"], capture_output=True, text=True, check=True
                ).stdout
                if seen is None and "Write-up" in shown:
                    seen = time.perf_counter() - started
                if "Latest runs" in shown or time.perf_counter() - started > 10.0:
                    break
                time.sleep(0.01)
            took.append(time.perf_counter() - started)
            first.append(seen or took[-1])
            subprocess.run([*tmux, "kill-server"], check=False)
    return statistics.median(first), statistics.median(took)
