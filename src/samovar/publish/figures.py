"""Drawing many figures, side by side, telling each one that is done; what was drawn from the very same is not drawn again."""

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
from dataclasses import replace
from functools import partial
from multiprocessing import resource_tracker
from pathlib import Path

from samovar import __version__
from samovar.publish.figure_jobs import Job, draw
from samovar.publish.form import PLAIN, Form
from samovar.publish.units import in_units

LOOK_FOR_PARENT_S = 0.5
MOST_PROCESSES = 4
FEW = 6
"""So many figures are drawn sooner than a second process has started."""


def fingerprint(job: Job, form: Form = PLAIN) -> str:
    """What a figure is drawn from, its place apart, as a print: the same data give the same figure in this version and form."""
    return hashlib.sha256(
        pickle.dumps((__version__, form, type(job).__name__, replace(job, path=Path())))
    ).hexdigest()


def draw_in(form: Form, job: Job) -> list[Path]:
    """Draw a job in a form. Raises InputError: the place cannot be written."""
    return draw(in_units(job, form), form.svg)


def _end_with(parent: int) -> None:
    """In a drawing process: end where the program that wanted the drawings is gone, however it ended."""

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(LOOK_FOR_PARENT_S)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


class Drawing:
    """Processes that draw figures side by side. They are started at once, for that takes as long as ten figures, and can go on
    while it is worked out what is to be drawn.

    Args:
        many: whether there will be enough figures for that to be worth it.
    """

    def __init__(self, many: bool = True) -> None:
        self._pool: ProcessPoolExecutor | None = None
        self.many = many
        if not many:
            return
        context = multiprocessing.get_context("spawn")
        # A full-screen program puts something without a file in the place of standard error, which the
        # helper process that every pool needs would trip over: it is started with the real one.
        with contextlib.redirect_stderr(sys.__stderr__):
            resource_tracker.ensure_running()
        count = min(MOST_PROCESSES, os.cpu_count() or 1)
        self._pool = ProcessPoolExecutor(
            count, mp_context=context, initializer=_end_with, initargs=(os.getpid(),)
        )
        for _ in range(count):
            self._pool.submit(_ready)

    def draw(
        self, jobs: Sequence[Job], on_done: Callable[[], None] | None = None, form: Form = PLAIN
    ) -> Iterator[Path]:
        """Draw many jobs, telling each one that is done.

        Raises:
            InputError: the place cannot be written.
        """
        draw_one = partial(draw_in, form)
        drawn = map(draw_one, jobs) if self._pool is None else self._pool.map(draw_one, jobs)
        for paths in drawn:
            yield from paths
            if on_done:
                on_done()

    def __enter__(self) -> Drawing:
        return self

    def __exit__(self, *_: object) -> None:
        if self._pool is not None:
            self._pool.shutdown(wait=True, cancel_futures=True)


def _ready() -> None:
    """One figure for nothing: what drawing needs is loaded before there is anything to draw."""
    from samovar.figures.style import new_figure
    from samovar.figures.write import pdf_of, svg_of

    figure = new_figure(1.0)
    figure.subplots().set_title("°C ±")
    pdf_of(svg_of(figure))


def draw_all(
    jobs: Sequence[Job], on_done: Callable[[], None] | None = None, form: Form = PLAIN
) -> Iterator[Path]:
    """Draw many jobs, side by side where there are enough of them, telling each one that is done.

    Raises:
        InputError: the place cannot be written.
    """
    with Drawing(len(jobs) > FEW) as drawing:
        yield from drawing.draw(jobs, on_done, form)
