"""The runs of one cell: read one closely, leave one out with a reason, bring it back, take it where it belongs."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen

from samovar.archive.records import Run, Setup
from samovar.bench.course_spec import clock_text
from samovar.core.results.figure import figure_of
from samovar.entering import circumstances_of
from samovar.report import headline
from samovar.tui.aside import aside, behind
from samovar.tui.asking import Asking
from samovar.tui.hand_sheets import edit_readings
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.theme import palette_of
from samovar.tui.widgets.plain import DataTable, Static
from samovar.tui.writing import WRITES

if TYPE_CHECKING:
    from samovar.tui.screens.place import Place


class CellRuns(Asking, ModalScreen[int | None]):
    """The answer is the run to be read in Trace; None where it was left."""

    CSS = """
    CellRuns { align: center middle; background: $background 60%; }
    CellRuns > Vertical { width: 120; max-width: 97%; height: auto; max-height: 90%; background: $raised;
        border: round $primary; padding: 0 2; }
    CellRuns DataTable { height: auto; max-height: 18; background: $raised; }
    CellRuns #cell-title { color: $primary; text-style: bold; height: 1; }
    CellRuns #cell-way { height: auto; color: $soft; margin-bottom: 1; }
    CellRuns #cell-foot { color: $soft; height: 1; margin-top: 1; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape", "leave", "Leave", tooltip="back to the Grid"),
        Binding("x", "leave_out", "Leave out", tooltip="leave it out with a reason, or bring it back"),
        Binding("b", "hand", "By hand", tooltip="enter what was read by hand, change it or take it back"),
        Binding("m", "move", "Move", tooltip="take it to the cell it belongs to"),
        Binding("z", "undo", "Undo", tooltip="undo the last change"),
    ]

    def __init__(self, place: Place, setup: Setup, load: str, in_the_way: list[str]) -> None:
        super().__init__()
        self._place, self._setup, self._load, self._way = place, setup, load, in_the_way
        data = place.session.data
        self._figure = data.subject if data is not None else figure_of("rise")

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Nothing that writes is offered to whoever may only read."""
        return not (self._place.session.guest and action in WRITES["cell runs"])

    def compose(self) -> ComposeResult:
        """Which cell, what stands in its way, its runs, the keys."""
        with Vertical():
            yield Static(
                f"{self._setup.name} ▸ {self._load} ▸ {self._figure.label}", id="cell-title", markup=False
            )
            yield Static(
                ", ".join(self._way) or "nothing stands in the way of comparing it",
                id="cell-way",
                markup=False,
            )
            table: DataTable = DataTable(cursor_type="row", id="cell-table")
            table.add_columns(
                "run",
                "pass",
                "state",
                "begun",
                "length",
                "result",
                "what it says",
            )
            yield table
            yield Static(
                "Enter read it closely   b by hand   x leave out or bring back   m move   z undo   Esc back",
                id="cell-foot",
            )

    def on_mount(self) -> None:
        """Fill the table."""
        self._fill()
        self.query_one(DataTable).focus()

    def _fill(self) -> None:
        palette = palette_of(self.app.theme)
        table: DataTable = self.query_one(DataTable)
        row = table.cursor_row
        table.clear()
        room = min(120, round(0.97 * self.app.size.width)) - 70
        for run, result in self._place.session.cell(self._setup, self._load).runs:
            value = self._figure.of(result)
            words = f"left out: {run.left_out}" if run.left_out else result.reason or headline(result.reading)
            words = words if len(words) <= room else f"{words[: room - 1]}…"
            colour = palette.faint if run.left_out else palette.text
            cells = (
                run.id, str(run.pass_number), run.state, run.started[:16].replace("T", " "), clock_text(run.duration_s),
                self._figure.text(value) if value else "–", words,
            )  # fmt: skip
            table.add_row(*(Text(cell, colour) for cell in cells), key=str(run.number))
        if table.row_count:
            table.move_cursor(row=min(row, table.row_count - 1))

    def _run(self) -> Run | None:
        table: DataTable = self.query_one(DataTable)
        if table.row_count == 0:
            return None
        key = table.coordinate_to_cell_key(table.cursor_coordinate).row_key.value
        return self._place.session.archive.runs.run(int(key or 0))

    def on_data_table_row_selected(self, message: DataTable.RowSelected) -> None:
        """Enter reads it closely."""
        self.dismiss(int(message.row_key.value or 0))

    @work
    async def action_hand(self) -> None:
        """Enter a reading of the run, change one, or take it back."""
        run = self._run()
        if run is None:
            return
        there = aside(circumstances_of, behind(self._place.session.archive), run)
        if await edit_readings(self._place, run.id, run.number, there, None):
            self._place.session.reload()
            self._fill()

    @work
    async def action_leave_out(self) -> None:
        """With a reason; brought back without one."""
        run = self._run()
        if run is None:
            return
        runs = self._place.session.archive.runs
        reason: str | None = None
        if run.left_out is None:
            reason = await self.app.push_screen_wait(
                Ask(f"Why is {run.id} left out?", hint="panel was off, fan cable loose, …")
            )
            if not reason:
                return
        runs.leave_out(run.number, reason)
        words = f"{run.id} left out" if reason else f"{run.id} counts again"
        self._place.session.remember(words, lambda: runs.leave_out(run.number, run.left_out))
        self._changed(f"{words}; z undoes it.")

    @work
    async def action_move(self) -> None:
        """To another setup and load of this review, or to the inbox."""
        session, run = self._place.session, self._run()
        review = session.review
        if run is None or review is None:
            return
        setups = [(s.name, "here" if s.id == self._setup.id else "") for s in review.setups]
        chosen = await self.app.push_screen_wait(
            Choose(f"{run.id} belongs to which setup?", [*setups, ("inbox", "to none")])
        )
        if chosen is None:
            return
        setup = next((s for s in review.setups if s.name == chosen), None)
        load = run.load
        if setup is not None:
            named = await self.app.push_screen_wait(
                Choose(
                    f"{run.id} was under which load?",
                    [(x, "as now" if x == run.load else "") for x in review.loads],
                )
            )
            if named is None:
                return
            load = named
        session.archive.runs.move(run.number, review.id if setup else None, setup.id if setup else None, load)
        session.remember(
            f"{run.id} moved",
            lambda: session.archive.runs.move(run.number, run.review_id, run.setup_id, run.load),
        )
        self._changed(f"{run.id} is in {chosen}{f' ▸ {load}' if setup else ''} now; z undoes it.")

    def action_undo(self) -> None:
        """Undo the last change."""
        words = self._place.session.undo()
        self._changed(f"Undone: {words}" if words else "Nothing to undo.")

    def _changed(self, words: str) -> None:
        self._place.session.reload()
        self._fill()
        self.notify(words)

    def action_leave(self) -> None:
        """Back to the Grid."""
        self.dismiss(None)
