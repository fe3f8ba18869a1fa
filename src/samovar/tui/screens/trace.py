"""Trace: one run, read closely."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

import numpy as np
from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll
from textual.widgets import Static

from samovar.archive.records import Run
from samovar.bench.course_spec import clock_text
from samovar.core.between import Between, between
from samovar.core.envelope import Envelope
from samovar.core.quantity import Channel
from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.core.rig import Rig
from samovar.core.totals import LoadTotals, totals_of
from samovar.exchange.problems import InputError
from samovar.tui.channel_view import with_bands
from samovar.tui.screens.run_actions import RunActions
from samovar.tui.sheets.ask import Ask
from samovar.tui.widgets.reading_panel import brief_text, panel_text
from samovar.tui.widgets.strip_plan import plan_strips
from samovar.tui.widgets.strips import StripStack, StripView

_LEAST_SPAN_S = 20.0
REPLAY_SPEED = 30.0


class TracePlace(RunActions):
    """Strips with a cursor, and what the run says beside them."""

    NAME = "trace"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("left", "cursor(-1)", "Cursor", show=False, tooltip="cursor one column back"),
        Binding("right", "cursor(1)", "Cursor", tooltip="cursor one column on; shift goes ten"),
        Binding("shift+left", "cursor(-10)", "Cursor", show=False, tooltip="cursor ten columns back"),
        Binding("shift+right", "cursor(10)", "Cursor", show=False, tooltip="cursor ten columns on"),
        Binding(
            "plus,equals_sign", "zoom(0.5)", "Zoom", key_display="+ −", tooltip="nearer, around the cursor"
        ),
        Binding("minus", "zoom(2)", "Wider", show=False, tooltip="wider, around the cursor"),
        Binding("z", "load", "The load", tooltip="zoom to the load"),
        Binding("a", "all", "All", tooltip="the whole run"),
        Binding("h", "held", "Next held", tooltip="to the next held stretch, with its evidence"),
        Binding("comma", "run(-1)", "Run before", show=False, tooltip="the run before this one"),
        Binding("full_stop", "run(1)", "Other run", key_display=", .", tooltip="the run after this one"),
        Binding("i", "more", "More strips", show=False, tooltip="show the lesser quantities too"),
        Binding("o", "model", "Model", tooltip="the thermal model's curve over the data"),
        Binding(
            "d", "details", "Details", show=False, tooltip="in a narrow window: what the run says, in full"
        ),
        Binding("e", "export", "Export", tooltip="the samples as CSV or Parquet, or the chart as SVG or PDF"),
        Binding(
            "space",
            "anchor",
            "Second cursor",
            show=False,
            tooltip="leave a second cursor here: the panel tells what lies between",
        ),
        Binding("escape", "no_cursor", "No cursor", show=False, tooltip="take the cursor away"),
    ]
    CSS = """
    #trace-body { height: 1fr; }
    #trace-strips { width: 1fr; height: 1fr; }
    #side { width: 44; height: 1fr; border-left: solid $line; padding: 0 1; }
    #trace-brief { height: 1; padding: 0 1; display: none; }
    TracePlace.-narrow #trace-brief { display: block; }
    TracePlace.-narrow #side { display: none; }
    TracePlace.-narrow.-details #side { display: block; }
    """

    def __init__(self) -> None:
        super().__init__()
        self._shown: int | None = None
        self._anchor_s: float | None = None
        self._totals: LoadTotals | None = None
        self._channels: tuple[Channel, ...] = ()
        self._rig: Rig | None = None
        self._envelope: Envelope | None = None
        self._span = (0.0, 1.0)
        self._held: int | None = None
        self._more = False
        self._keep_view = False
        self._model = False

    def body(self) -> ComposeResult:
        """Strips, and the reading at the right."""
        yield Static(id="trace-brief")
        with Horizontal(id="trace-body"):
            yield StripStack(id="trace-strips")
            with VerticalScroll(id="side"):
                yield Static(id="panel")

    def title_line(self) -> Text:
        """Which run this is."""
        run = self.run_shown
        if run is None:
            return self.trail("no run chosen")
        review = self.session.archive.reviews.review(run.review_id) if run.review_id else None
        setup = review.setup(run.setup_id) if review else None
        text = Text(no_wrap=True, overflow="ellipsis")
        text.append(run.id, f"bold {self.palette.brass}")
        for part in (
            review.name if review else "inbox",
            *([setup.name] if setup else []),
            run.load,
            f"pass {run.pass_number}",
        ):
            text.append(" ▸ ", self.palette.brass)
            text.append(part, self.palette.text)
        text.append(f"   {run.state}, {clock_text(run.duration_s)}, {run.started[:10]}", self.palette.soft)
        return text

    def fill(self) -> None:
        """Load the chosen run, off the interface's thread."""
        number = self.session.trace_run
        strips = self.query_one("#trace-strips", StripStack)
        if number is None:
            strips.show(
                StripView(
                    empty="No run to show. Choose one on the Desk (0) or in the Grid (2), or record one (3)."
                ),
                None,
            )
            self.query_one("#panel", Static).update("")
            return
        if number != self._shown:
            self._shown = number
            strips.show(StripView(empty="reading the run …"), None)
            self._load(number)
        else:
            self.run_shown = self.session.archive.runs.run(number)
            self.draw()

    @work(thread=True, exclusive=True, group="trace")
    def _load(self, number: int) -> None:
        runs = self.session.archive.runs
        run = runs.run(number)
        if run is None:
            return
        recording = runs.recording(number)
        reading = runs.reading(number)
        channels, values = with_bands(recording.channels, recording.values)
        envelope = Envelope(recording.time_s, values)
        totals = totals_of(recording, reading.phases, reading.load_phase())
        self.tell(self._take, run, recording, reading, totals, channels, envelope)

    def _take(
        self,
        run: Run,
        recording: Recording,
        reading: Reading,
        totals: LoadTotals | None,
        channels: tuple[Channel, ...],
        envelope: Envelope,
    ) -> None:
        self._channels, self._totals, self._anchor_s = channels, totals, None
        review = self.session.archive.reviews.review(run.review_id) if run.review_id else None
        setup = review.setup(run.setup_id) if review else None
        self._rig = setup.rig if setup else None
        self.run_shown, self.recording_shown, self.reading_shown, self._envelope = (
            run,
            recording,
            reading,
            envelope,
        )
        if self._keep_view:
            self._keep_view = False
            self.draw()
            return
        self._span = (0.0, max(recording.duration_s, 1.0))
        # Where it had settled is what one looks for first.
        load = reading.load_phase()
        span = reading.window.span if reading.window else None
        if span is not None:
            self.cursor_s = 0.5 * (span[0] + span[1])
        else:
            self.cursor_s = load.end_s - 5.0 if load else None
        self._held = None
        self.query_one("#title", Static).update(self.title_line())
        self.draw()

    def draw(self) -> None:
        """Strips, panel and line anew."""
        run, recording, reading, envelope = (
            self.run_shown,
            self.recording_shown,
            self.reading_shown,
            self._envelope,
        )
        if run is None or recording is None or reading is None or envelope is None:
            return
        view = StripView(
            specs=tuple(
                plan_strips(
                    self._channels,
                    envelope.values,
                    run.facts,
                    self._more,
                    self.session.channel_view(self._rig),
                )
            ),
            start_s=self._span[0],
            end_s=self._span[1],
            phases=tuple(reading.phases),
            held=tuple(reading.held),
            marks=recording.marks,
            window=reading.window.span if reading.window else None,
            cursor_s=self.cursor_s,
            anchor_s=self._anchor_s,
            room_c=reading.thermal.room_c if reading.thermal else None,
            model=self._model_curve() if self._model else None,
            empty="this run holds no samples",
        )
        self.query_one("#trace-strips", StripStack).show(view, self._envelope)
        self.query_one("#trace-brief", Static).update(brief_text(self.palette, reading))
        hands = self.session.archive.runs.hand_readings(run.number)
        self.query_one("#panel", Static).update(
            panel_text(self.palette, run, reading, hands, self._held, self._totals, self._between())
        )

    def _model_curve(self) -> tuple[np.ndarray, np.ndarray] | None:
        recording, reading = self.recording_shown, self.reading_shown
        if recording is None or reading is None or recording.package_power is None:
            return None
        thermal, load = reading.thermal, reading.load_phase()
        if thermal is None or thermal.network is None or load is None:
            return None
        part = recording.between(load.start_s, load.end_s)
        time_s, power = recording.time_s[part], recording.values[recording.package_power][part]
        good = np.isfinite(power)
        return time_s[good], thermal.network.response(time_s[good], power[good])

    def _column_s(self) -> float:
        strips = self.query_one("#trace-strips", StripStack)
        return (self._span[1] - self._span[0]) / max(1, strips.plot_width)

    def action_cursor(self, columns: int) -> None:
        """Move the cursor; the view follows it."""
        if self.recording_shown is None:
            return
        step = self._column_s()
        middle = 0.5 * (self._span[0] + self._span[1])
        at = (self.cursor_s if self.cursor_s is not None else middle) + columns * step
        self.cursor_s = float(np.clip(at, 0.0, self.recording_shown.duration_s))
        width = self._span[1] - self._span[0]
        if self.cursor_s < self._span[0]:
            self._span = (self.cursor_s, self.cursor_s + width)
        elif self.cursor_s >= self._span[1]:
            self._span = (self.cursor_s - width + step, self.cursor_s + step)
        self.draw()

    def on_strip_stack_picked(self, message: StripStack.Picked) -> None:
        """A click sets the cursor."""
        self.cursor_s = message.seconds
        self.draw()

    def action_anchor(self) -> None:
        """A second cursor where the first one is; the same key takes it away."""
        self._anchor_s = self.cursor_s if self._anchor_s is None else None
        if self._anchor_s is not None:
            self.notify("Second cursor set: move on, and the panel tells what lies between.")
        self.draw()

    def _between(self) -> list[Between]:
        """What changed from the second cursor to the first."""
        if self._anchor_s is None or self.cursor_s is None or self.recording_shown is None:
            return []
        return between(self.recording_shown, self._anchor_s, self.cursor_s)

    def read_anew(self) -> None:
        """Load it again, the view kept."""
        if self._shown is not None:
            self._keep_view = True
            self._load(self._shown)

    def action_no_cursor(self) -> None:
        """Without a cursor the values are the newest."""
        self.cursor_s, self._held, self._anchor_s = None, None, None
        self.draw()

    def action_zoom(self, factor: float) -> None:
        """Nearer or wider around the cursor."""
        if self.recording_shown is None:
            return
        begin, end = self._span
        centre = self.cursor_s if self.cursor_s is not None else 0.5 * (begin + end)
        whole = max(self.recording_shown.duration_s, 1.0)
        width = float(np.clip((end - begin) * factor, min(_LEAST_SPAN_S, whole), whole))
        share = (centre - begin) / (end - begin)
        begin = float(np.clip(centre - share * width, 0.0, whole - width))
        self._span = (begin, begin + width)
        self.draw()

    def action_load(self) -> None:
        """The load alone."""
        load = self.reading_shown.load_phase() if self.reading_shown else None
        if load is None:
            self.notify("This run has no load.", severity="warning")
            return
        margin = 0.03 * load.duration_s
        self._span = (max(0.0, load.start_s - margin), load.end_s + margin)
        self.draw()

    def action_all(self) -> None:
        """The whole run."""
        if self.recording_shown is not None:
            self._span = (0.0, max(self.recording_shown.duration_s, 1.0))
            self.draw()

    def action_held(self) -> None:
        """To the next held stretch."""
        if self.reading_shown is None or not self.reading_shown.held:
            self.notify("Nothing held this run.")
            return
        self._held = 0 if self._held is None else (self._held + 1) % len(self.reading_shown.held)
        self.cursor_s = self.reading_shown.held[self._held].start_s
        width = self._span[1] - self._span[0]
        if not self._span[0] <= self.cursor_s < self._span[1]:
            self._span = (
                max(0.0, self.cursor_s - 0.2 * width),
                max(0.0, self.cursor_s - 0.2 * width) + width,
            )
        self.draw()

    def action_run(self, step: int) -> None:
        """The run before or after this one."""
        numbers = [r.number for r in self.session.archive.runs.runs() if r.state != "recording"]
        if not numbers:
            return
        at = numbers.index(self._shown) if self._shown in numbers else 0
        self.session.trace_run = numbers[(at + step) % len(numbers)]
        self.refresh_all()

    def action_more(self) -> None:
        """More or fewer strips."""
        self._more = not self._more
        self.draw()

    def action_model(self) -> None:
        """The model's curve on or off."""
        self._model = not self._model
        if self._model and self._model_curve() is None:
            self._model = False
            self.notify(
                "No model: it needs a die, a package power and an idle before the load.", severity="warning"
            )
        self.draw()

    def action_details(self) -> None:
        """The reading in full, or all room for the strips."""
        self.toggle_class("-details")

    @work
    async def action_export(self) -> None:
        """Ask where, then write."""
        if self.run_shown is None or self.recording_shown is None:
            return
        question = "Write to which file? .csv and .parquet hold the samples, .svg and .pdf the chart."
        typed = await self.app.push_screen_wait(Ask(question, str(Path.cwd() / f"{self.run_shown.id}.csv")))
        if typed:
            self._write(Path(typed).expanduser())

    @work(thread=True)
    def _write(self, path: Path) -> None:
        from samovar.exchange.export import FORMATS, export_recording

        run, recording, reading = self.run_shown, self.recording_shown, self.reading_shown
        assert run is not None and recording is not None and reading is not None
        try:
            if path.suffix.lower() in FORMATS:
                export_recording(recording, path, run.facts)
            else:
                from samovar.figures.time_chart import time_chart
                from samovar.figures.write import write_figure

                write_figure(time_chart(recording, reading, run.facts, f"{run.id}, {run.load}"), path)
        except InputError as problem:
            self.tell(self.notify, str(problem), severity="error")
            return
        self.tell(self.notify, f"{path} written.")
