"""The Desk: all reviews, the latest runs, and what is plugged in."""

from __future__ import annotations

import asyncio
import contextlib
from functools import partial
from typing import TYPE_CHECKING, ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical

from samovar.archive.kept import ARCHIVED, DELETED, KEPT
from samovar.archive.records import Review
from samovar.archive.told import LatestRuns, latest_runs, plans_of
from samovar.sources.protocol import Probed
from samovar.tui.aside import aside, behind
from samovar.tui.next_step import NO_REVIEW_YET, next_step
from samovar.tui.read_again import read_again
from samovar.tui.run_cells import figure_cell, judgement_cell, short
from samovar.tui.screens.file_actions import FileActions
from samovar.tui.widgets.plain import DataTable, Static
from samovar.tui.widgets.plugged import fill_plugged, plugged_hint, plugged_words
from samovar.tui.widgets.quiet_table import QuietTable

if TYPE_CHECKING:
    from samovar.archive.review_data import ReviewData

_RUNS_SHOWN = 40
_SEEN_WITHIN_S = 5.0
"""Whatever keeps the Desk from being drawn, what comes after goes on then."""
_REVIEWS = ("review", "cells", "cautions", "claims", "last run", "next")
_NARROW_REVIEWS = ("review", "cells", "claims", "next")
_RUNS = ("run", "review", "setup", "load", "judgement", "result")
_STATES = (KEPT, ARCHIVED, DELETED)
NAME_MOST, NARROW_NAME_MOST, NARROW_NEXT_MOST = 44, 26, 29
"""A longer name of a review would push what comes next out of sight; it stands whole above the Grid."""


class DeskPlace(FileActions):
    """Where one comes in."""

    NAME = "desk"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("enter", "open", "Open", tooltip="open the review, or the run, under the cursor"),
        Binding("a", "add", "New review", tooltip="frame a new review: its question, loads and passes"),
        Binding("e", "edit", "Edit", tooltip="change the review under the cursor"),
        Binding("w", "asked", "Asked", tooltip="what the review asks of a setup: demands and wishes"),
        Binding("r", "record", "Record", tooltip="go to the Bench and record the next run"),
        Binding("u", "plugged", "Look again", tooltip="look again at what is plugged in"),
        Binding(
            "d",
            "duplicate",
            "Duplicate",
            show=False,
            tooltip="frame a second review like this one, without its runs",
        ),
        Binding("h", "hide", "Archive", show=False, tooltip="put the review out of sight, or back"),
        Binding(
            "v", "states", "Archived", show=False, tooltip="show reviews that are archived, deleted, kept"
        ),
        Binding(
            "delete,backspace",
            "delete",
            "Delete",
            show=False,
            tooltip="delete the review, its runs kept; z brings it back",
        ),
    ]
    CSS = """
    DeskPlace #question { height: auto; max-height: 9; padding: 0 1; color: $soft; }
    DeskPlace .head { padding: 0 1; height: 1; margin-top: 1; }
    #reviews { height: auto; max-height: 12; margin: 0 1; }
    #lower { height: 1fr; }
    #left { width: 1fr; }
    #right { width: 46; }
    #runs, #plugged { height: 1fr; margin: 0 1; }
    #hint { padding: 0 1; height: auto; color: $soft; }
    #plugged-line { padding: 0 1; height: 1; color: $soft; display: none; }
    DeskPlace.-narrow #right { display: none; }
    DeskPlace.-narrow #plugged-line { display: block; }
    """

    def __init__(self) -> None:
        super().__init__()
        self._plugged: list[Probed] = []
        self._state = KEPT
        self._states: dict[int, tuple[int | None, str, str]] = {}
        self._listed: list[Review] = []
        self._seen = asyncio.Event()

    def body(self) -> ComposeResult:
        """Reviews above, runs and sensors below."""
        yield Static("Reviews", classes="head", id="reviews-head")
        yield DataTable(id="reviews", cursor_type="row", zebra_stripes=False)
        yield Static(id="question", markup=False)
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
        self.query_one("#plugged", QuietTable).add_columns("channel", "now", "role")
        reviews.focus()
        for message in self.session.messages:
            self.notify(message, title="Found again", timeout=10)
        self.session.messages.clear()
        self.soon(self._begin, group="opening")

    async def _begin(self) -> None:
        """The first review in hand, and what else takes a moment, once the Desk is seen."""
        with contextlib.suppress(TimeoutError):
            await asyncio.wait_for(self._seen.wait(), _SEEN_WITHIN_S)
        self.run_worker(partial(read_again, self), thread=True, group="again", exclusive=True)
        if not self.session.begun:
            self.session.begin()
            self._gauge()
        self.action_plugged()
        for words in self.session.unreadable:
            self.notify(words, title="Left as it is, and out of sight", severity="warning", timeout=20)
        self._fill_states()

    def title_line(self) -> Text:
        """Whose desk this is."""
        text = Text(no_wrap=True)
        text.append(self.session.title, f"bold {self.palette.text}")
        text.append("  the reviews and runs of ", self.palette.soft)
        text.append(self.session.archive.where, self.palette.soft)
        if self.session.guest:
            text.append("   you may only read", self.palette.caution)
        return text

    def _reviews(self) -> list[Review]:
        return self.session.archive.reviews.reviews(self._state)

    def _data(self, review: Review) -> ReviewData:
        from samovar.archive.review_data import load_review

        here = self.session.review is not None and review.id == self.session.review.id
        return self.session.data if here and self.session.data else load_review(self.session.archive, review)

    def fill(self) -> None:
        """All reviews with how far they are, the latest runs."""
        session, palette = self.session, self.palette
        reviews = self._listed = self._reviews()
        last = session.archive.reviews.last_run_of_each()
        covered = aside(plans_of, behind(session.archive), reviews)
        latest = aside(latest_runs, behind(session.archive), _RUNS_SHOWN)
        table = self.query_one("#reviews", DataTable)
        row = table.cursor_row
        table.clear(columns=True)
        for name in _NARROW_REVIEWS if self.narrow else _REVIEWS:
            table.add_column(name, key=name)
        most = NARROW_NAME_MOST if self.narrow else NAME_MOST
        for review in reviews:
            plan = covered[review.id]
            done, total = plan.coverage.measured_cells()
            cautions, claims = self._states.get(review.id, (None, "…", "…"))[1:]
            step = next_step(review, plan)
            cells = {
                "review": Text(short(review.name, most), f"bold {palette.text}"),
                "cells": f"{done} of {total}",
                "cautions": cautions,
                "claims": claims,
                "last run": last.get(review.id, "none yet")[:10],
                "next": short(step, NARROW_NEXT_MOST) if self.narrow else step,
            }
            table.add_row(*(cells[str(c.value)] for c in table.columns), key=str(review.id))
        if reviews:
            here = next(
                (k for k, r in enumerate(reviews) if session.review and r.id == session.review.id), row
            )
            table.move_cursor(row=min(here if row == 0 else row, len(reviews) - 1))
        words = "" if self._state == KEPT else f" that are {self._state}"
        self.query_one("#reviews-head", Static).update(f"Reviews{words}")
        self._show_question()
        self._fill_runs(latest)
        if self._plugged:
            self._show_plugged(self._plugged)
        if self._seen.is_set():
            self._fill_states()
        else:
            self.call_after_refresh(self._seen.set)

    def _show_question(self) -> None:
        key = self._review_key()
        review = next((r for r in self._listed if r.id == key), None)
        nothing = (
            f"No review is {self._state}: v goes on to the next." if self._state != KEPT else NO_REVIEW_YET
        )
        words = review.question if review else nothing
        if review is not None and review.demands:
            words += f"\nAsked of a setup: {'; '.join(review.demands)}."
        self.query_one("#question", Static).update(words)

    def on_data_table_row_highlighted(self, message: DataTable.RowHighlighted) -> None:
        """The question follows the cursor."""
        if message.data_table.id == "reviews":
            self._show_question()

    @work(thread=True, exclusive=True, group="claims")
    def _fill_states(self) -> None:
        """Cautions and claims, off the interface's thread: the statistics take a moment to load."""
        store = self.session.archive.reviews
        every = self.session.archive.runs.runs()
        for review in self._reviews():
            claims = store.claims(review.id)
            mine = [(r.number, r.left_out, r.setup_id, r.load) for r in every if r.review_id == review.id]
            print_of = hash((repr(review), repr(claims), repr(mine)))
            if self._states.get(review.id, (None,))[0] == print_of:
                continue
            from samovar.archive.claim_checks import holding
            from samovar.archive.rig_comparison import compare_on
            from samovar.core.results.figure import figure_of

            data = self._data(review)
            words = f"{holding(data, claims)} of {len(claims)} hold" if claims else "none yet"
            cautions = sum(
                item.level == "caution"
                for load in review.loads
                if data.under(load)
                for item in compare_on(data, load, figure_of("rise")).audit
            )
            self._states[review.id] = (print_of, str(cautions) if cautions else "none", words)
            self.tell(self._show_states, str(review.id), *self._states[review.id][1:])

    def _show_states(self, row: str, cautions: str, claims: str) -> None:
        table = self.query_one("#reviews", DataTable)
        for column, words in (("cautions", cautions), ("claims", claims)):
            if row in table.rows and any(c.value == column for c in table.columns):
                table.update_cell(row, column, words, update_width=True)

    def _fill_runs(self, latest: LatestRuns) -> None:
        palette = self.palette
        table = self.query_one("#runs", DataTable)
        table.clear(columns=True)
        table.add_columns(*(c for c in _RUNS if not (self.narrow and c == "review")))
        for run in latest.runs:
            review, setup = latest.cell_of(run)
            named = [] if self.narrow else [Text(short(review, 12), palette.soft)]
            table.add_row(
                Text(run.id, palette.brass),
                *named,
                setup if self.narrow else short(setup, 14),
                short(run.load, 12),
                judgement_cell(run, latest.judgements.get(run.number), palette),
                figure_cell(latest.figures.get(run.number), palette),
                key=str(run.number),
            )

    @work(thread=True, exclusive=True, group="plugged")
    def action_plugged(self) -> None:
        """Look at what can be measured now, off the interface's thread."""
        if self.session.live is not None and not self.session.live.sealed.is_set():
            return
        found = self.session.equipment.probe(self.session.rig())
        self.tell(self._show_plugged, found)

    def _show_plugged(self, found: list[Probed]) -> None:
        self._plugged = found
        fill_plugged(self.query_one("#plugged", QuietTable), found, self.palette)
        words = plugged_words(found)
        self.query_one("#plugged-head", Static).update(words)
        self.query_one("#plugged-line", Static).update(words)
        self.query_one("#hint", Static).update(plugged_hint(found))

    def _review_key(self) -> int | None:
        table = self.query_one("#reviews", DataTable)
        if table.row_count == 0:
            return None
        return int(table.coordinate_to_cell_key(table.cursor_coordinate).row_key.value or 0)

    def action_open(self) -> None:
        """Open what is under the cursor."""
        focused = self.focused
        if isinstance(focused, DataTable):
            focused.action_select_cursor()

    def _take_in_hand(self, key: int) -> None:
        review = self.session.archive.reviews.review(key)
        if review is not None and (self.session.review is None or review.id != self.session.review.id):
            self.session.open_review(review)

    def on_data_table_row_selected(self, message: DataTable.RowSelected) -> None:
        """A review opens in the Grid, a run in Trace."""
        key = int(message.row_key.value or 0)
        if message.data_table.id == "reviews":
            if self._state == DELETED:
                self.notify("A deleted review has to come back first: h brings it back.", severity="warning")
                return
            self.soon(self._open, key)
        elif message.data_table.id == "runs":
            self.session.trace_run = key
            self.samovar.action_go("trace")

    def _open(self, key: int) -> None:
        self._take_in_hand(key)
        self.samovar.action_go("grid")

    def action_record(self) -> None:
        """To the Bench."""
        self.samovar.action_go("bench")

    @work
    async def action_add(self) -> None:
        """A new review, and on to its Grid."""
        from samovar.tui.review_sheets import ask_review

        key = await ask_review(self)
        if key is not None:
            self._state = KEPT
            self._take_in_hand(key)
            self.samovar.action_go("grid")

    @work
    async def action_edit(self) -> None:
        """Change the review under the cursor."""
        from samovar.tui.review_sheets import ask_review

        key = self._review_key()
        review = self.session.archive.reviews.review(key) if key is not None else None
        if review is not None and await ask_review(self, review) is not None:
            self.session.reload()
            self.refresh_all()

    @work
    async def action_asked(self) -> None:
        """Frame what the review under the cursor asks of a setup, a line each."""
        from samovar.tui.review_sheets import ask_lines

        key = self._review_key()
        review = self.session.archive.reviews.review(key) if key is not None else None
        if review is None:
            self.notify("No review under the cursor: a frames one.")
        elif await ask_lines(self, review, "demands"):
            self.session.reload()
            self.refresh_all()

    def action_duplicate(self) -> None:
        """A second review like this one, without its runs and claims' acceptance."""
        from samovar.framing import review_frame, take

        key, store = self._review_key(), self.session.archive.reviews
        review = store.review(key) if key is not None else None
        if review is None:
            return
        before = {r.id for r in store.reviews()}
        archive = behind(self.session.archive)
        aside(lambda: take(archive, review_frame(archive, review)))
        new = next(r for r in store.reviews() if r.id not in before)
        self.session.remember(f"{new.name} added", lambda: store.set_review_state(new.id, DELETED))
        self.refresh_all()
        self.notify(f"{new.name}: e changes it; z takes it away again.")

    def action_states(self) -> None:
        """Kept, archived, deleted, and around."""
        self._state = _STATES[(_STATES.index(self._state) + 1) % len(_STATES)]
        self.refresh_all()

    def action_hide(self) -> None:
        """Out of sight, or back."""
        self._put(ARCHIVED if self._state == KEPT else KEPT)

    def action_delete(self) -> None:
        """Delete it; its runs stay."""
        if self._state != DELETED:
            self._put(DELETED)

    def _put(self, state: str) -> None:
        key, before = self._review_key(), self._state
        if key is None:
            return
        name = next((r.name for r in self._listed if r.id == key), "")
        store = self.session.archive.reviews
        store.set_review_state(key, state)
        words = {ARCHIVED: "archived", DELETED: "deleted, its runs kept", KEPT: "back on the Desk"}[state]
        self.session.remember(f"{name} {words}", lambda: store.set_review_state(key, before))
        self.session.reload()
        if self.session.review is None:
            kept = store.reviews()
            self.session.open_review(kept[0] if kept else None)
        self.refresh_all()
        self.notify(f"{name} {words}; z undoes it.")

    def review_under_cursor(self) -> None:
        """Take it in hand."""
        key = self._review_key()
        if key is not None:
            self._take_in_hand(key)
