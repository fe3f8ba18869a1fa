"""Readings entered for a run that is kept, whenever: read against its rig and review, all of a call or none."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from samovar.bench.course_spec import clock_text
from samovar.core.by_hand.line import Circumstances, read_line
from samovar.core.by_hand.reading import HandReading, with_room
from samovar.core.contract import plain
from samovar.core.units import Unreadable
from samovar.exchange.problems import InputError
from samovar.heard_line import heard_readings, names_recording

if TYPE_CHECKING:
    from samovar.archive import Archive
    from samovar.archive.records import Review, Run, Setup

LINES_MOST = 200
"""More lines than anybody reads of one run."""


def circumstances_of(opened: Archive, run: Run) -> Circumstances:
    """What is known of a kept run when a reading of it is typed: its rig's meter, the review's distance, its room."""
    review = opened.reviews.review(run.review_id) if run.review_id is not None else None
    setup = review.setup(run.setup_id) if review is not None else None
    room = opened.runs.reading(run.number).room if run.samples else None
    facts = with_room(run.facts, opened.runs.hands.of(run.number))
    return circumstances(
        review, setup, room.value if room is not None else facts.room.temperature_c, run.duration_s
    )


def circumstances(
    review: Review | None, setup: Setup | None, room_c: float | None, duration_s: float
) -> Circumstances:
    """The circumstances of a run that is over."""
    compared_at_m = review.compared_at_m if review is not None else 1.0
    return Circumstances(setup.rig if setup is not None else None, compared_at_m, room_c, None, duration_s)


def read_lines(
    lines: Sequence[str], there: Circumstances, keep: Callable[[bytes], str] | None = None
) -> list[HandReading]:
    """Lines as typed, read; a room that one of them gives counts for the surfaces in the others. `keep` keeps a
    piece of a recording that one names, and names the piece.

    Raises:
        InputError: the first line that cannot be read: nothing is kept then.
    """
    if len(lines) > LINES_MOST:
        raise InputError(f"{len(lines)} lines: enter takes at most {LINES_MOST} at once; split the call")
    try:
        rooms = [line for line in lines if line.strip().lower().startswith("room")]
        for line in rooms:
            room = read_line(line, there)
            if room.value is not None:
                there = Circumstances(
                    there.rig, there.compared_at_m, room.value, there.now_s, there.duration_s
                )
        found: list[HandReading] = []
        for line in lines:
            found += heard_readings(line, there, keep) if names_recording(line) else [read_line(line, there)]
        return found
    except Unreadable as problem:
        raise InputError(f"{problem}; nothing of this call was kept") from problem


def entered_row(reading: HandReading) -> dict[str, Any]:
    """One reading as scripts get it."""
    row: dict[str, Any] = {
        "kind": reading.kind,
        "quantity": reading.is_of.quantity,
        "value": plain(reading.value),
        "half_width_95": plain(reading.half_width),
        "unit": reading.unit,
        "bound": reading.bound,
        "part": reading.part,
        "at_s": plain(reading.at_s),
        "n": reading.n,
        "words": reading.said,
    }
    beside = {
        "instrument": reading.instrument, "distance_m": plain(reading.distance_m),
        "background_dba": plain(reading.background), "emissivity": plain(reading.emissivity),
        "set_to": plain(reading.set_to), "character": reading.character, "direction": reading.is_of.direction,
    }  # fmt: skip
    return {**row, **{key: value for key, value in beside.items() if value not in (None, "")}}


def entered_text(run: str, readings: Sequence[HandReading]) -> str:
    """Readings as people read them, one a line."""
    if not readings:
        return f'{run}: nothing was read by hand yet; samovar enter {run} "noise 27.4 dBA at 1 m" enters something'
    rows = [
        (str(r.n), r.kind, r.text(), r.place, "" if r.at_s is None else clock_text(r.at_s), r.said)
        for r in readings
    ]
    widths = [max(len(row[k]) for row in rows) for k in range(5)]
    return "\n".join(
        "  ".join([*(cell.ljust(width) for cell, width in zip(row, widths, strict=False)), row[5]]).rstrip()
        for row in rows
    )
