"""What stands ready on the Bench: the next run, its course, and the channels it will record."""

from __future__ import annotations

import contextlib
from collections.abc import Callable

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.containers import Vertical

from samovar.archive.records import Setup
from samovar.bench.course_spec import CourseSpec
from samovar.core.die import WHAT_TO_DO, die_channels
from samovar.core.quantity import value_text
from samovar.core.setup_changes import hand_work
from samovar.sources.protocol import Probed
from samovar.tui.run_row import RunRow
from samovar.tui.session import Session
from samovar.tui.theme import palette_of
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.plugged import plugged_hint, tells_by_itself
from samovar.tui.widgets.quiet_table import QuietTable


class ReadyBox(Vertical):
    """Shown while nothing is recorded."""

    DEFAULT_CSS = """
    ReadyBox { height: 1fr; }
    #ready { height: auto; padding: 1 2; }
    #probe-head { padding: 0 2; height: auto; }
    #probe { height: 1fr; margin: 0 2; }
    """

    def compose(self) -> ComposeResult:
        """The run in words, the channels as a table."""
        yield Static(id="ready")
        yield Static("what will be recorded", classes="head", id="probe-head")
        yield QuietTable("probe")

    def on_mount(self) -> None:
        """Columns once."""
        self.query_one("#probe", QuietTable).add_columns("channel", "now", "quantity", "role", "sensor")

    def show(self, session: Session, load: str, spec_of: Callable[[Setup | None, str], CourseSpec]) -> None:
        """Show the next run of a session; `load` is the one for a run that no review asks for."""
        self.query_one("#ready", Static).update(self._text(session, load, spec_of))
        self._look(session)

    @work(thread=True, exclusive=True, group="probe")
    def _look(self, session: Session) -> None:
        """What the machine shows now, off the interface's thread."""
        if session.live is not None and not session.live.sealed.is_set():
            return
        cell = session.next_cell()
        rig = None
        if cell is not None:
            rig = cell[0].rig
            session.machine.fit(cell[0].name, [p.name for p in cell[0].products], cell[0].changes)
        found = session.equipment.probe(rig)
        with contextlib.suppress(RuntimeError):
            self.app.call_from_thread(self._show_probe, found, session.equipment.state(rig))

    def _show_probe(self, found: list[Probed], state: str) -> None:
        if not self.is_mounted:
            return
        palette = palette_of(self.app.theme)
        table = self.query_one("#probe", QuietTable)
        table.clear()
        for p in filter(tells_by_itself, found):
            usable = p.status == "ok"
            value = value_text(p.value, p.channel.unit) if p.value is not None else "–"
            colour = palette.quantity[p.channel.quantity] if usable else palette.faint
            table.add_row(
                Text(p.channel.name, palette.text if usable else palette.faint),
                Text(value, colour, justify="right"),
                p.channel.quantity,
                p.channel.role if usable else Text(p.status, palette.faint),
                Text(p.channel.id if usable else p.reason or "", palette.soft if usable else palette.faint),
            )
        count = sum(p.status == "ok" for p in found)
        words = (
            f"what will be recorded: {count} channel{'s' if count != 1 else ''}"
            if count
            else "nothing can be measured here"
        )
        words = f"{state}\n{words}" if state else words
        hint = plugged_hint(found)
        words += f"\n{hint}" if hint else ""
        channels = [p.channel for p in found if p.status == "ok"]
        if channels and not die_channels(channels):
            words += f"\nNo guard: {WHAT_TO_DO}."
        self.query_one("#probe-head", Static).update(words)

    def _text(self, session: Session, load: str, spec_of: Callable[[Setup | None, str], CourseSpec]) -> Text:
        palette = palette_of(self.app.theme)
        text = Text()
        cell = session.next_cell()
        if cell is None:
            return self._free(session, load, spec_of(None, load))
        setup, load, reason = cell
        spec = spec_of(setup, load)
        text.append("Ready to record\n\n", f"bold {palette.brass}")
        text.append(f"{setup.name} ▸ {load}\n", f"bold {palette.text}")
        text.append(f"{reason}\n\n", palette.soft)

        def line(label: str, words: str) -> None:
            text.append(f"{label:<11}", palette.soft)
            text.append(f"{words}\n", palette.text)

        line("fitted", ", ".join(p.name for p in setup.products) or "nothing named")
        for words in self._to_change(session, setup):
            line("change", words)
        line("load", session.loads().get(load, "no such load any more: f in the Grid chooses others"))
        line("course", f"idle until calm, load {spec.words()}, cool-down to {spec.cool_down_k:g} K of idle")
        line("by hand", ", ".join(d.words for d in spec.readings) or "nothing")
        also = [f"{limit} °C" for limit in spec.limits] + (
            [f"{spec.rise_k_per_s:g} K/s"] if spec.rise_k_per_s else []
        )
        others = f", and over {', '.join(also)}" if also else ""
        line("guard", f"stops the load over {spec.stop_above_c:.0f} °C{others}")
        if RunRow(session).on:
            text.append(
                "\nRuns in a row are under way: r goes on with this one, w ends it.", f"bold {palette.brass}"
            )
        else:
            text.append(
                "\nPress r to record, w to record all proposed runs in a row, 2 to choose another cell.",
                palette.text,
            )
        return text

    @staticmethod
    def _to_change(session: Session, setup: Setup) -> list[str]:
        """What hands have to change since the last run of this review."""
        plan, review = session.plan(), session.review
        fitted = next((s for s in review.setups if plan and s.name == plan.fitted), None) if review else None
        if fitted is None or fitted.id == setup.id:
            return []
        return hand_work(fitted.arrangement, setup.arrangement)

    def _free(self, session: Session, load: str, spec: CourseSpec) -> Text:
        """A run that no review asks for."""
        palette = palette_of(self.app.theme)
        words = "No review is open: a run recorded now lands in the inbox."
        if session.review is not None:
            done = bool(session.review.setups and session.review.loads)
            words = (
                "Every cell of this review has its passes. A further run would land in the inbox."
                if done
                else "This review has no cells yet: 2 shows what it lacks. A run recorded now lands in the inbox."
            )
        text = Text(f"{words}\n\n", palette.soft)
        text.append(f"load       {load}: {session.loads().get(load, '')}\n", palette.text)
        text.append(f"course     idle until calm, load {spec.words()}, cool-down\n\n", palette.text)
        text.append("Press r to record, l for another load.", palette.text)
        return text
