"""What a person reads while a run is recorded, and just after: kept in the run it was meant for."""

from __future__ import annotations

from dataclasses import replace

from sqlalchemy.exc import OperationalError

from samovar.archive.database import ArchiveError, in_words
from samovar.core.by_hand.line import Circumstances
from samovar.core.by_hand.reading import HandReading
from samovar.core.marks import Mark
from samovar.recording.live import LiveRun
from samovar.recording.room import ROOM, ROOM_BY_HAND


def circumstances(live: LiveRun) -> Circumstances:
    """What is known when a reading is typed now: meter, distance, room, and how far the run is."""
    now_s = live.recorder.elapsed() if live.outcome is None else live.outcome.duration_s
    return Circumstances(
        live.setup.rig if live.setup else None,
        live.review.compared_at_m if live.review else 1.0,
        live.room_c(),
        now_s,
    )


def keep_reading(live: LiveRun, reading: HandReading) -> HandReading:
    """Keep a value that a person took; the answer is as it is kept. The room's goes to its channel too.

    Raises:
        ArchiveError: the run is sealed already, and the archive cannot be written now.
    """
    now_s = live.recorder.elapsed()
    at_s = now_s if reading.at_s is None else reading.at_s
    if live.outcome is not None:
        at_s = min(at_s, live.outcome.duration_s)
    kept = replace(reading, at_s=at_s)
    if kept.kind == ROOM and live.room_by_hand is not None and kept.value is not None:
        live.room_by_hand.enter(ROOM_BY_HAND.name, kept.value, max(0.0, now_s - at_s))
    mark = Mark(at_s, f"{kept.kind} {kept.text()} by hand")
    if live.sealed.is_set():
        # The run has ended meanwhile: the reading still goes to the run it was meant for.
        return _add(live, kept, mark)
    live.take(kept)
    if live.course is not None:
        live.course.reading_taken(kept.kind)
    live.recorder.mark(mark.text, at_s)
    return kept


def _add(live: LiveRun, reading: HandReading, mark: Mark) -> HandReading:
    try:
        kept = live.archive.runs.hands.add(live.number, reading)
        live.archive.runs.change_mark(live.number, None, mark)
    except OperationalError as failure:
        raise ArchiveError(f"{live.id}: {in_words(failure)}; type the reading again") from failure
    live.hand_readings.append(kept)
    live.show_mark(mark)
    return kept
