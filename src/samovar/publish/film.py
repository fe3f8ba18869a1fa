"""A run's film with its captions."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from samovar.archive.archive import Archive
from samovar.archive.records import Run
from samovar.core.captions import cues_of, vtt_text
from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.exchange.whole_file import write_whole
from samovar.figures.film import write_film
from samovar.figures.time_chart import time_chart

if TYPE_CHECKING:
    from matplotlib.figure import Figure


def write_run_film(
    archive: Archive, run: Run, to: Path, film_s: float, on_progress: Callable[[int, int], None] | None = None
) -> list[Path]:
    """Write the film of a run, and beside it, or in its folder, the captions.

    Returns:
        The files written, the captions last.

    Raises:
        InputError: a length that is none, another ending, or the place cannot be written.
    """
    recording, reading = archive.runs.recording(run.number), archive.runs.reading(run.number)
    figure = time_chart(recording, reading, run.facts, f"{run.id}, {run.load}")
    return write_with_captions(figure, recording, reading, None, to, film_s, on_progress)


def write_with_captions(
    figure: Figure,
    recording: Recording,
    reading: Reading,
    span_s: tuple[float, float] | None,
    to: Path,
    film_s: float,
    on_progress: Callable[[int, int], None] | None = None,
) -> list[Path]:
    """Write the film of a time chart that shows a part of a run, all of it where None, and its captions.

    Returns:
        The files written, the captions last.

    Raises:
        InputError: a length that is none, another ending, or the place cannot be written.
    """
    written = write_film(figure, to, film_s, on_progress)
    captions = to.with_suffix(".vtt") if to.suffix else to / "captions.vtt"
    span = span_s or (0.0, max(recording.duration_s, 1.0))
    write_whole(captions, vtt_text(cues_of(recording, reading, span, film_s)))
    return [*written, captions]
