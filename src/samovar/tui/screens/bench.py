"""The Bench: the run that is being recorded."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal

from samovar.archive.records import Setup
from samovar.bench.course_spec import clock_text
from samovar.core.quantity import Channel
from samovar.core.reading import Reading
from samovar.recording.ended import said_by
from samovar.recording.late_titles import seen_of
from samovar.recording.live import LiveRun
from samovar.recording.under_guard import guard_is_slow
from samovar.tui.alerts import Alert, AlertBook, alerts_of
from samovar.tui.aside import aside
from samovar.tui.asking import SHOWING
from samovar.tui.listening import hear, spectrum_of, still_for
from samovar.tui.live_reader import LiveReader
from samovar.tui.live_window import LiveWindow
from samovar.tui.power_shares import power_shares
from samovar.tui.run_row import RunRow
from samovar.tui.run_start import start_run
from samovar.tui.run_strips import strip_view
from samovar.tui.run_words import due_by_hand, far_numbers, step_rule
from samovar.tui.screens.window_actions import WindowActions
from samovar.tui.widgets.banner import Banner
from samovar.tui.widgets.far_view import FarView
from samovar.tui.widgets.live_samples import LiveSamples, logging_words
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.ready_box import ReadyBox
from samovar.tui.widgets.settle_panel import SettlePanel, SettleView, brief_line
from samovar.tui.widgets.strip_plan import StripSpec, plan_strips
from samovar.tui.widgets.strips import StripStack

REDRAW_S = 0.5


class BenchPlace(WindowActions):
    """Recording, with everything one needs to see while it goes on."""

    NAME = "bench"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("r", "record", "Record", tooltip="record the run that stands ready"),
        Binding("m", "mark", "Mark", tooltip="note something at this moment"),
        Binding("n", "noise", "Noise", tooltip="type in a sound level read now"),
        Binding(
            "b", "reading", "Reading", tooltip="type in a surface, wall power, score, time or other reading"
        ),
        Binding(
            "h",
            "hear",
            "Listen",
            tooltip="be still: the microphone takes a sound level; before a run, the room alone",
        ),
        Binding("s", "stop", "Stop", tooltip="stop the load and seal the run as stopped"),
        Binding(
            "g",
            "by_hand",
            "It runs",
            show=False,
            tooltip="a load started by hand: it runs now, or it has ended",
        ),
        Binding("l", "load", "Other load", show=False, tooltip="with no review: choose another load"),
        Binding("f", "far", "Far", tooltip="four numbers, large, to be read from across the room; and back"),
        Binding(
            "w", "row", "In a row", tooltip="record the proposed runs one after another; again to end it"
        ),
        Binding(
            "c", "change", "Change", tooltip="what if: other fans, a second load joins or leaves, in mid-run"
        ),
        Binding("i", "more", "More", show=False, tooltip="show the lesser quantities too"),
        Binding("enter", "trace", "Trace", tooltip="read the finished run closely"),
    ]
    CSS = """
    #bench-body { height: 1fr; }
    #strips { width: 1fr; height: 1fr; }
    #brief { height: auto; padding: 0 1; display: none; }
    BenchPlace.-narrow SettlePanel { display: none; }
    BenchPlace.-narrow #brief { display: block; }
    BenchPlace.-ready #bench-body { display: none; }
    BenchPlace.-running ReadyBox { display: none; }
    FarView { display: none; }
    BenchPlace.-far FarView { display: block; }
    BenchPlace.-far #brief { display: block; }
    BenchPlace.-far #bench-body, BenchPlace.-ready FarView { display: none; }
    """

    def __init__(self) -> None:
        super().__init__()
        self._samples: LiveSamples | None = None
        self._specs: tuple[StripSpec, ...] = ()
        self._planned_for = 0
        self._shown: LiveRun | None = None
        self._reading: Reading | None = None
        self._more = False
        self._free_load = 0
        self._announced: set[str] = set()
        self._alerts = AlertBook()
        self._followed: set[str] = set()
        self._reader: LiveReader | None = None

    def body(self) -> ComposeResult:
        """What stands ready; once it runs, strips and panel."""
        yield ReadyBox()
        yield Banner()
        yield Static(id="brief")
        yield FarView()
        with Horizontal(id="bench-body"):
            yield StripStack(id="strips")
            yield SettlePanel()

    def on_mount(self) -> None:
        """Redraw twice a second."""
        self.set_interval(REDRAW_S, self.tick)
        self.set_interval(1.0, self.go_on)

    def title_line(self) -> Text:
        """What is recorded, the room, the time."""
        live = self.live
        if live is None:
            return self.trail("nothing is being recorded")
        parts = [live.setup.name if live.setup else "inbox", live.spec.load]
        if live.setup is not None and live.review is not None:
            wanted = live.review.passes_wanted
            more = f" of {wanted}" if live.pass_number <= wanted else f", {wanted} wanted"
            parts.append(f"pass {live.pass_number}{more}")
        # The run's own review: another may be in hand by now.
        begin = live.review.name if live.review is not None else self.session.title
        text = self.trail(*parts, begin=begin) if not self.narrow else Text(" ▸ ".join(parts), no_wrap=True)
        room = self.room_c()
        elapsed = float(live.arrays()[0][-1]) if len(live.arrays()[0]) else 0.0
        right = f"  room {room:.1f} ±0.3 °C  " if room is not None else "  room not known  "
        text.append(right, self.palette.soft)
        if live.spec.unguarded:
            text.append("UNGUARDED  ", f"bold {self.palette.bad}")
        if self.window_shown.words:
            text.append(f"{self.window_shown.words}  ", self.palette.brass)
        state = "●" if self.under_way else "■"
        colour = self.colour("temperature") if self.under_way else self.palette.soft
        text.append(f"{state} {clock_text(elapsed)}", f"bold {colour}")
        return text

    def fill(self) -> None:
        """Show the run, or what stands ready."""
        self.set_class(self.live is None, "-ready")
        self.set_class(self.live is not None, "-running")
        if self.live is not None:
            self.tick()
        else:
            self.query_one(ReadyBox).show(self.session, self._free_load_name(), self.session.spec)

    def _free_load_name(self) -> str:
        """The load of a run that no review asks for."""
        names = list(self.session.loads())
        return names[self._free_load % len(names)] if names else "none"

    def action_record(self) -> None:
        """Begin the run that stands ready."""
        if self.under_way:
            self.notify("A run is under way: stop it with s first.", severity="warning")
            return
        cell = self.session.next_cell()
        setup: Setup | None = None
        if cell is not None:
            setup, load, _ = cell
        else:
            load = self._free_load_name()
        start_run(self, setup, load, self._begun)

    def _begun(self, live: LiveRun) -> None:
        """Show a run from its first sample on."""
        self.session.live = live
        self.session.chosen = None
        self._samples = None
        self._reading = None
        self.window_shown = LiveWindow()
        self._announced = set()
        self._alerts = AlertBook()
        self.query_one(Banner).announce("", False)
        # The strips ask for it twice a second: it is at hand from now on.
        self.session.channel_view(self.rig())
        live.start()
        self.refresh_all()

    def action_row(self) -> None:
        """Runs in a row from now on, or no longer."""
        row = RunRow(self.session)
        if not row.on and self.session.next_cell() is None:
            self.notify(
                "Nothing is proposed: frame a review first, or all its passes are in.", severity="warning"
            )
            return
        row.turn(not row.on)
        self.notify("Runs go on in a row; w ends it." if row.on else "No further run begins by itself.")
        if row.on and not self.under_way:
            self.action_record()
        self.refresh_all()

    def go_on(self) -> None:
        """After a run: the next by itself, or a prompt; also while another place is shown."""
        live = self.live
        if live is not None and live.sealed.is_set() and live.id not in self._followed:
            self.soon(self._follow, live, group=SHOWING)

    def _follow(self, live: LiveRun) -> None:
        row = RunRow(self.session)
        if live.id in self._followed or not row.on:
            return
        self._announce_end(live)
        self._followed.add(live.id)
        following = row.after(live)
        if following.kind == "start":
            self.action_record()
            return
        if following.kind == "done":
            row.turn(False)
        self.app.bell()
        self.query_one(Banner).announce(following.words, following.kind == "paused")
        self.notify(
            following.words, timeout=30, severity="warning" if following.kind != "done" else "information"
        )

    def action_load(self) -> None:
        """Another load, where no review says which."""
        if not self.under_way and self.session.next_cell() is None:
            self._free_load += 1
            self.session.live = None
            self.refresh_all()

    def action_stop(self) -> None:
        """Stop the load and seal the run."""
        if self.under_way and self.live is not None:
            self.notify("Stopping: the load goes off, the run is sealed.")
            self.run_worker(self.live.stop, thread=True, group="stopping")

    def action_hear(self) -> None:
        """Listen with the microphone."""
        self.soon(hear, self, group="hearing")

    def action_more(self) -> None:
        """More or fewer strips."""
        self._more = not self._more
        self._specs = ()
        self.tick()

    def drawn_channels(self) -> tuple[Channel, ...]:
        """The run's channels and bands."""
        return self._samples.channels if self._samples is not None and self.live is not None else ()

    def channels_changed(self) -> None:
        """Plan the strips anew."""
        self._specs = ()
        self.tick()

    def action_trace(self) -> None:
        """Read the finished run."""
        if self.live is not None and self.live.sealed.is_set():
            self.session.trace_run = self.live.number
            self.samovar.action_go("trace")

    def tick(self) -> None:
        """Bring strips and panel up to the newest sample."""
        live = self.live
        if live is None or not self.is_current:
            return
        if live.sealed.is_set() and live.id not in self._announced:
            self.soon(self._announce_end, live, group=SHOWING)
        channels, time_s, values = seen_of(live)
        if len(time_s) == 0:
            return
        if self._samples is None or self._shown is not live or self._samples.plain != channels:
            # A log that had no titles when the run began may have some by now.
            strides = [*live.recorder.strides, *[1] * (len(channels) - len(live.channels))]
            self._samples, self._reader = LiveSamples(channels, strides), LiveReader(live, channels)
            self._shown, self._specs = live, ()
        found = self._reader.found if self._reader else None
        if found is not None and not live.sealed.is_set():
            self._reading = found.reading
        samples = self._samples
        samples.extend(time_s, values)
        if not self._specs or samples.speaking != self._planned_for:
            # A rate, or a microphone's first second, comes later than the first sample.
            self._planned_for = samples.speaking
            self._specs = tuple(
                plan_strips(
                    samples.channels,
                    samples.values,
                    live.facts,
                    self._more,
                    self.session.channel_view(self.rig()),
                )
            )
        elapsed = float(time_s[-1])
        self.query_one("#strips", StripStack).show(
            strip_view(live, self._specs, self._reading, self.room_c(), elapsed, self.window_shown),
            samples.envelope,
        )
        panel = self._settle_view(live)
        self.query_one(SettlePanel).show(panel)
        if self.under_way:
            self._alert(alerts_of(live, panel, *live.arrays()))
        if self.has_class("-far"):
            self.query_one(FarView).show(far_numbers(live, panel))
        if self.has_class("-narrow") or self.has_class("-far"):
            self.query_one("#brief", Static).update(brief_line(panel, self.palette, live.waiting))
        self.query_one("#title", Static).update(self.title_line())
        if self.under_way and self._reader is not None and self._reader.due():
            self.read_live(self._reader)

    def _alert(self, alerts: list[Alert]) -> None:
        """The bell once for each thing that is new; the banner for as long as the gravest holds."""
        if self._alerts.new(alerts):
            self.app.bell()
        first = next((a for a in alerts if a.key != "settled"), alerts[0] if alerts else None)
        self.query_one(Banner).announce(first.words if first else "", bool(first and first.grave))

    def action_far(self) -> None:
        """The four numbers that matter, large; and back."""
        if self.live is None:
            self.notify("The far view shows a run: press r to record.", severity="warning")
            return
        self.toggle_class("-far")
        self.tick()

    def _settle_view(self, live: LiveRun) -> SettleView:
        reading = self._reading
        rules = {
            "idle": "until calm",
            "load": step_rule(live),
            "cool-down": f"to {live.spec.cool_down_k:g} K of idle",
        }
        found = self._reader.found if self._reader else None
        drift = reading.window.drift if reading and reading.window else None
        loaded = live.step == "load"
        due: list[str] = []
        hand = live.hand_readings if loaded or live.sealed.is_set() else []
        due += [f"{r.kind} {r.text()} kept" for r in hand[-2:]]
        if not live.sealed.is_set():
            due += due_by_hand(live, loaded, hand, bool(self.session.ears))
        settled = bool(reading and reading.window and reading.window.found)
        settled = settled or bool(live.course and live.course.settled)
        outcome = live.outcome
        return SettleView(
            step=live.step,
            rule=rules.get(live.step, "sealed" if live.sealed.is_set() else ""),
            heading=reading.forecast if reading and live.step != "idle" else None,
            graphics=reading.graphics.heading_c if reading and reading.graphics and loaded else None,
            room_c=self.room_c(),
            drift_k_per_min=drift.per_min if drift and loaded else None,
            settled_in_s=found.settled_in_s if found and loaded and not settled else None,
            settled=settled and loaded,
            stop_above_c=live.spec.stop_above_c if live.course and not live.spec.unguarded else None,
            unguarded=live.spec.unguarded,
            slow_guard=guard_is_slow(live.channels, live.beside),
            die_c=live.die_c(),
            due=tuple(due),
            logging=logging_words(len(live.channels), self._samples),
            problem=live.writer.problem or live.error,
            speed=live.machine.clock.speed,
            shares=power_shares(live) if self.under_way else (),
            spectrum=spectrum_of(self.session, live) if self.under_way else None,
            still=still_for(self.session),
            ended=outcome.reason if outcome is not None and outcome.state == "did-not-finish" else None,
        )

    @work(thread=True, group="reading")
    def read_live(self, reader: LiveReader) -> None:
        """Read the run so far, off the interface's thread."""
        reader.look()

    def _announce_end(self, live: LiveRun) -> None:
        """Say once how the run ended, and take it into the review."""
        if live.id in self._announced:
            return
        self._announced.add(live.id)
        self.query_one(Banner).announce("", False)
        self.session.reload()
        self.session.trace_run = live.number
        self._reading = aside(said_by, live)[0]
        self.refresh_all()
        outcome = live.outcome
        if outcome is not None and outcome.state == "did-not-finish":
            self.app.bell()
            self.notify(f"{live.id} did not finish: {outcome.reason}", severity="error", timeout=20)
        else:
            self.notify(
                f"{live.id} is {outcome.state if outcome else 'sealed'}. Enter reads it in Trace.", timeout=12
            )
