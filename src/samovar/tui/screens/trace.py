"""Trace: one run, read closely."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll

from samovar.archive.place import ArchiveError
from samovar.bench.course_spec import clock_text
from samovar.core.results.figure import Figure, figure_of, telling_figure
from samovar.core.rig import Rig
from samovar.exchange.problems import InputError
from samovar.tui.aside import aside, behind
from samovar.tui.heard_at import heard_at
from samovar.tui.screens.sight import Sight
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.traced_run import TracedRun, other_runs, traced
from samovar.tui.widgets.heard_view import HeardView
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.reading_panel import brief_text, panel_text
from samovar.tui.widgets.strip_plan import StripSpec, plan_strips, residual_strip, with_beside
from samovar.tui.widgets.strips import StripStack, StripView

OTHERS_OFFERED = 60
SIDE = 44
"""Width of the panel, in characters; its style says the same."""


class TracePlace(Sight):
    """Strips with a cursor, and what the run says beside them."""

    NAME = "trace"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("comma", "run(-1)", "", show=False),
        Binding(
            "full_stop",
            "run(1)",
            "Other run",
            key_display=", .",
            tooltip="the run before this one, or after it",
        ),
        Binding("i", "more", "More strips", show=False, tooltip="show the lesser quantities too"),
        Binding("o", "model", "Model", tooltip="the thermal model's curve over the data"),
        Binding(
            "d", "details", "Details", show=False, tooltip="in a narrow window: what the run says, in full"
        ),
        Binding(
            "pagedown",
            "scroll(1)",
            "Scroll",
            key_display="PgUp PgDn",
            show=False,
            tooltip="scroll the panel at the right",
        ),
        Binding("pageup", "scroll(-1)", "", show=False),
        Binding(
            "s", "surfaces", "Surfaces", tooltip="plans, temperature pictures, and spots of this run's rig"
        ),
        Binding("e", "export", "Export", tooltip="samples (CSV, Parquet), or the view (SVG, PDF)"),
        Binding(
            "w",
            "beside",
            "Beside",
            tooltip="another run beside this one; again: alone",
        ),
    ]
    CSS = """
    #trace-body { height: 1fr; }
    #trace-strips { width: 1fr; height: 1fr; }
    #side { width: 44; height: 1fr; border-left: solid $line; padding: 0 1; }
    #trace-brief { height: 1; padding: 0 1; display: none; text-wrap: nowrap; text-overflow: ellipsis; }
    TracePlace.-narrow #trace-brief { display: block; }
    TracePlace.-narrow #side { display: none; }
    TracePlace.-narrow.-details #side { display: block; width: 1fr; }
    TracePlace.-narrow.-details #trace-strips { display: none; }
    """

    def __init__(self) -> None:
        super().__init__()
        self._shown: int | None = None
        self._beside: int | None = None
        self._traced: TracedRun | None = None
        self._rig: Rig | None = None
        self._more = False
        self._keep_view = False
        self._model = False

    def body(self) -> ComposeResult:
        """Strips, and the reading at the right."""
        yield Static(id="trace-brief")
        with Horizontal(id="trace-body"):
            yield StripStack(id="trace-strips")
            # Up and down move in the list of held stretches: the panel itself scrolls by page.
            with VerticalScroll(id="side", can_focus=False):
                yield Static(id="panel")
                yield HeardView(SIDE - 4)

    def title_line(self) -> Text:
        """Which run this is."""
        run = self.run_shown
        if run is None:
            number = self.session.trace_run
            return self.trail("no run chosen" if number is None else f"r{number:04d}")
        found = self._traced
        review = found.review if found is not None and found.run.number == run.number else None
        setup = review.setup(run.setup_id) if review else None
        text = Text(no_wrap=True, overflow="ellipsis")
        text.append(run.id, f"bold {self.palette.brass}")
        for part in (
            review.name if review else "inbox" if run.review_id is None else "…",
            *([setup.name] if setup else []),
            run.load,
            f"pass {run.pass_number}",
        ):
            text.append(" ▸ ", self.palette.brass)
            text.append(part, self.palette.text)
        where = f", {run.bench}" if run.bench else ""
        text.append(
            f"   {run.state}, {clock_text(run.duration_s)}, {run.started[:10]}{where}", self.palette.soft
        )
        return text

    def action_surfaces(self) -> None:
        """The surfaces of this run."""
        from samovar.tui.screens.surfaces import SurfacesScreen

        if self.run_shown is None:
            self.notify("No run is shown: choose one on the Desk (0) or in the Grid (2).", severity="warning")
            return
        self.app.push_screen(SurfacesScreen(self, self.run_shown.number), lambda _: self.read_anew())

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
            self.query_one(HeardView).show(None)
            return
        if number != self._shown:
            self._shown, self._beside = number, None
            strips.show(StripView(empty="reading the run …"), None)
            self._load(number, None)
        else:
            self.run_shown = self.session.archive.runs.run(number)
            if self._traced is not None:
                # Its note may be another by now.
                self._traced = replace(self._traced, note=self.session.archive.runs.annotations.note(number))
            self.draw()

    @work(thread=True, exclusive=True, group="trace")
    def _load(self, number: int, beside: int | None) -> None:
        try:
            found = traced(self.session.archive, number, beside)
        except ArchiveError as problem:
            self.tell(self._cannot, str(problem))
            return
        if found is not None:
            self.tell(self._take, found)

    def _cannot(self, words: str) -> None:
        """The run cannot be read: said where its curves would be."""
        self._traced = None
        self.query_one("#trace-strips", StripStack).show(StripView(empty=words), None)
        self.query_one("#panel", Static).update("")
        self.query_one(HeardView).show(None)

    def _take(self, found: TracedRun) -> None:
        run, reading = found.run, found.reading
        setup = found.review.setup(run.setup_id) if found.review else None
        self._rig = setup.rig if setup else None
        self._traced = found
        self.run_shown, self.recording_shown, self.reading_shown = run, found.recording, reading
        if self._keep_view:
            self._keep_view = False
            self.draw()
            return
        self.start_over()
        # Where it had settled is what one looks for first.
        load = reading.load_phase()
        span = reading.window.span if reading.window else None
        if span is not None:
            self.cursor_s = 0.5 * (span[0] + span[1])
        else:
            self.cursor_s = load.end_s - 5.0 if load else None
        self.query_one("#title", Static).update(self.title_line())
        self.draw()

    def _specs(self, found: TracedRun) -> list[StripSpec]:
        run = found.run
        own = len(found.channels) - len(found.beside) - (found.residual is not None)
        view = self.session.channel_view(self._rig)
        specs = plan_strips(found.channels[:own], found.envelope.values, run.facts, self._more, view)
        if found.other is not None:
            specs = [with_beside(s, found.beside.get(s.quantity), found.other.id) for s in specs]
        if self._model and found.residual is not None:
            specs.insert(1, residual_strip(found.residual))
        return specs

    def draw(self) -> None:
        """Strips, panel and line anew."""
        found, recording = self._traced, self.recording_shown
        if found is None or recording is None:
            return
        reading = found.reading
        view = StripView(
            specs=tuple(self._specs(found)),
            start_s=self.span[0],
            end_s=self.span[1],
            phases=tuple(reading.phases),
            held=reading.ribbons,
            marks=recording.marks,
            window=reading.window.span if reading.window else None,
            cursor_s=self.cursor_s,
            anchor_s=self.anchor_s,
            room_c=reading.thermal.room_c if reading.thermal else None,
            model=found.model if self._model else None,
            left_out=tuple((e.start_s, e.end_s) for e in found.excluded),
            empty="this run holds no samples",
        )
        self.query_one("#trace-strips", StripStack).show(view, found.envelope)
        self.query_one("#trace-brief", Static).update(
            brief_text(self.palette, reading, self._subject(found), found.results)
        )
        self.query_one("#panel", Static).update(
            panel_text(
                self.palette,
                found,
                self.held_chosen,
                self.between_cursors(),
                found.note,
                self.effects_between(),
            )
        )

        heard = heard_at(found.channels, found.envelope, found.hands, self.cursor_s)
        self.query_one(HeardView).show(heard)

    def _subject(self, found: TracedRun) -> Figure:
        """What the run's review is about; of a run in the inbox what it tells first."""
        review = found.review
        return (
            figure_of(review.figure)
            if review is not None and review.figure
            else telling_figure(found.results)
        )

    def read_anew(self) -> None:
        """Load it again, the view kept."""
        if self._shown is not None:
            self._keep_view = True
            self._load(self._shown, self._beside)

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
        """The model's curve, and what it leaves over, on or off."""
        if self._traced is None:
            return
        self._model = not self._model
        if self._model and self._traced.model is None:
            self._model = False
            self.notify(
                "No model: it needs a die, a package power and an idle before the load.", severity="warning"
            )
        self.draw()

    @work
    async def action_beside(self) -> None:
        """Another run in the same strips, or this one alone again."""
        if self._traced is None:
            return
        if self._beside is not None:
            self._beside = None
            self.read_anew()
            return
        options = aside(other_runs, behind(self.session.archive), self._traced.run, OTHERS_OFFERED)
        if not options:
            self.notify("There is no other run to put beside this one.", severity="warning")
            return
        chosen = await self.app.push_screen_wait(Choose(f"Which run beside {self._traced.run.id}?", options))
        if chosen is not None:
            self._beside = int(chosen.removeprefix("r"))
            self.read_anew()

    def action_scroll(self, pages: int) -> None:
        """Scroll the panel."""
        side = self.query_one("#side", VerticalScroll)
        side.scroll_relative(y=pages * max(1, side.size.height - 3), animate=False)

    def action_details(self) -> None:
        """The reading in full, or all room for the strips."""
        self.toggle_class("-details")

    @work
    async def action_export(self) -> None:
        """Ask where, then write."""
        if self.run_shown is None or self.recording_shown is None:
            return
        question = (
            "Write to which file? .csv and .parquet hold all samples, .svg and .pdf what is shown, .png and .gif a film of it "
            "that grows with the run, with its captions beside it."
        )
        typed = await self.app.push_screen_wait(Ask(question, str(Path.cwd() / f"{self.run_shown.id}.csv")))
        if typed:
            self._write(Path(typed).expanduser())

    @work(thread=True)
    def _write(self, path: Path) -> None:
        from samovar.exchange.export import FORMATS, export_recording

        found = self._traced
        assert found is not None
        run, runs = found.run, self.session.archive.runs
        by_hand = runs.annotations.by_hand(run.number)
        try:
            if path.suffix.lower() in FORMATS:
                read = runs.hands.of(run.number)
                export_recording(
                    found.recording,
                    path,
                    run.facts,
                    *by_hand,
                    read,
                    runs.findings.reference_clock(run.number),
                )
            else:
                from samovar.figures.film import FILM_FORMATS, FILM_S
                from samovar.figures.time_chart import Extras, time_chart
                from samovar.figures.write import write_figure
                from samovar.publish.film import write_with_captions

                comparison, other = found.comparison, found.other
                extras = Extras(
                    span_s=self.span,
                    model=found.model if self._model else None,
                    beside=comparison.rows if comparison else {},
                    beside_name=other.id if other else "",
                    left_out=tuple((e.start_s, e.end_s, e.reason) for e in found.excluded),
                )
                title = f"{run.id}, {run.load}" + (f", and {other.id}" if other else "")
                drawn = time_chart(found.recording, found.reading, run.facts, title, extras)
                if path.suffix.lower() in FILM_FORMATS:
                    write_with_captions(drawn, found.recording, found.reading, self.span, path, FILM_S)
                else:
                    write_figure(drawn, path)
        except InputError as problem:
            self.tell(self.notify, str(problem), severity="error")
            return
        self.tell(self.notify, f"{path} written.")
