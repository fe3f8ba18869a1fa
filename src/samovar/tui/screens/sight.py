"""What of a run is in sight: cursors, zoom, phases, and the list of held stretches."""

from __future__ import annotations

import math
from typing import ClassVar

import numpy as np
from textual import work
from textual.binding import Binding, BindingType

from samovar.core.between import Between, between
from samovar.core.effect import Effect, effects
from samovar.core.units import Unreadable
from samovar.tui.screens.run_actions import RunActions
from samovar.tui.sheets.ask import Ask
from samovar.tui.typed_times import times_of
from samovar.tui.widgets.strip_tiles import TILE
from samovar.tui.widgets.strips import StripStack

LEAST_SPAN_S = 20.0
MARGIN = 0.03
"""What is seen before and after what was zoomed to, as a share of it."""


class Sight(RunActions):
    """The part of Trace that moves about in its run."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("left", "cursor(-1)", "", show=False),
        Binding(
            "right",
            "cursor(1)",
            "Cursor",
            key_display="← →",
            tooltip="cursor one column back or on; shift goes ten",
        ),
        Binding("shift+left", "cursor(-10)", "", show=False),
        Binding("shift+right", "cursor(10)", "", show=False),
        Binding(
            "plus,equals_sign",
            "zoom(0.5)",
            "Zoom",
            key_display="+ −",
            tooltip="nearer or wider, around the cursor",
        ),
        Binding("minus", "zoom(2)", "", show=False),
        Binding("z", "phase", "Phase", tooltip="zoom to the load; again: to the next phase"),
        Binding("a", "all", "All", tooltip="the whole run"),
        Binding(
            "down,h",
            "held(1)",
            "Held",
            key_display="↑ ↓",
            tooltip="the held stretch before, or the next, in the list",
        ),
        Binding("up", "held(-1)", "", show=False),
        Binding(
            "enter",
            "to_held",
            "Zoom to it",
            show=False,
            tooltip="zoom to the held stretch chosen in the list",
        ),
        Binding(
            "space",
            "anchor",
            "Second cursor",
            show=False,
            tooltip="a second cursor here: the panel tells between",
        ),
        Binding("escape", "no_cursor", "No cursor", show=False, tooltip="take the cursors away"),
        Binding(
            "g",
            "go_to",
            "Go to",
            show=False,
            tooltip="the cursor to a typed time; two times set both",
        ),
    ]

    def __init__(self) -> None:
        super().__init__()
        self.span = (0.0, 1.0)
        self.held_chosen: int | None = None
        self._phase: int | None = None

    def _column_s(self) -> float:
        strips = self.query_one("#trace-strips", StripStack)
        return (self.span[1] - self.span[0]) / max(1, strips.plot_width)

    def whole(self) -> tuple[float, float]:
        """The whole run's time."""
        return 0.0, max(self.recording_shown.duration_s if self.recording_shown else 1.0, 1.0)

    def action_cursor(self, columns: int) -> None:
        """Move the cursor; the view follows it."""
        if self.recording_shown is None:
            return
        step = self._column_s()
        middle = 0.5 * (self.span[0] + self.span[1])
        at = (self.cursor_s if self.cursor_s is not None else middle) + columns * step
        self.cursor_s = float(np.clip(at, 0.0, self.recording_shown.duration_s))
        begin, end = self.span
        if not begin <= self.cursor_s < end:
            # By whole pieces of the picture: most of it is drawn already.
            piece, width = TILE * step, end - begin
            if self.cursor_s < begin:
                begin = math.floor(self.cursor_s / piece) * piece
            else:
                begin = math.ceil((self.cursor_s + step - width) / piece) * piece
            begin = max(0.0, min(begin, self.whole()[1] + step - width))
            self.span = (begin, begin + width)
        self.draw()

    def on_strip_stack_picked(self, message: StripStack.Picked) -> None:
        """A click sets the cursor."""
        self.cursor_s = message.seconds
        self.draw()

    def action_anchor(self) -> None:
        """A second cursor where the first one is; the same key takes it away."""
        self.anchor_s = self.cursor_s if self.anchor_s is None else None
        if self.anchor_s is not None:
            self.notify("Second cursor set: move on, and the panel tells what lies between.")
        self.draw()

    def between_cursors(self) -> list[Between]:
        """What changed from the second cursor to the first."""
        if self.anchor_s is None or self.cursor_s is None or self.recording_shown is None:
            return []
        return between(self.recording_shown, self.anchor_s, self.cursor_s)

    def effects_between(self) -> list[Effect]:
        """What became of every channel from the earlier cursor to the later, and how long it took."""
        if self.anchor_s is None or self.cursor_s is None or self.recording_shown is None:
            return []
        return effects(self.recording_shown, *sorted((self.anchor_s, self.cursor_s)), around=True)

    @work
    async def action_go_to(self) -> None:
        """The cursor where a person says; with two times the second cursor too."""
        recording = self.recording_shown
        if recording is None:
            return
        question = "To which time? 12:30 sets the cursor, 12:30 to 20:00 both cursors."
        typed = await self.app.push_screen_wait(Ask(question, hint="12:30"))
        if not typed:
            return
        try:
            times = times_of(typed, recording.duration_s, 1, 2)
        except Unreadable as problem:
            self.notify(str(problem), severity="error")
            return
        self.anchor_s = times[0] if len(times) == 2 else None
        self.cursor_s = times[-1]
        if not all(self.span[0] <= t <= self.span[1] for t in times):
            if len(times) == 2:
                self.zoom_to(*times)
                return
            half = 0.5 * (self.span[1] - self.span[0])
            begin = float(np.clip(times[0] - half, 0.0, self.whole()[1] - 2.0 * half))
            self.span = (begin, begin + 2.0 * half)
        self.draw()

    def action_no_cursor(self) -> None:
        """Without a cursor the values are the newest."""
        self.cursor_s, self.held_chosen, self.anchor_s = None, None, None
        self.draw()

    def action_zoom(self, factor: float) -> None:
        """Nearer or wider around the cursor."""
        if self.recording_shown is None:
            return
        begin, end = self.span
        centre = self.cursor_s if self.cursor_s is not None else 0.5 * (begin + end)
        whole = self.whole()[1]
        width = float(np.clip((end - begin) * factor, min(LEAST_SPAN_S, whole), whole))
        share = (centre - begin) / (end - begin)
        begin = float(np.clip(centre - share * width, 0.0, whole - width))
        self.span = (begin, begin + width)
        self.draw()

    def zoom_to(self, start_s: float, end_s: float) -> None:
        """Let a stretch fill the view, a little of what lies around it with it."""
        margin = max(MARGIN * (end_s - start_s), 0.5 * (LEAST_SPAN_S - (end_s - start_s)))
        self.span = (max(0.0, start_s - margin), min(self.whole()[1], end_s + margin))
        self.draw()

    def action_phase(self) -> None:
        """The longest load first; the same key goes on to the phases after it, and round again."""
        reading = self.reading_shown
        load = reading.load_phase() if reading else None
        if reading is None or not reading.phases:
            self.notify("This run has no phases.", severity="warning")
            return
        if self._phase is None:
            self._phase = reading.phases.index(load) if load is not None else 0
        else:
            self._phase = (self._phase + 1) % len(reading.phases)
        phase = reading.phases[self._phase]
        self.zoom_to(phase.start_s, phase.end_s)

    def action_all(self) -> None:
        """The whole run."""
        if self.recording_shown is not None:
            self.span, self._phase = self.whole(), None
            self.draw()

    def action_held(self, step: int) -> None:
        """To the next held stretch in the list, or the one before."""
        if self.reading_shown is None or not self.reading_shown.held:
            self.notify("Nothing held this run.")
            return
        count = len(self.reading_shown.held)
        first = 0 if step > 0 else count - 1
        self.held_chosen = first if self.held_chosen is None else (self.held_chosen + step) % count
        self.cursor_s = self.reading_shown.held[self.held_chosen].start_s
        begin, end = self.span
        if not begin <= self.cursor_s < end:
            begin = max(0.0, self.cursor_s - 0.2 * (end - begin))
            self.span = (begin, begin + end - self.span[0])
        self.draw()

    def action_to_held(self) -> None:
        """Zoom to the chosen stretch; the first where none is chosen."""
        reading = self.reading_shown
        if reading is None or not reading.held:
            self.notify("Nothing held this run.")
            return
        if self.held_chosen is None:
            self.held_chosen = 0
        held = reading.held[self.held_chosen]
        self.cursor_s = held.start_s
        self.zoom_to(held.start_s, held.end_s)

    def start_over(self) -> None:
        """Another run: the whole of it, nothing chosen."""
        self.span, self.held_chosen, self._phase, self.anchor_s = self.whole(), None, None, None
