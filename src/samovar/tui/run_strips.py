"""The strips of a run under way: their span, the course's steps as phases, what held it so far."""

from __future__ import annotations

import math

from samovar.core.phases import Phase
from samovar.core.reading import Reading
from samovar.recording.live import LiveRun
from samovar.tui.live_window import LiveWindow
from samovar.tui.widgets.strip_plan import StripSpec
from samovar.tui.widgets.strips import StripView

NOTHING_HELD = (("held by", ()),)
_SPANS_MIN = (2, 5, 10, 15, 20, 30, 40, 50, 60, 90, 120, 180, 240)


def whole_end(elapsed_s: float) -> float:
    """Where the axis of the whole run ends, seconds."""
    wanted = elapsed_s * 1.12 / 60.0
    beyond = 60 * math.ceil(wanted / 60.0)
    return next((m for m in _SPANS_MIN if m >= wanted), beyond) * 60.0


def strip_view(
    live: LiveRun,
    specs: tuple[StripSpec, ...],
    reading: Reading | None,
    room_c: float | None,
    elapsed_s: float,
    window: LiveWindow | None = None,
) -> StripView:
    """What the strips show; the whole axis is a little longer than the run, and grows in round steps."""
    phases = []
    if live.course is not None:
        steps = live.course.steps
        for (name, begin), (_, end) in zip(steps, [*steps[1:], ("", elapsed_s)], strict=True):
            if name != "done":
                phases.append(Phase(name, begin, end))
    start_s, end_s = (window or LiveWindow()).span(elapsed_s, whole_end(elapsed_s))
    return StripView(
        specs=specs,
        start_s=start_s,
        end_s=end_s,
        phases=tuple(phases),
        held=reading.ribbons if reading else NOTHING_HELD,
        marks=live.marks(),
        room_c=room_c,
        empty="waiting for the first sample",
    )
