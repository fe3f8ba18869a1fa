"""What a run under way is doing, and what it asks of a person, in a few words."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.archive.live import LiveRun
from samovar.archive.records import HandReading
from samovar.bench.course_spec import step_words


def step_rule(live: LiveRun) -> str:
    """The load's rule for ending; of several steps the one under way."""
    course, steps = live.course, live.spec.steps
    if course is None or not steps:
        return live.spec.words()
    return f"step {course.index + 1} of {len(steps)}: {step_words(course.part)}"


def due_by_hand(live: LiveRun, loaded: bool, taken: Sequence[HandReading]) -> list[str]:
    """What a person is to do next: start or end a load, take a reading that was not taken yet."""
    if live.waiting:
        return ["START THE LOAD NOW,", "then press g"]
    out = ["press g when it has ended"] if live.by_hand and loaded else []
    have = {reading.quantity for reading in taken}
    for due in live.spec.readings:
        key = (": press n" if due.what == "noise" else ": press b") if loaded else ""
        if due.what not in have and (loaded or due.when == "at the end"):
            out.append(f"{due.words}{key}")
    return out or ([] if taken else ["nothing due"])
