"""The Grid: setups down, loads across; what is measured, what is missing, what to run next."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll
from textual.widgets import Static

from samovar.archive.records import Setup
from samovar.bench.course_spec import clock_text
from samovar.core.money import amount_text
from samovar.report import headline
from samovar.tui.screens.place import Place
from samovar.tui.widgets.cell_card import CellCard
from samovar.tui.widgets.quiet_table import QuietTable

_HEAD = 18


class GridPlace(Place):
    """The plan and how far it is."""

    NAME = "grid"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("up", "move(-1, 0)", "Move", show=False, tooltip="setup above"),
        Binding("down", "move(1, 0)", "Move", show=False, tooltip="setup below"),
        Binding("left", "move(0, -1)", "Move", show=False, tooltip="load to the left"),
        Binding("right", "move(0, 1)", "Move", show=False, tooltip="load to the right"),
        Binding("enter", "open", "Open in Trace", tooltip="read the cell's latest run closely"),
        Binding("r", "record", "Record this cell", tooltip="go to the Bench and record into this cell"),
        Binding("n", "next", "Next proposed", tooltip="go to the cell that is proposed next"),
        Binding(
            "x", "leave_out", "Leave out", tooltip="leave the latest run of the cell out, or bring it back"
        ),
        Binding("v", "versus", "Versus", tooltip="hold the setups against each other under this load"),
    ]
    CSS = f"""
    #heads {{ height: 2; padding: 1 6 0 1; }}
    #heads Static {{ width: 1fr; text-style: bold; padding: 0 2; }}
    #heads .corner {{ width: {_HEAD}; }}
    #cells {{ height: 1fr; padding: 0 1; scrollbar-size-vertical: 1; scrollbar-gutter: stable; }}
    .setup-row {{ height: 6; }}
    .setup-name {{ width: {_HEAD}; padding: 1 1 0 0; }}
    #next {{ height: auto; padding: 0 2; }}
    #cell-runs {{ height: auto; max-height: 7; margin: 0 2; }}
    """

    def __init__(self) -> None:
        super().__init__()
        self._at = (0, 0)
        self._shape: tuple[tuple[str, ...], tuple[str, ...]] = ((), ())

    def body(self) -> ComposeResult:
        """Heads, cells, the proposal, the runs of the cell."""
        yield Horizontal(id="heads")
        yield VerticalScroll(id="cells", can_focus=False)
        yield Static(id="next")
        yield QuietTable("cell-runs")

    def on_mount(self) -> None:
        """Columns once; the cursor begins at the proposal."""
        table = self.query_one("#cell-runs", QuietTable)
        table.add_columns("run", "pass", "state", "length", "what it says")

    def title_line(self) -> Text:
        """The review, and how far it is."""
        data = self.session.data
        if data is None:
            return self.trail()
        done, total = data.measured_cells()
        text = self.trail(f"{done} of {total} cells have all passes")
        left = self.session.estimate_s()
        if left > 0:
            text.append(f"   about {clock_text(left)} of bench time to go", self.palette.soft)
        return text

    def fill(self) -> None:
        """Cards for the review in hand."""
        session = self.session
        review = session.review
        if review is None or not review.setups or not review.loads:
            self.query_one("#next", Static).update(
                "No setups to show. Choose a review on the Desk (0); samovar demo has one."
            )
            return
        shape = (tuple(s.name for s in review.setups), tuple(review.loads))
        if shape != self._shape:
            self._shape = shape
            self._lay_out()
            return
        # Rows share the height there is, so that curves are as tall as can be.
        height = self.query_one("#cells").size.height // max(1, len(review.setups))
        for row in self.query(".setup-row"):
            row.styles.height = max(6, min(9, height))
        for card in self.query(CellCard):
            card.show(session.cell(review.setups[card.row], review.loads[card.column]), review.passes_wanted)
        for index, name in enumerate(self.query(".setup-name").results(Static)):
            name.update(self._setup_head(review.setups[index]))
        self._select()

    def _lay_out(self) -> None:
        review = self.session.review
        assert review is not None
        heads, cells = self.query_one("#heads", Horizontal), self.query_one("#cells", VerticalScroll)
        heads.remove_children()
        heads.mount(Static("", classes="corner"), *(Static(load) for load in review.loads))
        cells.remove_children()
        rows = []
        for row, setup in enumerate(review.setups):
            cards = [CellCard(self.session.cell(setup, load), row, k) for k, load in enumerate(review.loads)]
            rows.append(Horizontal(Static(classes="setup-name"), *cards, classes="setup-row"))
        cells.mount(*rows)
        proposal = self.session.next_cell()
        if proposal is not None:
            self._at = (review.setups.index(proposal[0]), review.loads.index(proposal[1]))
        self.call_after_refresh(self.fill)

    def _setup_head(self, setup: Setup) -> Text:
        text = Text()
        text.append(setup.name, f"bold {self.palette.text}")
        if setup.reference:
            text.append("\nreference", self.palette.brass)
        price = setup.price
        text.append(
            f"\n{amount_text(price.amount, price.currency)}" if price else "\nno price",
            self.palette.soft,
        )
        return text

    def _here(self) -> tuple[Setup, str] | None:
        review = self.session.review
        if review is None or not review.setups or not review.loads:
            return None
        row, column = min(self._at[0], len(review.setups) - 1), min(self._at[1], len(review.loads) - 1)
        return review.setups[row], review.loads[column]

    def _select(self) -> None:
        here = self._here()
        if here is None:
            return
        proposal = self.session.proposal()
        for card in self.query(CellCard):
            selected = (card.row, card.column) == self._at
            card.set_class(selected, "-selected")
            card.set_class(
                proposal is not None
                and (card.cell.setup.name, card.cell.load) == (proposal.setup, proposal.load),
                "-next",
            )
            if selected:
                card.scroll_visible(animate=False)
        text = Text()
        if proposal is None:
            text.append("Every cell has its passes. ", f"bold {self.palette.good}")
            text.append("Versus (5) holds the setups against each other.", self.palette.soft)
        else:
            text.append("next ", self.palette.soft)
            text.append(f"{proposal.setup} ▸ {proposal.load}", f"bold {self.palette.brass}")
            text.append(f"   {proposal.reason}", self.palette.text)
        self.query_one("#next", Static).update(text)
        self._fill_runs(*here)

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
        if review is None:
            return
        row, column = self._at
        self._at = (
            max(0, min(len(review.setups) - 1, row + down)),
            max(0, min(len(review.loads) - 1, column + right)),
        )
        self._select()

    def on_cell_card_clicked(self, message: CellCard.Clicked) -> None:
        """A click moves the cursor there."""
        self._at = (message.card.row, message.card.column)
        self._select()

    def action_next(self) -> None:
        """To the proposed cell."""
        review, proposal = self.session.review, self.session.proposal()
        if review is not None and proposal is not None:
            names = [s.name for s in review.setups]
            self._at = (names.index(proposal.setup), review.loads.index(proposal.load))
            self._select()

    def action_open(self) -> None:
        """The cell's latest run in Trace."""
        here = self._here()
        if here is None:
            return
        runs = self.session.cell(*here).runs
        if not runs:
            self.notify("Nothing recorded in this cell yet: press r to record.", severity="warning")
            return
        self.session.trace_run = runs[-1][0].number
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
        self.session.reload()
        self.refresh_all()
        self.notify(f"{run.id} {'counts again' if run.left_out else 'left out; x brings it back'}.")
