"""The figures of a review as jobs that can be drawn one after another or side by side."""

from __future__ import annotations

import contextlib
import multiprocessing
import os
import sys
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import resource_tracker
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.review_data import ReviewData
from samovar.core.compare import Rung, ladder
from samovar.core.elevation import Elevation
from samovar.core.entered import file_stem as slug_of
from samovar.core.facts import Facts
from samovar.core.measures import measure
from samovar.core.overlay import Overlay, overlay
from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.exchange.problems import InputError
from samovar.figures.write import FORMATS

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
        figure = ladder_chart(job.rungs, measure(job.measure_key), job.reference, job.title)
    elif isinstance(job, CurvesJob):
        figure = overlay_chart(job.overlay, job.title)
    elif isinstance(job, FitJob):
        figure = elevation_chart(job.drawing, job.rig)
    else:
        figure = time_chart(job.recording, job.reading, job.facts, job.title)
    return [write_figure(figure, job.path.with_name(job.path.name + ending)) for ending in FORMATS]


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
    pool = ProcessPoolExecutor(min(4, os.cpu_count() or 1), mp_context=context)
    try:
        for paths in pool.map(draw, jobs):
            yield from paths
            if on_done:
                on_done()
    finally:
        pool.shutdown(wait=True, cancel_futures=True)


def make_folder(folder: Path) -> None:
    """The folder, made where it is missing. Raises InputError where that cannot be."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise InputError(
            f"{folder}: {(problem.strerror or 'cannot be made').lower()}; name a folder that can be written"
        ) from problem


def comparison_jobs(
    archive: Archive, data: ReviewData, load: str, measure_keys: Sequence[str], folder: Path
) -> list[Job]:
    """Ladders of these measures and the overlay under one load."""
    review = data.review
    cells = data.under(load)
    reference = review.reference.name if review.reference else None
    jobs: list[Job] = []
    for key in measure_keys:
        figure_of = measure(key)
        rungs = ladder(cells, reference, figure_of, review.margin_k, review.margin_share)
        if rungs:
            path = folder / f"{slug_of(load)}-{key}"
            jobs.append(
                LadderJob(path, tuple(rungs), key, reference, f"{figure_of.label.capitalize()}, {load}")
            )
    runs = [
        (setup.name, archive.runs.recording(run.number), result.reading)
        for setup, run, result in data.latest(load)
    ]
    if runs:
        jobs.append(
            CurvesJob(folder / f"{slug_of(load)}-curves", overlay(runs), f"Rise over the room, {load}")
        )
    return jobs


def comparison_figures(
    archive: Archive, data: ReviewData, load: str, measure_keys: Sequence[str], folder: Path
) -> list[Path]:
    """Ladders of these measures and the overlay under one load, each as SVG and PDF.

    Raises:
        InputError: the folder cannot be written.
    """
    make_folder(folder)
    return list(draw_all(comparison_jobs(archive, data, load, measure_keys, folder)))
