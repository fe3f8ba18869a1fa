"""A run whose archive went away under it: written whole to a new file beside, and gone on with there."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.writer import RunWriter
from samovar.bench.course_spec import CourseSpec
from samovar.core.by_hand.reading import HandReading
from samovar.core.facts import Facts
from samovar.core.marks import Change, Mark
from samovar.core.quantity import Channel
from samovar.core.recording import Array


@dataclass(frozen=True)
class SoFar:
    """All of a run under way: m channels, times of shape (n,), values of shape (m, n), and what was said of it."""

    channels: tuple[Channel, ...]
    time_s: Array
    values: Array
    marks: tuple[Mark, ...]
    hand_readings: tuple[HandReading, ...]
    changes: tuple[Change, ...]
    facts: Facts
    spec: CourseSpec


def begin_beside(where: str, so_far: SoFar, started: str) -> tuple[Archive, RunWriter]:
    """A new archive beside a place, and in it the run so far; what the run still brings goes to the writer.

    Raises:
        ArchiveError: no file can be made there either.
    """
    place = Path(where)
    number = 1
    while (target := place.with_name(f"{place.stem}.rescued-{number}{place.suffix}")).exists():
        number += 1
    fresh = Archive(target)
    writer = fresh.runs.begin(
        so_far.channels, so_far.spec.load, started, facts=so_far.facts, course=asdict(so_far.spec)
    )
    for at_s, values in zip(so_far.time_s.tolist(), so_far.values.T.tolist(), strict=True):
        writer.append(at_s, values)
    for mark in so_far.marks:
        writer.mark(mark)
    for reading in so_far.hand_readings:
        writer.hand_reading(reading)
    for change in so_far.changes:
        writer.change(change)
    return fresh, writer
