"""The figures of a review as jobs that can be drawn one after another or side by side."""

from __future__ import annotations

import contextlib
import multiprocessing
import os
import sys
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import resource_tracker
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_all
from samovar.core.compare.rungs import Rung
from samovar.core.elevation import Elevation
from samovar.core.entered import free_stem
from samovar.core.facts import Facts
from samovar.core.overlay import Curve, Overlay, overlay
from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.core.results.figure import figure_of
from samovar.figures.write import FORMATS
from samovar.publish.folder import make_folder

LOOK_FOR_PARENT_S = 0.5
FEW = 6
"""So many figures are drawn sooner than a second process has started."""


@dataclass(frozen=True)
class LadderJob:
    """A ladder to be drawn; `path` has no ending yet, as in all jobs."""

    path: Path
    rungs: tuple[Rung, ...]
    measure_key: str
    reference: str | None
    title: str


@dataclass(frozen=True)
class CurvesJob:
    """An overlay to be drawn."""

    path: Path
    overlay: Overlay
    title: str


@dataclass(frozen=True)
class RunJob:
    """A run's time chart to be drawn."""

    path: Path
    recording: Recording
    reading: Reading
    facts: Facts
    title: str


@dataclass(frozen=True)
class FitJob:
    """A product on its rig to be drawn."""

    path: Path
    drawing: Elevation
    rig: str


Job = LadderJob | CurvesJob | RunJob | FitJob


def draw(job: Job) -> list[Path]:
    """Draw a job as SVG and PDF; the answer is the files.

    Raises:
        InputError: the place cannot be written.
    """
    from samovar.figures.elevation_chart import elevation_chart
    from samovar.figures.ladder_chart import ladder_chart
    from samovar.figures.overlay_chart import overlay_chart
    from samovar.figures.time_chart import time_chart
    from samovar.figures.write import write_figure

    if isinstance(job, LadderJob):
        figure = ladder_chart(job.rungs, figure_of(job.measure_key), job.reference, job.title)
    elif isinstance(job, CurvesJob):
        figure = overlay_chart(job.overlay, job.title)
    elif isinstance(job, FitJob):
        figure = elevation_chart(job.drawing, job.rig)
    else:
        figure = time_chart(job.recording, job.reading, job.facts, job.title)
    return [write_figure(figure, job.path.with_name(job.path.name + ending)) for ending in FORMATS]


def _end_with(parent: int) -> None:
    """In a drawing process: end where the program that wanted the drawings is gone, however it ended."""

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(LOOK_FOR_PARENT_S)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def draw_all(jobs: Sequence[Job], on_done: Callable[[], None] | None = None) -> Iterator[Path]:
    """Draw many jobs, side by side where there are enough of them, telling each one that is done.

    Raises:
        InputError: the place cannot be written.
    """
    if len(jobs) <= FEW:
        for job in jobs:
            yield from draw(job)
            if on_done:
                on_done()
        return
    context = multiprocessing.get_context("spawn")
    # A full-screen program puts something without a file in the place of standard error, which the
    # helper process that every pool needs would trip over: it is started with the real one.
    with contextlib.redirect_stderr(sys.__stderr__):
        resource_tracker.ensure_running()
    pool = ProcessPoolExecutor(
        min(4, os.cpu_count() or 1), mp_context=context, initializer=_end_with, initargs=(os.getpid(),)
    )
    try:
        for paths in pool.map(draw, jobs):
            yield from paths
            if on_done:
                on_done()
    finally:
        pool.shutdown(wait=True, cancel_futures=True)


@dataclass(frozen=True)
class Comparison:
    """The figures of one load: a ladder for each measure that has one, by its key, and the overlay."""

    ladders: dict[str, LadderJob]
    curves: CurvesJob | None

    @property
    def jobs(self) -> list[Job]:
        """All of them."""
        return [*self.ladders.values(), *([self.curves] if self.curves else [])]

    @property
    def by_key(self) -> dict[str, Job]:
        """All of them: the measure's key, or `curves`."""
        return {**self.ladders, **({"curves": self.curves} if self.curves else {})}


def comparison(
    archive: Archive, data: ReviewData, load: str, measure_keys: Sequence[str], place: Callable[[str], Path]
) -> Comparison:
    """Ladders of these measures and the overlay under one load; `place` gives where a figure goes, by its key."""
    ladders: dict[str, LadderJob] = {}
    for key in measure_keys:
        figure = figure_of(key)
        found_on = [one for one in compare_all(data, load, figure) if one.ladder.rungs]
        for number, one in enumerate(found_on):
            where = f", {one.rig}" if len(found_on) > 1 else ""
            name = key.replace(":", "-") + (f"-rig-{number + 1}" if number else "")
            title = f"{figure.label.capitalize()}, {load}{where}"
            ladders[key if not number else f"{key} {one.rig}"] = LadderJob(
                place(name), one.ladder.rungs, key, one.reference, title
            )
    runs = [
        Curve(setup.name, archive.runs.recording(run.number), result.reading, data.curve_channel(result))
        for setup, run, result in data.latest(load)
    ]
    found = overlay(runs) if runs else None
    curves = CurvesJob(place("curves"), found, f"{found.label.capitalize()}, {load}") if found else None
    return Comparison(ladders, curves)


def load_stems(loads: Sequence[str], taken: set[str]) -> dict[str, str]:
    """What each load's files are called: names that read alike as files are told apart."""
    return {load: free_stem(load, taken, "load") for load in loads}


def comparison_figures(
    archive: Archive, data: ReviewData, load: str, measure_keys: Sequence[str], folder: Path
) -> list[Path]:
    """Ladders of these measures and the overlay under one load, each as SVG and PDF.

    Raises:
        InputError: the folder cannot be written.
    """
    make_folder(folder)
    stem = load_stems(data.review.loads, set()).get(load) or load_stems([load], set())[load]
    found = comparison(archive, data, load, measure_keys, lambda key: folder / f"{stem}-{key}")
    return list(draw_all(found.jobs))
