"""The Desk: all reviews, the latest runs, and what is plugged in."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical
from textual.widgets import DataTable, Static

from samovar.archive.records import Run
from samovar.archive.review_data import load_review
from samovar.bench.course_spec import clock_text
from samovar.figures.palette import JUDGEMENT_MARK
from samovar.report import number
from samovar.sources.protocol import Probed
from samovar.tui.screens.place import Place
from samovar.tui.widgets.quiet_table import QuietTable

_RUNS_SHOWN = 40


class DeskPlace(Place):
    """Where one comes in."""

    NAME = "desk"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("enter", "open", "Open", tooltip="open the review, or the run, under the cursor"),
        Binding("r", "record", "Record", tooltip="go to the Bench and record the next run"),
        Binding("u", "plugged", "Look again", tooltip="look again at what is plugged in"),
    ]
    CSS = """
    #question { height: 2; padding: 0 1; color: $soft; }
    DeskPlace .head { padding: 0 1; height: 1; margin-top: 1; }
    #reviews { height: auto; max-height: 9; margin: 0 1; }
    #lower { height: 1fr; }
    #left { width: 3fr; }
    #right { width: 2fr; }
    #runs, #plugged { height: 1fr; margin: 0 1; }
    #hint { padding: 0 1; height: auto; color: $soft; }
    #plugged-line { padding: 0 1; height: 1; color: $soft; display: none; }
    DeskPlace.-narrow #right { display: none; }
    DeskPlace.-narrow #plugged-line { display: block; }
    """

    def __init__(self) -> None:
        super().__init__()
        self._plugged: list[Probed] = []

    def body(self) -> ComposeResult:
        """Reviews above, runs and sensors below."""
        yield Static("Reviews", classes="head")
        yield DataTable(id="reviews", cursor_type="row", zebra_stripes=False)
        yield Static(id="question")
        with Horizontal(id="lower"):
            with Vertical(id="left"):
                yield Static("Latest runs", classes="head")
                yield DataTable(id="runs", cursor_type="row")
            with Vertical(id="right"):
                yield Static("Plugged in", classes="head", id="plugged-head")
                yield QuietTable("plugged")
                yield Static(id="hint")
        yield Static(id="plugged-line")

    def on_mount(self) -> None:
        """Columns once; rows come with `fill`."""
        reviews = self.query_one("#reviews", DataTable)
        for name in ("review", "cells", "runs", "claims", "next"):
            reviews.add_column(name, key=name)
        runs = self.query_one("#runs", DataTable)
        runs.add_columns("run", "setup", "load", "pass", "judgement", "rise")
        self.query_one("#plugged", QuietTable).add_columns("channel", "now", "role")
        reviews.focus()
        for message in self.session.messages:
            self.notify(message, title="Found again", timeout=10)
        self.session.messages.clear()
        self.action_plugged()

    def title_line(self) -> Text:
        """Whose desk this is."""
        text = Text(no_wrap=True)
        text.append(self.session.title, f"bold {self.palette.text}")
        text.append("  the reviews and runs of ", self.palette.soft)
        text.append(self.session.archive.where, self.palette.soft)
        return text

    def fill(self) -> None:
        """All reviews with how far they are, the latest runs."""
        session, palette = self.session, self.palette
        table = self.query_one("#reviews", DataTable)
        row = table.cursor_row
        table.clear()
        reviews = session.archive.reviews.reviews()
        for review in reviews:
            here = session.review is not None and review.id == session.review.id
            data = session.data if here and session.data else load_review(session.archive, review)
            done, total = data.measured_cells()
            proposal = session.proposal() if here else None
            table.add_row(
                Text(review.name, f"bold {palette.text}"),
                f"{done} of {total}",
                str(sum(len(c.runs) for c in data.cells.values())),
                "…",
                f"{proposal.setup}, {proposal.load}" if proposal else "all recorded",
                key=str(review.id),
            )
        if reviews:
            table.move_cursor(row=min(row, len(reviews) - 1))
        question = session.review.question if session.review else ""
        empty = (
            "No review yet. Runs land in the inbox until there is one: press r to record on this machine,\n"
            "or leave and try samovar demo for a review that is already under way."
        )
        self.query_one("#question", Static).update(question if reviews else empty)
        self._fill_runs()
        self._fill_claims()
        if self._plugged:
            self._show_plugged(self._plugged)

    @work(thread=True, exclusive=True, group="claims")
    def _fill_claims(self) -> None:
        """Which claims hold, off the interface's thread: the statistics take a moment to load."""
        store = self.session.archive.reviews
        for review in store.reviews():
            here = self.session.review is not None and review.id == self.session.review.id
            data = (
                self.session.data if here and self.session.data else load_review(self.session.archive, review)
            )
            claims = store.claims(review.id)
            words = f"{data.holding(claims)} of {len(claims)} hold" if claims else "none yet"
            self.tell(self._show_claims, str(review.id), words)

    def _show_claims(self, row: str, words: str) -> None:
        table = self.query_one("#reviews", DataTable)
        if row in table.rows:
            table.update_cell(row, "claims", words, update_width=True)

    def _fill_runs(self) -> None:
        session, palette = self.session, self.palette
        table = self.query_one("#runs", DataTable)
        table.clear()
        setups = {s.id: s.name for review in session.archive.reviews.reviews() for s in review.setups}
        known = {}
        if session.data is not None:
            known = {run.number: result for cell in session.data.cells.values() for run, result in cell.runs}
        for run in session.archive.runs.runs(newest=_RUNS_SHOWN):
            result = known.get(run.number)
            rise = result.reading.rise() if result else None
            table.add_row(
                Text(run.id, palette.brass),
                setups.get(run.setup_id or 0, "inbox"),
                run.load,
                str(run.pass_number),
                self._judgement(run, result.reading.judgement if result else None),
                Text(rise.text("K", finest=1) if rise else "–", justify="right"),
                key=str(run.number),
            )

    def _judgement(self, run: Run, judgement: str | None) -> Text:
        if run.state == "recording":
            return Text("● recording", self.colour("temperature"))
        if run.state == "did-not-finish":
            return Text(f"✕ did not finish, {clock_text(run.duration_s)}", self.palette.bad)
        if judgement is None:
            return Text("not judged", self.palette.faint)
        return Text(f"{JUDGEMENT_MARK[judgement]} {judgement}")

    @work(thread=True, exclusive=True, group="plugged")
    def action_plugged(self) -> None:
        """Look at what can be measured now, off the interface's thread."""
        if self.session.live is not None and not self.session.live.sealed.is_set():
            return
        found = self.session.machine.probe()
        self.tell(self._show_plugged, found)

    def _show_plugged(self, found: list[Probed]) -> None:
        self._plugged = found
        table = self.query_one("#plugged", QuietTable)
        table.clear()
        clocks = [p for p in found if p.channel.quantity == "clock"]
        for p in found:
            if len(clocks) > 2 and p in clocks[1:]:
                continue
            name = p.channel.name if p not in clocks or len(clocks) < 3 else f"{len(clocks)} core clocks"
            if p.status == "ok":
                value = Text(
                    number(p.value, p.channel.unit), self.colour(p.channel.quantity), justify="right"
                )
                table.add_row(name, value, p.channel.role)
            else:
                faint = self.palette.faint
                table.add_row(Text(name, faint), Text("–", faint, justify="right"), Text(p.status, faint))
        usable = sum(p.status == "ok" for p in found)
        words = f"Plugged in: {usable} of {len(found)} channels usable"
        self.query_one("#plugged-head", Static).update(words)
        self.query_one("#plugged-line", Static).update(words)
        hint = ""
        if not any(p.channel.quantity == "temperature" and p.status == "ok" for p in found):
            hint = "No temperature sensor can be read here. samovar demo shows Samovar at work;\nsamovar read LOG reads a log made elsewhere."
        self.query_one("#hint", Static).update(hint)

    def action_open(self) -> None:
        """Open what is under the cursor."""
        focused = self.focused
        if isinstance(focused, DataTable):
            focused.action_select_cursor()

    def on_data_table_row_selected(self, message: DataTable.RowSelected) -> None:
        """A review opens in the Grid, a run in Trace."""
        key = int(message.row_key.value or 0)
        if message.data_table.id == "reviews":
            review = self.session.archive.reviews.review(key)
            if review is not None and (self.session.review is None or review.id != self.session.review.id):
                self.session.open_review(review)
            self.samovar.action_go("grid")
        elif message.data_table.id == "runs":
            self.session.trace_run = key
            self.samovar.action_go("trace")

    def action_record(self) -> None:
        """To the Bench."""
        self.samovar.action_go("bench")
