"""What can be done to one finished run: its marks, its averaging window, a replay, leaving it out."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import ClassVar

from textual import work
from textual.binding import Binding, BindingType

from samovar.archive.records import Run
from samovar.bench.course_spec import CourseSpec, clock_text
from samovar.bench.replay_machine import ReplayMachine
from samovar.core.claims.kinds import CHANGE
from samovar.core.effect import EDGE_S, effects, of_changes
from samovar.core.exclusions import Exclusion, at, with_added
from samovar.core.heat_path import elsewhere, headroom_w
from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.core.units import Unreadable, parse
from samovar.entering import circumstances_of
from samovar.exchange.problems import InputError
from samovar.recording.live import NO_LOAD, LiveRun
from samovar.tui.aside import aside, behind
from samovar.tui.hand_sheets import edit_readings
from samovar.tui.mark_sheets import edit_marks, is_structural
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.typed_times import times_of

REPLAY_SPEED = 30.0
LEAST_WINDOW_S = 20.0
LEAST_CUT_S = 2.0
MARK_NEAR_S = 20.0
"""A mark so little before the first cursor says what was done there."""
EXCUSES = ("door opened", "panel taken off", "cable touched", "another program ran", "sensor came loose")

_WATTS = re.compile(r"(\d+(?:[.,]\d+)?)\s*k?W\b", re.I)
_DEGREES = re.compile(r"-?\d+(?:[.,]\d+)?\s*(?:°\s*[CF]?|[CF]\b|K\b)", re.I)


def elsewhere_words(reading: Reading, limit_c: float | None, typed: str) -> str:
    """The answer to `120 W 35 °C`.

    Raises:
        InputError: neither a power nor a room stands there.
    """
    watts, room = _WATTS.search(typed), _DEGREES.search(typed)
    if watts is None and room is None:
        raise InputError(f"{typed!r} names neither a power nor a room; write 120 W, 35 °C, or both")
    try:
        power_w = parse("power", watts[0]) if watts else None
        room_c = parse("temperature", room[0].removesuffix("°")) if room else None
    except Unreadable as problem:
        raise InputError(str(problem)) from problem
    found = elsewhere(reading, power_w, room_c)
    if found is None:
        raise InputError("the run's resistance is not known; it needs die, power and room, settled")
    words = f"The die would settle at {found.die_c.text('°C', finest=1)}"
    if found.beyond is not None:
        words += f", extrapolated: that power is {100 * found.beyond:.0f} % away from what was measured"
    if limit_c is not None and found.die_c.value > limit_c:
        words += f"; its limit is {limit_c:.0f} °C, so it would be held"
    if limit_c is not None and room_c is not None:
        heat = headroom_w(reading, limit_c, room_c)
        words += (
            f". In that room {heat.text('W', finest=0)} bring it to its limit" if heat is not None else ""
        )
    return words + "."


class RunActions(Place):
    """The part of Trace that changes something about its run. `cursor_s` is where its cursor stands."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("x", "leave_out", "Leave out", tooltip="leave this run out of comparisons, or bring it back"),
        Binding("m", "marks", "Marks", tooltip="move, reword, add or take away a mark"),
        Binding("b", "hand", "By hand", tooltip="enter what was read by hand, change it or take it back"),
        Binding(
            "c",
            "claim_change",
            "Claim",
            show=False,
            tooltip="claim what changed between the cursors, or last",
        ),
        Binding(
            "left_square_bracket",
            "edge(0)",
            "Window",
            key_display="[ ]",
            show=False,
            tooltip="the averages begin, or end, at the cursor",
        ),
        Binding("right_square_bracket", "edge(1)", "", show=False),
        Binding(
            "t",
            "type_window",
            "Type window",
            show=False,
            tooltip="averages from a typed time to a typed time",
        ),
        Binding(
            "backslash",
            "automatic",
            "By itself",
            show=False,
            tooltip="the averaging window as it is found by itself",
        ),
        Binding(
            "p",
            "elsewhere",
            "Elsewhere",
            show=False,
            tooltip="the die at another chip's power, or in another room",
        ),
        Binding("y", "replay", "Replay", show=False, tooltip="this run on the Bench again, 30 times as fast"),
        Binding(
            "k",
            "exclude",
            "Cut out",
            show=False,
            tooltip="leave out what is between the cursors, or undo it",
        ),
        Binding("n", "note", "Note", show=False, tooltip="a note on the whole run"),
        Binding("u", "undo_here", "Undo", show=False, tooltip="undo the last change"),
    ]

    run_shown: Run | None = None
    recording_shown: Recording | None = None
    reading_shown: Reading | None = None
    cursor_s: float | None = None
    anchor_s: float | None = None

    def draw(self) -> None:
        """Show the run as it is now."""
        raise NotImplementedError

    def read_anew(self) -> None:
        """Read the run again: something that its figures stand on has changed."""
        raise NotImplementedError

    def action_edge(self, which: int) -> None:
        """Let the averaging window begin (0) or end (1) at the cursor."""
        run, reading, recording = self.run_shown, self.reading_shown, self.recording_shown
        if run is None or reading is None or recording is None or self.cursor_s is None:
            self.notify("Move the cursor to where the averages are to begin or end.", severity="warning")
            return
        load = reading.load_phase()
        span = reading.window.span if reading.window else None
        begin, end = span or ((load.start_s, load.end_s) if load else (0.0, recording.duration_s))
        wanted = (self.cursor_s, end) if which == 0 else (begin, self.cursor_s)
        self._ask_window(run, wanted, "set the other end first")

    def _ask_window(self, run: Run, wanted: tuple[float, float], advice: str) -> None:
        """Set the window where it is long enough to average over."""
        if wanted[1] - wanted[0] < LEAST_WINDOW_S:
            self.notify(
                f"The averages need {LEAST_WINDOW_S:.0f} s at the least: {advice}.", severity="warning"
            )
            return
        self._set_window(run, wanted)

    @work
    async def action_type_window(self) -> None:
        """The averaging window from a time to a time."""
        run, reading, recording = self.run_shown, self.reading_shown, self.recording_shown
        if run is None or reading is None or recording is None:
            return
        span = reading.window.span if reading.window else None
        now = f"{clock_text(span[0])} to {clock_text(span[1])}" if span else ""
        question = f"Averages of {run.id} from which time to which?"
        typed = await self.app.push_screen_wait(Ask(question, now, "12:30 to 20:00"))
        if not typed or typed == now:
            return
        try:
            wanted = times_of(typed, recording.duration_s, 2, 2)
        except Unreadable as problem:
            self.notify(str(problem), severity="error")
        else:
            self._ask_window(run, (wanted[0], wanted[1]), "type a longer stretch")

    def action_automatic(self) -> None:
        """The window as it is found again."""
        if self.run_shown is not None:
            self._set_window(self.run_shown, None)

    def _set_window(self, run: Run, span: tuple[float, float] | None) -> None:
        said = self.session.archive.runs.annotations
        before = said.window(run.number)
        if span == before:
            return
        said.set_window(run.number, span)
        self.session.remember(
            f"the averaging window of {run.id}", lambda: said.set_window(run.number, before)
        )
        words = "found by itself again" if span is None else f"{clock_text(span[0])} to {clock_text(span[1])}"
        self.notify(f"Averages of {run.id}: {words}; u undoes it.")
        self.session.reload()
        self.read_anew()

    @work
    async def action_marks(self) -> None:
        """Change a mark."""
        if self.run_shown is None or self.recording_shown is None:
            return
        if await edit_marks(self, self.run_shown, self.recording_shown, self.cursor_s):
            self._marks_anew()

    @work
    async def action_hand(self) -> None:
        """Enter a reading, change one, or take it back."""
        run, reading = self.run_shown, self.reading_shown
        if run is None or reading is None:
            return
        there = aside(circumstances_of, behind(self.session.archive), run)
        if await edit_readings(self, run.id, run.number, there, self.cursor_s):
            self.session.reload()
            self.read_anew()

    def action_undo_here(self) -> None:
        """Undo the last change, here or elsewhere."""
        words = self.session.undo()
        self.notify(f"Undone: {words}." if words else "Nothing to undo.")
        if words:
            self._marks_anew()
            self.read_anew()

    def _marks_anew(self) -> None:
        run, recording = self.run_shown, self.recording_shown
        if run is not None and recording is not None:
            marks = self.session.archive.runs.recording(run.number, [0]).marks
            self.recording_shown = replace(recording, marks=marks, _cache={})
            self.draw()

    @work
    async def action_elsewhere(self) -> None:
        """Where the die would settle at another power or in another room."""
        reading, run = self.reading_shown, self.run_shown
        if reading is None or run is None or elsewhere(reading) is None:
            self.notify("That needs a run that settled, with die, power and room.", severity="warning")
            return
        typed = await self.app.push_screen_wait(
            Ask("Which power, and in which room?", hint="120 W, 35 °C, or 120 W 35 °C")
        )
        if typed:
            try:
                words = elsewhere_words(reading, run.facts.cpu.temperature_limit_c, typed)
            except InputError as problem:
                self.notify(str(problem), severity="error")
                return
            self.notify(words, title="Elsewhere", timeout=20)

    @work
    async def action_claim_change(self) -> None:
        """A claim on what changed between the two cursors, or on what the change before the cursor did."""
        run, recording = self.run_shown, self.recording_shown
        if run is None or recording is None:
            return
        if run.review_id is None or run.setup_id is None:
            self.notify(
                "Only a run of a review can be claimed of: take it there first (Grid, Enter, m).",
                severity="warning",
            )
            return
        found = self._change_here(recording)
        if found is None:
            self.notify(
                "Set a second cursor with space, or move the cursor behind a change.", severity="warning"
            )
            return
        from_s, to_s, what, around = found
        shown = [e for e in effects(recording, from_s, to_s, around=around) if e.shown]
        options = [(e.channel.name, e.words()) for e in shown]
        chosen = (
            await self.app.push_screen_wait(Choose(f"{what}: claim what it did to which channel?", options))
            if options
            else None
        )
        if not options:
            self.notify(f"{what} changed nothing that shows.", severity="warning")
        if chosen is None:
            return
        about = {
            "run": run.id,
            "channel": chosen,
            "from_s": from_s,
            "to_s": to_s,
            "around": around,
            "what": what,
        }
        store = self.session.archive.reviews
        key = store.add_claim(run.review_id, CHANGE, run.setup_id, None, run.load, about)
        self.session.remember(f"a claim on {what}", lambda: store.drop_claim(key))
        self.session.reload()
        self.notify(
            f"Claimed: {what} {next(w for n, w in options if n == chosen)}. Write-up (6) has it; u undoes it."
        )

    def _change_here(self, recording: Recording) -> tuple[float, float, str, bool] | None:
        """From, to, what was changed, and whether these are cursors."""
        if self.anchor_s is not None and self.cursor_s is not None:
            from_s, to_s = sorted((self.anchor_s, self.cursor_s))
            near = [
                m.text
                for m in recording.marks
                if from_s - MARK_NEAR_S <= m.at_s <= to_s and not is_structural(m)
            ]
            return from_s, to_s, near[0] if near else f"what happened at {clock_text(from_s)}", True
        before = [
            c for c in of_changes(recording) if self.cursor_s is not None and c[0].at_s <= self.cursor_s
        ]
        if not before:
            return None
        change, until, _ = before[-1]
        return change.at_s, until - EDGE_S, change.words, False

    @work
    async def action_exclude(self) -> None:
        """Leave the stretch between the cursors out, with a reason; within a stretch that is out, take it back in."""
        run = self.run_shown
        if run is None or self.cursor_s is None:
            self.notify(
                "Set a second cursor with space, and move the first to the other end.", severity="warning"
            )
            return
        out = self.session.archive.runs.annotations.excluded(run.number)
        if self.anchor_s is None:
            here = at(out, self.cursor_s)
            if here is None:
                self.notify(
                    "Set a second cursor with space, and move the first to the other end.", severity="warning"
                )
                return
            self._set_excluded(run, [e for e in out if e != here], "back in its figures")
            return
        begin, end = sorted((self.anchor_s, self.cursor_s))
        if end - begin < LEAST_CUT_S:
            self.notify(
                f"The cursors are less than {LEAST_CUT_S:.0f} s apart: move one of them.", severity="warning"
            )
            return
        span = f"{clock_text(begin)} to {clock_text(end)}"
        why = await self.app.push_screen_wait(
            Ask(f"Why leave {span} out?", hint="door opened", prepared=EXCUSES)
        )
        if why:
            self.anchor_s = None
            self._set_excluded(run, with_added(out, Exclusion(begin, end, why)), f"{span} left out")

    def _set_excluded(self, run: Run, wanted: list[Exclusion], words: str) -> None:
        said = self.session.archive.runs.annotations
        before = said.excluded(run.number)
        said.set_excluded(run.number, wanted)
        self.session.remember(f"what was left out of {run.id}", lambda: said.set_excluded(run.number, before))
        self.notify(f"{run.id}: {words}; u undoes it.")
        self.session.reload()
        self.read_anew()

    @work
    async def action_note(self) -> None:
        """Write, or change, the note on the whole run; an empty line takes it away."""
        run = self.run_shown
        if run is None:
            return
        said = self.session.archive.runs.annotations
        before = said.note(run.number)
        typed = await self.app.push_screen_wait(
            Ask(f"A note on {run.id}", before, hint="paste from another tube; second mounting")
        )
        if typed is not None and typed != before:
            said.set_note(run.number, typed)
            self.session.remember(f"the note on {run.id}", lambda: said.set_note(run.number, before))
            self.refresh_all()

    def action_replay(self) -> None:
        """Record this run again from its samples, as if the machine were here."""
        live, run, recording = self.session.live, self.run_shown, self.recording_shown
        if live is not None and not live.sealed.is_set():
            self.notify("A run is under way: stop it on the Bench first.", severity="warning")
        elif run is not None and recording is not None and len(recording.time_s) > 1:
            machine = ReplayMachine(recording, REPLAY_SPEED)
            again = LiveRun(
                self.session.archive, machine, CourseSpec(NO_LOAD), facts=run.facts, for_s=machine.duration_s
            )
            again.note(f"replay of {run.id}")
            self.session.live = again
            again.start()
            self.samovar.action_go("bench")

    def action_leave_out(self) -> None:
        """Leave this run out of comparisons; the same key brings it back."""
        if self.run_shown is None:
            return
        run, back = self.run_shown, self.run_shown.left_out is not None
        self.session.archive.runs.leave_out(run.number, None if back else "left out by hand in Trace")
        self.session.reload()
        self.notify(f"{run.id} {'counts again' if back else 'left out; x brings it back'}.")
        self.refresh_all()
