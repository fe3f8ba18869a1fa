"""What a run under way is doing, and what it asks of a person, in a few words."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from samovar.bench.course import SAME_READING
from samovar.bench.course_spec import step_words
from samovar.core.by_hand.reading import HandReading
from samovar.core.recording import Array
from samovar.recording.live import LiveRun
from samovar.tui.widgets.far_view import FarNumber
from samovar.tui.widgets.settle_panel import SettleView


def step_rule(live: LiveRun) -> str:
    """The load's rule for ending; of several steps the one under way."""
    course, steps = live.course, live.spec.steps
    if course is None or not steps:
        return live.spec.words()
    return f"step {course.index + 1} of {len(steps)}: {step_words(course.part)}"


def due_by_hand(
    live: LiveRun, loaded: bool, taken: Sequence[HandReading], listens: bool = False
) -> list[str]:
    """What a person is to do next: start or end a load, take a reading that was not taken yet."""
    if live.waiting:
        return ["START THE LOAD NOW,", "then press g"]
    out = ["press g when it has ended"] if live.by_hand and loaded else []
    have = {SAME_READING.get(r.kind, r.kind) for r in taken}
    for due in live.spec.readings:
        by_ear = ": the microphone listens" if listens else ": press n"
        key = (by_ear if due.what == "noise" else ": press b") if loaded else ""
        if due.what not in have and (loaded or due.when == "at the end"):
            out.append(f"{due.words}{key}")
    return out or ([] if taken else ["nothing due"])


def far_numbers(live: LiveRun, view: SettleView) -> tuple[FarNumber, ...]:
    """The four numbers that matter: die, clock, power, and work, or the fan where nothing counts work."""
    _, values = live.arrays()
    die = "–" if view.die_c is None else f"{view.die_c:.1f}"
    heading = "" if view.heading is None else f"heading for {view.heading.text('°C', finest=1)}"
    room = (
        ""
        if view.die_c is None or view.room_c is None
        else f"{view.die_c - view.room_c:+.1f} K over the room"
    )
    work = _now(live, values, "work", ("other",))
    last = (
        FarNumber("work", f"{work:.0f}", "1/s", "work", f"{view.step}: {view.rule}")
        if work is not None
        else FarNumber(
            "fan",
            _text(_now(live, values, "fan", ("other", "case-fan")), 0),
            "rpm",
            "fan",
            f"{view.step}: {view.rule}",
        )
    )
    return (
        FarNumber("die", die, "°C", "temperature", heading or room),
        FarNumber(
            "clock",
            _text(_now(live, values, "clock", ("core", "package")), 0),
            "MHz",
            "clock",
            "settled" if view.settled else "",
        ),
        FarNumber(
            "power",
            _text(_now(live, values, "power", ("package", "wall")), 1),
            "W",
            "power",
            room if heading else "",
        ),
        last,
    )


def _text(value: float | None, decimals: int) -> str:
    return "–" if value is None else f"{value:.{decimals}f}"


def _now(live: LiveRun, values: Array, quantity: str, roles: tuple[str, ...]) -> float | None:
    """The mean of the channels of this quantity and the first of these roles that any has, now."""
    if values.shape[1] == 0:
        return None
    for role in roles:
        rows = [i for i, c in enumerate(live.channels) if c.quantity == quantity and c.role == role]
        recent = [values[row, -max(1, live.recorder.strides[row]) :] for row in rows]
        known = np.array([r[np.isfinite(r)][-1] for r in recent if np.isfinite(r).any()])
        if len(known):
            return float(known.mean()) if quantity == "clock" else float(known[0])
    return None
