"""The figures of a review as jobs that can be drawn one after another or side by side."""

from __future__ import annotations

import contextlib
import hashlib
import multiprocessing
import os
import pickle
import sys
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from functools import partial
from multiprocessing import resource_tracker
from pathlib import Path

from samovar import __version__
from samovar.archive.archive import Archive
from samovar.archive.deciding import demands_of
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_all, compare_on
from samovar.archive.versus_views import trade_on
from samovar.core.compare.audit import listed
from samovar.core.compare.ladder_words import ladder_words
from samovar.core.compare.rungs import Rung
from samovar.core.compare.trade import Trade
from samovar.core.elevation import Elevation
from samovar.core.entered import free_stem
from samovar.core.facts import Facts
from samovar.core.overlay import Curve, Overlay, overlay
from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.core.results.figure import Figure, figure_of
from samovar.core.uncertainty import Measured
from samovar.figures.write import COLUMN, FORMATS
from samovar.publish.folder import make_folder

LOOK_FOR_PARENT_S = 0.5
FEW = 6
"""So many figures are drawn sooner than a second process has started."""


@dataclass(frozen=True)
class LadderJob:
    """A ladder to be drawn; `path` has no ending yet, as in all jobs."""

    path: Path
    rungs: tuple[Rung, ...]
    measure: Figure
    reference: str | None
    title: str
    finding: str = ""
    asked: tuple[tuple[float, str], ...] = ()
    rig: str = ""


@dataclass(frozen=True)
class CurvesJob:
    """An overlay to be drawn."""

    path: Path
    overlay: Overlay
    title: str
    finding: str = ""
    rig: str = ""


@dataclass(frozen=True)
class TradeJob:
    """One result over another to be drawn, with the demand's line."""

    path: Path
    trade: Trade
    limit: float | None
    title: str
    finding: str = ""
    rig: str = ""


@dataclass(frozen=True)
class RunJob:
    """A run's time chart to be drawn."""

    path: Path
    recording: Recording
    reading: Reading
    facts: Facts
    title: str
    finding: str = ""


@dataclass(frozen=True)
class FitJob:
    """A product on its rig to be drawn."""

    path: Path
    drawing: Elevation
    rig: str


Job = LadderJob | CurvesJob | TradeJob | RunJob | FitJob


def draw(job: Job) -> list[Path]:
    """Draw a job for the page's width and for a column, as SVG and PDF; the answer is the files.

    Raises:
        InputError: the place cannot be written.
    """
    from samovar.figures.elevation_chart import elevation_chart
    from samovar.figures.ladder_chart import ladder_chart
    from samovar.figures.overlay_chart import overlay_chart
    from samovar.figures.time_chart import time_chart
    from samovar.figures.trade_chart import trade_chart
    from samovar.figures.write import write_for_print

    if isinstance(job, LadderJob):
        figure = ladder_chart(job.rungs, job.measure, job.reference, job.title, job.asked)
    elif isinstance(job, TradeJob):
        figure = trade_chart(job.trade, job.limit, job.title)
    elif isinstance(job, CurvesJob):
        figure = overlay_chart(job.overlay, job.title)
    elif isinstance(job, FitJob):
        figure = elevation_chart(job.drawing, job.rig)
    else:
        figure = time_chart(job.recording, job.reading, job.facts, job.title)
    return write_for_print(figure, job.path)


def files_of(job: Job) -> list[Path]:
    """The files a job writes."""
    names = [f"{job.path.name}{column}{ending}" for column in ("", COLUMN) for ending in FORMATS]
    return [job.path.with_name(n) for n in names]


def fingerprint(job: Job) -> str:
    """What a figure is drawn from, its place apart, as a print: the same data give the same figure in this version."""
    return hashlib.sha256(
        pickle.dumps((__version__, type(job).__name__, replace(job, path=Path())))
    ).hexdigest()


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
    """The figures of one load: by rig, and for each the ladders, the trade and the overlay by name, in the order of the
    argument."""

    load: str
    by_rig: dict[str, dict[str, Job]]

    @property
    def jobs(self) -> list[Job]:
        """All of them."""
        return [job for of in self.by_rig.values() for job in of.values()]


def comparison(
    archive: Archive, data: ReviewData, load: str, measure_keys: Sequence[str], place: Callable[[str], Path]
) -> Comparison:
    """Ladders of these measures, what is traded for noise, and the overlay under one load, for every rig; `place` gives where a
    figure goes, by its name."""
    rigs = [one.rig for one in compare_all(data, load, figure_of("rise"))]
    by_rig: dict[str, dict[str, Job]] = {}
    for number, rig in enumerate(rigs):
        where = f", {rig}" if len(rigs) > 1 else ""
        ending = f"-rig-{number + 1}" if number else ""
        found: dict[str, Job] = {}
        for key in measure_keys:
            one = compare_on(data, load, figure_of(key), rig)
            if not one.ladder.rungs:
                continue
            finding = ladder_words(one.ladder, one.figure, one.reference)
            found[key] = LadderJob(
                place(key.replace(":", "-") + ending), one.ladder.rungs, one.figure, one.reference,
                f"{one.figure.label.capitalize()}, {load}{where}", finding, _asked(data, one.figure), rig,
            )  # fmt: skip
        if (traded := _trade_job(data, load, rig, where, partial(place, f"trade{ending}"))) is not None:
            found["trade"] = traded
        if (
            curves := _curves_job(archive, data, load, rig, where, partial(place, f"curves{ending}"))
        ) is not None:
            found["curves"] = curves
        if found:
            by_rig[rig] = found
    return Comparison(load, by_rig)


def _asked(data: ReviewData, figure: Figure) -> tuple[tuple[float, str], ...]:
    """The review's demands on a figure, as lines."""
    return tuple(
        (d.limit, f"{d.side} {figure.text(Measured(d.limit))}")
        for d in demands_of(data)
        if d.limit is not None and d.figure.key == figure.key and not d.currency
    )


def _trade_job(
    data: ReviewData, load: str, rig: str, where: str, place: Callable[[], Path]
) -> TradeJob | None:
    one = compare_on(data, load, data.subject, rig)
    across = figure_of("noise")
    shown = trade_on(data, one, across) if one.figure.quantity != "noise" else None
    if shown is None or len(shown.points) < 2:
        return None
    unbeaten = [p.name for p in shown.points if p.unbeaten]
    finding = f"Nothing beats {listed(unbeaten)} in both {one.figure.label} and noise." if unbeaten else ""
    title = f"{one.figure.label.capitalize()} over noise, {load}{where}"
    return TradeJob(place(), shown, data.review.noise_limit_dba, title, finding, rig)


def _curves_job(
    archive: Archive, data: ReviewData, load: str, rig: str, where: str, place: Callable[[], Path]
) -> CurvesJob | None:
    runs = [
        Curve(setup.name, archive.runs.recording(run.number), result.reading, data.curve_channel(result))
        for setup, run, result in data.latest(load)
        if setup.rig_name == rig
    ]
    found = overlay(runs) if runs else None
    if found is None:
        return None
    words = f"{found.label.capitalize()} of {listed(list(found.names))}, their latest runs, aligned at the load's beginning."
    return CurvesJob(place(), found, f"{found.label.capitalize()}, {load}{where}", words, rig)


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
