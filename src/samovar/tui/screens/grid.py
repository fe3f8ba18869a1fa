"""The Grid: setups down, loads across; what is measured, what is missing, what to run next."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType

from samovar.archive.records import Setup
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import setup_prices
from samovar.bench.course_spec import USUAL, clock_text
from samovar.report import headline
from samovar.tui.aside import aside
from samovar.tui.grid_heads import hours, load_head, setup_head
from samovar.tui.review_sheets import against_reference, ask_review, ask_setup, delete_setup
from samovar.tui.screens.place import Place
from samovar.tui.sheets.cell_runs import CellRuns
from samovar.tui.sheets.choose import Choose
from samovar.tui.widgets.cell_card import CellCard, look_of
from samovar.tui.widgets.cell_grid import CellGrid, GridView
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.quiet_table import QuietTable


class GridPlace(Place):
    """The plan and how far it is."""

    NAME = "grid"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("up", "move(-1, 0)", "Move", show=False, tooltip="setup above"),
        Binding("down", "move(1, 0)", "Move", show=False, tooltip="setup below"),
        Binding("left", "move(0, -1)", "Move", show=False, tooltip="load to the left"),
        Binding("right", "move(0, 1)", "Move", show=False, tooltip="load to the right"),
        Binding("enter", "open", "Runs", tooltip="the cell's runs: read, leave out, move"),
        Binding("r", "record", "Record", tooltip="go to the Bench and record into this cell"),
        Binding("n", "next", "Next", tooltip="go to the cell that is proposed next"),
        Binding("a", "add", "Add setup", tooltip="add a setup to this review"),
        Binding("e", "edit", "Edit setup", tooltip="change the setup under the cursor"),
        Binding(
            "d",
            "duplicate",
            "Duplicate",
            show=False,
            tooltip="add a setup that begins like the one under the cursor",
        ),
        Binding("f", "frame", "Frame", tooltip="change the review: question, loads, passes, what counts"),
        Binding("w", "about", "About", tooltip="choose the figure this review is about: what the cells show"),
        Binding("k", "course", "Course", tooltip="choose the course of the load under the cursor"),
        Binding(
            "x",
            "leave_out",
            "Leave out",
            show=False,
            tooltip="leave the cell's latest run out, or bring it back",
        ),
        Binding("v", "versus", "Versus", tooltip="hold the setups against each other under this load"),
        Binding(
            "t", "reference", "Reference", show=False, tooltip="make the setup under the cursor the reference"
        ),
        Binding(
            "delete,backspace",
            "delete",
            "Delete setup",
            show=False,
            tooltip="delete the setup; z brings it back",
        ),
        Binding(
            "o",
            "write",
            "Write TOML",
            show=False,
            tooltip="write the review with all it stands on to a TOML file",
        ),
    ]
    CSS = """
    #grid-empty { height: 1fr; padding: 1 2; color: $soft; display: none; }
    GridPlace.-empty #grid-empty { display: block; }
    GridPlace.-empty CellGrid, GridPlace.-empty #cell-runs { display: none; }
    #next { height: auto; padding: 0 2; }
    #cell-runs { height: auto; max-height: 7; margin: 0 2; }
    GridPlace.-narrow #cell-runs { max-height: 4; }
    """

    def __init__(self) -> None:
        super().__init__()
        self._at = (0, 0)
        self._review_id = 0

    def body(self) -> ComposeResult:
        """Cells, the proposal, the runs of the cell."""
        yield Static(id="grid-empty")
        yield CellGrid()
        yield Static(id="next")
        yield QuietTable("cell-runs")

    def on_mount(self) -> None:
        """Columns once."""
        table = self.query_one("#cell-runs", QuietTable)
        table.add_columns("run", "pass", "state", "length", "what it says")

    def title_line(self) -> Text:
        """The review, how far it is, how long the rest takes."""
        data, plan = self.session.data, self.session.plan()
        if data is None or plan is None:
            return self.trail()
        done, total = data.measured_cells()
        text = self.trail(f"{data.subject.label}, {done} of {total} cells have all passes")
        left = plan.time_left()
        if left.runs:
            sure = "about" if not left.guessed else "at most" if left.guessed == left.runs else "roughly"
            runs = f"{left.runs} run{'' if left.runs == 1 else 's'}"
            swaps = f", {left.swaps} swap{'' if left.swaps == 1 else 's'}" if left.swaps else ""
            text.append(
                f"   {runs} to go, {sure} {hours(left.seconds)} of bench time{swaps}", self.palette.soft
            )
        return text

    def fill(self) -> None:
        """The review in hand; the cursor begins at the proposal."""
        session, review = self.session, self.session.review
        plan = session.plan()
        empty = review is None or plan is None or not review.setups or not review.loads
        self.set_class(empty, "-empty")
        if empty or review is None or plan is None:
            self.query_one("#grid-empty", Static).update(self._what_is_missing())
            self.query_one("#next", Static).update("")
            return
        names = [s.name for s in review.setups]
        proposal = session.next_cell()
        if review.id != self._review_id:
            self._review_id = review.id
            self._at = (
                (names.index(proposal[0].name), review.loads.index(proposal[1])) if proposal else (0, 0)
            )
        self._at = (min(self._at[0], len(names) - 1), min(self._at[1], len(review.loads) - 1))
        found = session.proposal()
        at_next = (names.index(found.setup), review.loads.index(found.load)) if found else None
        rates = session.data.rates if session.data is not None else ()
        prices = setup_prices(review.setups, rates, review.priced)
        view = GridView(
            [setup_head(self.palette, s, prices[s.name]) for s in review.setups],
            [load_head(self.palette, x, review.courses.get(x, USUAL)) for x in review.loads],
            lambda row, column: session.cell(review.setups[row], review.loads[column]),
            lambda row, column: session.in_the_way(review.setups[row], review.loads[column]),
            review.passes_wanted,
            aside(look_of, session.data or ReviewData(review)),
            at_next,
        )
        self.query_one(CellGrid).show(view, self._at)
        self._tell_cell()

    def _what_is_missing(self) -> str:
        session, review = self.session, self.session.review
        if review is None:
            return "No review is open.\n\nThe Desk (0) opens one, or frames a new one: press 0, then a."
        archive = session.archive
        steps = []
        if not archive.shelf.rigs():
            steps.append("1  a rig, the machine it is measured on: Shelf (1), g shows the rigs, a adds one")
        if not archive.shelf.products():
            steps.append("1  the products that are compared: Shelf (1), a adds one")
        steps.append(
            "a  adds a setup: a rig, what is fitted, what is changed. Two or more make a comparison."
        )
        if not review.loads:
            steps.append("f  chooses the loads it is asked under")
        return f"{review.name} has no cells yet: setups stand down, loads across.\n\n" + "\n".join(steps)

    def _here(self) -> tuple[Setup, str] | None:
        review = self.session.review
        if review is None or not review.setups or not review.loads:
            return None
        return review.setups[min(self._at[0], len(review.setups) - 1)], review.loads[
            min(self._at[1], len(review.loads) - 1)
        ]

    def _tell_cell(self) -> None:
        """The proposal with its reason, what is known of the setup, the cell's runs."""
        here, review, plan = self._here(), self.session.review, self.session.plan()
        if here is None or review is None or plan is None:
            return
        palette, proposal = self.palette, self.session.proposal()
        text = Text()
        if proposal is None:
            text.append("Every cell has its passes. ", f"bold {palette.good}")
            text.append("Versus (5) holds the setups against each other.", palette.soft)
        else:
            text.append("next ", palette.soft)
            text.append(f"{proposal.setup} ▸ {proposal.load}", f"bold {palette.brass}")
            text.append(f"   {proposal.reason}", palette.text)
        setup, load = here
        text.append("\nhere ", palette.soft)
        text.append(f"{setup.name} ▸ {load}", f"bold {palette.text}")
        apart = against_reference(review, setup)
        if apart:
            text.append(f"   {'; '.join(apart)}", palette.soft)
        way = self.session.in_the_way(setup, load)
        if way:
            text.append(f"   {', '.join(way)}", palette.caution)
        self.query_one("#next", Static).update(text)
        self._fill_runs(setup, load)

    def _fill_runs(self, setup: Setup, load: str) -> None:
        table = self.query_one("#cell-runs", QuietTable)
        table.clear()
        cell = self.session.cell(setup, load)
        for run, result in cell.runs[-5:]:
            words = result.reason or headline(result.reading)
            if run.left_out is not None:
                words = f"left out: {run.left_out}"
            table.add_row(run.id, str(run.pass_number), run.state, clock_text(run.duration_s), words)
        if not cell.runs:
            table.add_row("–", "", "", "", f"nothing recorded of {setup.name} under {load}: press r")

    def action_move(self, down: int, right: int) -> None:
        """Move the cursor."""
        review = self.session.review
        if review is None or not review.setups or not review.loads:
            return
        row, column = self._at
        self._go(
            max(0, min(len(review.setups) - 1, row + down)),
            max(0, min(len(review.loads) - 1, column + right)),
        )

    def _go(self, row: int, column: int) -> None:
        self._at = (row, column)
        self.query_one(CellGrid).move_to(self._at)
        self._tell_cell()

    def on_cell_card_clicked(self, message: CellCard.Clicked) -> None:
        """A click moves the cursor there."""
        self._go(*self.query_one(CellGrid).place_of(message.card))

    def action_next(self) -> None:
        """To the proposed cell."""
        review, proposal = self.session.review, self.session.proposal()
        if review is not None and proposal is not None:
            names = [s.name for s in review.setups]
            self._go(names.index(proposal.setup), review.loads.index(proposal.load))

    @work
    async def action_open(self) -> None:
        """The cell's runs."""
        here, plan = self._here(), self.session.plan()
        if here is None or plan is None:
            return
        if not self.session.cell(*here).runs:
            self.notify("Nothing recorded in this cell yet: press r to record.", severity="warning")
            return
        run = await self.app.push_screen_wait(CellRuns(self, *here, self.session.in_the_way(*here)))
        self.refresh_all()
        if run is not None:
            self.session.trace_run = run
            self.samovar.action_go("trace")

    def action_record(self) -> None:
        """Record into this cell."""
        here = self._here()
        if here is not None:
            self.session.chosen = (here[0].name, here[1])
            self.samovar.action_go("bench")

    def action_versus(self) -> None:
        """Versus under this load."""
        here = self._here()
        if here is not None:
            self.session.load = here[1]
            self.samovar.action_go("versus")

    def action_leave_out(self) -> None:
        """Leave the latest run out of all comparisons, or bring it back: the same key undoes it."""
        here = self._here()
        runs = self.session.cell(*here).runs if here else ()
        if not runs:
            return
        run = runs[-1][0]
        self.session.archive.runs.leave_out(
            run.number, None if run.left_out else "left out by hand in the Grid"
        )
        self._changed(f"{run.id} {'counts again' if run.left_out else 'left out; x brings it back'}.")

    def _changed(self, words: str = "") -> None:
        self.session.reload()
        self.refresh_all()
        if words:
            self.notify(words)

    @work
    async def action_add(self) -> None:
        """A new setup."""
        await self._add(None)

    @work
    async def action_duplicate(self) -> None:
        """A new setup that begins like the one under the cursor."""
        here = self._here()
        await self._add(here[0] if here else None)

    async def _add(self, like: Setup | None) -> None:
        review = self.session.review
        if review is None:
            self.notify("Frame a review first: the Desk (0), then a.", severity="warning")
            return
        key = await ask_setup(self, review, like=like)
        if key is not None:
            self._changed()
            changed = self.session.review
            if changed is not None:
                self._at = (next((k for k, s in enumerate(changed.setups) if s.id == key), 0), self._at[1])
                self.fill()

    @work
    async def action_edit(self) -> None:
        """Change the setup under the cursor."""
        review, here = self.session.review, self._here()
        if review is not None and here is not None and await ask_setup(self, review, here[0]) is not None:
            self._changed()

    @work
    async def action_frame(self) -> None:
        """Change the review."""
        if self.session.review is None:
            self.notify("No review is open: the Desk (0), then a.", severity="warning")
        elif await ask_review(self, self.session.review) is not None:
            self._changed()

    @work
    async def action_about(self) -> None:
        """Another figure that the review is about."""
        from samovar.tui.review_sheets import ask_figure

        data = self.session.data
        if data is not None and await ask_figure(self, data):
            self._changed()

    @work
    async def action_course(self) -> None:
        """Another course for the load under the cursor."""
        from dataclasses import replace

        review, here = self.session.review, self._here()
        if review is None or here is None:
            return
        archive = self.session.archive
        options = [(USUAL, "the usual one"), *((c.name, "") for c in archive.plans.courses())]
        chosen = await self.app.push_screen_wait(
            Choose(f"Which course for {here[1]}? Shelf (1), k makes more.", options)
        )
        if chosen is None:
            return
        courses = {k: v for k, v in {**review.courses, here[1]: chosen}.items() if v != USUAL}
        archive.reviews.save_review(replace(review, courses=courses))
        self.session.remember(f"course of {here[1]} changed", lambda: archive.reviews.save_review(review))
        self._changed(f"{here[1]}: {chosen}; z undoes it.")

    def action_reference(self) -> None:
        """Make this setup the reference."""
        from dataclasses import replace

        review, here = self.session.review, self._here()
        if review is None or here is None or here[0].reference:
            return
        store, before = self.session.archive.reviews, review.reference
        store.save_setup(replace(here[0], reference=True))
        if before is not None:
            self.session.remember(
                "reference changed", lambda: store.save_setup(replace(before, reference=True))
            )
        self._changed(f"{here[0].name} is the reference now; z undoes it.")

    def action_delete(self) -> None:
        """Delete the setup under the cursor."""
        here = self._here()
        if here is not None:
            delete_setup(self, here[0])
            self._changed(f"{here[0].name} deleted, its runs kept; z brings it back.")

    @work
    async def action_write(self) -> None:
        """The review as TOML."""
        from samovar.tui.frame_files import write_review

        await write_review(self)
