"""The figures of a comparison, written into a folder."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.review_data import ReviewData
from samovar.archive.reviews import slug_of
from samovar.core.compare import ladder
from samovar.core.measures import measure
from samovar.core.overlay import overlay
from samovar.exchange.problems import InputError
from samovar.figures.ladder_chart import ladder_chart
from samovar.figures.overlay_chart import overlay_chart
from samovar.figures.write import FORMATS, write_figure


def make_folder(folder: Path) -> None:
    """The folder, made where it is missing. Raises InputError where that cannot be."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise InputError(
            f"{folder}: {(problem.strerror or 'cannot be made').lower()}; name a folder that can be written"
        ) from problem


def comparison_figures(
    archive: Archive, data: ReviewData, load: str, measure_keys: Sequence[str], folder: Path
) -> list[Path]:
    """Ladders of these measures and the overlay under one load, each as SVG and PDF.

    Raises:
        InputError: the folder cannot be written.
    """
    make_folder(folder)
    review = data.review
    cells = data.under(load)
    reference = review.reference.name if review.reference else None
    written: list[Path] = []
    for key in measure_keys:
        figure_of = measure(key)
        rungs = ladder(cells, reference, figure_of, review.margin_k, review.margin_share)
        if rungs:
            drawn = ladder_chart(rungs, figure_of, reference, f"{figure_of.label.capitalize()}, {load}")
            written += _both(drawn, folder, f"{slug_of(load)}-{key}")
    runs = []
    for setup in review.setups:
        done = [(r, x) for r, x in data.cell(setup, load).runs if x.finished and r.left_out is None]
        if done:
            runs.append((setup.name, archive.runs.recording(done[-1][0].number), done[-1][1].reading))
    if runs:
        drawn = overlay_chart(overlay(runs), f"Rise over the room, {load}")
        written += _both(drawn, folder, f"{slug_of(load)}-curves")
    return written


def _both(drawn: object, folder: Path, name: str) -> Iterable[Path]:
    return [write_figure(drawn, folder / f"{name}{ending}") for ending in FORMATS]  # type: ignore[arg-type]
