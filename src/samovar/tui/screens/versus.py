"""Versus: the setups held against each other under one load, in four views of one choice."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll

from samovar.archive.before_after import steps_on
from samovar.archive.deciding import decided_on
from samovar.archive.records import Setup
from samovar.archive.review_data import shown_figures
from samovar.archive.rig_comparison import (
    RigComparison,
    compare_on,
    gains_on,
    reference_on,
    rigs_of,
)  # fmt: skip
from samovar.archive.standing import arrangement_name, standing_on
from samovar.archive.versus_views import criteria_on, lacking_on, loads_on, trade_on
from samovar.core.compare.terms import AS_THEY_RAN
from samovar.core.demands import decision_words
from samovar.core.results.figure import PRICE, Figure, figure_of
from samovar.exchange.problems import InputError
from samovar.tui.aside import aside, behind
from samovar.tui.asking import SHOWING
from samovar.tui.review_sheets import ask_lines
from samovar.tui.screens.curves import Curves
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.cell_runs import CellRuns
from samovar.tui.versus_terms import moved, next_terms
from samovar.tui.widgets.audit_list import audit_text
from samovar.tui.widgets.criteria_table import criteria_text, loads_words, steps_text
from samovar.tui.widgets.ladder import Ladder
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.standing_list import standing_text
from samovar.tui.widgets.strips import StripStack
from samovar.tui.widgets.trade_plot import TradePlot
from samovar.tui.widgets.versus_head import versus_head

RAIL = 17
"""Cells that the rail takes."""
VIEWS = ("ladder", "criteria", "trade", "overlay")


class VersusPlace(Curves):
    """Ladder, criteria, trade and overlay, with the audit beside them."""

    NAME = "versus"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("v", "view(1)", "View", tooltip="the next view: ladder, criteria, trade, overlay"),
        Binding("V", "view(-1)", "View before", show=False, tooltip="the view before"),
        Binding("f", "figure(1)", "Next figure", tooltip="rank by the next figure"),
        Binding("F", "figure(-1)", "Figure before", show=False, tooltip="rank by the figure before"),
        Binding("x", "across(1)", "Across", show=False, tooltip="trade: the next figure across"),
        Binding("l", "load", "Other load", tooltip="compare under another load"),
        Binding(
            "L",
            "table('loads')",
            "All loads",
            show=False,
            tooltip="all loads side by side, and which is the hardest",
        ),
        Binding(
            "S",
            "table('standing')",
            "Standing",
            show=False,
            tooltip="all reviews' runs on this rig, tied by the reference",
        ),
        Binding("t", "terms", "Terms", tooltip="as they ran, at equal noise, at equal heat"),
        Binding(
            "up", "move(1)", "Level", key_display="↑ ↓", show=False, tooltip="the level, or heat, up or down"
        ),
        Binding("down", "move(-1)", "", show=False),
        Binding(
            "E",
            "lines('elsewhere')",
            "Elsewhere",
            show=False,
            tooltip="figures that others published, a line each",
        ),
        Binding(
            "k", "lines('criteria')", "Criteria", show=False, tooltip="criteria: choose the rows of the table"
        ),
        Binding("r", "rig", "Other rig", show=False, tooltip="of several rigs the next"),
        Binding("e", "export", "Export", tooltip="what is shown as SVG, PDF and CSV"),
        Binding("w", "writeup", "Write-up", tooltip="go on to the claims"),
    ]
    CSS = """
    #choice { height: 2; padding: 0 1; margin-top: 1; }
    VersusPlace.-narrow #ladder-box { width: 1fr; }
    VersusPlace.-narrow #audit-box { width: 1fr; }
    #versus-top { height: auto; max-height: 60%; }
    #ladder-box { width: 3fr; height: auto; max-height: 100%; }
    #audit-box { width: 2fr; height: auto; max-height: 100%; padding: 0 1; border-left: solid $line; }
    #overlay { height: 1fr; min-height: 9; margin-top: 1; }
    #criteria-box { height: 1fr; padding: 0 1; }
    VersusPlace #criteria-box, VersusPlace #trade { display: none; }
    VersusPlace.-criteria #versus-top, VersusPlace.-criteria #overlay { display: none; }
    VersusPlace.-criteria #criteria-box { display: block; }
    VersusPlace.-trade #versus-top, VersusPlace.-trade #overlay { display: none; }
    VersusPlace.-trade #trade { display: block; }
    VersusPlace.-overlay #versus-top { display: none; }
    VersusPlace.-empty #versus-top, VersusPlace.-empty #overlay, VersusPlace.-empty #trade { display: none; }
    """

    def __init__(self) -> None:
        super().__init__()
        self.view = VIEWS[0]
        self.terms = AS_THEY_RAN
        self.table = ""
        self.across_key = "noise"
        self._rig: str | None = None
        self._review: int | None = None
        self.shown: RigComparison | None = None

    def body(self) -> ComposeResult:
        """Every view; the class of the place says which one is seen."""
        yield Static(id="choice")
        with Horizontal(id="versus-top"):
            with VerticalScroll(id="ladder-box", can_focus=False):
                yield Ladder()
            with VerticalScroll(id="audit-box", can_focus=False):
                yield Static(id="audit")
        with VerticalScroll(id="criteria-box", can_focus=False):
            yield Static(id="criteria")
        yield TradePlot()
        yield StripStack(id="overlay")

    title_line = Curves.question_line

    def fill(self) -> None:
        """The view that is seen, now; the curves when they are read."""
        session = self.session
        review, data = session.review, session.data
        nothing = review is None or data is None or not review.loads
        self.set_class(nothing, "-empty")
        if review is None or data is None or nothing:
            self.query_one("#choice", Static).update("Nothing to compare. Choose a review on the Desk (0).")
            return
        if self._review != review.id:
            self._review, self._rig, self.terms, self.table = review.id, None, AS_THEY_RAN, ""
        load = session.load or review.loads[-1]
        figure = figure_of(session.measure_key)
        try:
            found = aside(compare_on, data, load, figure, self._rig, self.terms)
        except ValueError as problem:
            # Another figure was chosen, which means nothing under these terms.
            self.notify(f"{self.terms.words}: {problem}.", severity="warning")
            self.terms = AS_THEY_RAN
            found = aside(compare_on, data, load, figure, self._rig)
        self.shown = found
        for view in VIEWS:
            self.set_class(view == ("criteria" if self.tabled else self.view), f"-{view}")
        self.query_one("#choice", Static).update(
            versus_head(
                self.palette,
                found,
                self.view,
                figure_of(self.across_key),
                self.tabled,
                len(rigs_of(review)) > 1,
                self.narrow,
            )
        )
        self._shape(found)

    def _shape(self, found: RigComparison) -> None:
        """Fill the view that is seen."""
        fill = {
            "criteria": self._fill_criteria, "trade": self._fill_trade,
            "loads": self._fill_loads, "standing": self._fill_standing,
        }.get(self.tabled or self.view, self._fill_ladder)  # fmt: skip
        fill(found)
        if not self.tabled and self.view in ("ladder", "overlay"):
            self.show_curves(found.load, found.rig)

    def on_resize(self) -> None:
        """The table of criteria takes what width there is."""
        super().on_resize()
        if self.shown is not None and (self.view == "criteria" or self.tabled):
            self.soon(self._shape, self.shown, group=SHOWING)

    def _fill_ladder(self, found: RigComparison) -> None:
        review = self.session.review
        named = {r.name for r in found.ladder.rungs}
        setups = [s.name for s in review.setups if s.rig_name == found.rig] if review else []
        without = {
            n: found.ladder.left_out.get(n, "") for n in [*setups, *found.ladder.left_out] if n not in named
        }
        joined = {n for n, why in without.items() if not why and found.terms.noise_dba is not None}
        without = {n: why for n, why in without.items() if n not in joined}
        self.query_one(Ladder).show(
            list(found.ladder.rungs), found.figure, found.reference, self.setup_colours(), without
        )
        data = self.session.data
        gains = aside(gains_on, data, found) if data is not None else []
        text = audit_text(self.palette, found.audit, gains, found.figure)
        self.query_one("#audit", Static).update(text)

    @property
    def tabled(self) -> str:
        """What stands in the ladder's place: `loads`, `standing`, or nothing."""
        return self.table if self.view == VIEWS[0] else ""

    def _table_width(self) -> int:
        # Before it is first seen the box has no width yet: that of the window, less the rail, is near enough.
        return (self.query_one("#criteria-box").size.width or self.size.width - RAIL) - 3

    def _fill_loads(self, found: RigComparison) -> None:
        data, review = self.session.data, self.session.review
        assert data is not None and review is not None
        shown = aside(loads_on, data, found.figure, found.rig)
        names = [s.name for s in review.setups if s.rig_name == found.rig]
        text = criteria_text(self.palette, shown.rows, names, self.setup_colours(), self._table_width())
        text.append_text(loads_words(self.palette, shown, found.figure))
        self.query_one("#criteria", Static).update(text)

    def _fill_standing(self, found: RigComparison) -> None:
        review = self.session.review
        assert review is not None
        table = aside(standing_on, behind(self.session.archive), review, found.rig, found.load, found.figure)
        base = reference_on(review, found.rig)
        text = standing_text(
            self.palette, table, found.figure, found.rig, found.load, arrangement_name(base) if base else ""
        )
        self.query_one("#criteria", Static).update(text)

    def _fill_criteria(self, found: RigComparison) -> None:
        data, review = self.session.data, self.session.review
        assert data is not None and review is not None
        rows = aside(criteria_on, data, found.load, found.rig, found.terms)
        names = [s.name for s in review.setups if s.rig_name == found.rig]
        text = Text()
        decided = aside(decided_on, data, found.rig)
        if decided is not None:
            text.append(
                f"{decision_words(decided.decision, decided.demands)}\n\n", f"bold {self.palette.brass}"
            )
        text.append_text(
            criteria_text(
                self.palette,
                rows,
                names,
                self.setup_colours(),
                self._table_width(),
                aside(lacking_on, data, found.rig),
            )
        )
        steps = aside(steps_on, data, found.load, found.rig)
        text.append_text(steps_text(self.palette, steps))
        self.query_one("#criteria", Static).update(text)

    def _fill_trade(self, found: RigComparison) -> None:
        data, review = self.session.data, self.session.review
        assert data is not None and review is not None
        across = figure_of(self.across_key)
        level = found.terms.noise_dba
        limit = (level or review.noise_limit_dba) if across.quantity == "noise" else None
        self.query_one(TradePlot).show(
            aside(trade_on, data, found, across),
            self.setup_colours(),
            limit,
            f"No setup has both {found.figure.label} and {across.label} under {found.load}: f chooses another figure, x another across.",
            level is not None,
        )

    def action_view(self, step: int) -> None:
        """Another view of the same choice."""
        self.view = VIEWS[(VIEWS.index(self.view) + step) % len(VIEWS)]
        self.refresh_all()

    def _figures(self) -> list[Figure]:
        data = self.session.data
        return aside(shown_figures, data) if data is not None else [figure_of("rise")]

    def action_figure(self, step: int) -> None:
        """Rank by another figure."""
        keys = [f.key for f in self._figures()]
        at = keys.index(self.session.measure_key) if self.session.measure_key in keys else 0
        self.session.measure_key = keys[(at + step) % len(keys)]
        self.refresh_all()

    def action_across(self, step: int) -> None:
        """Trade: another figure across."""
        keys = [f.key for f in self._figures()] + [PRICE.key]
        at = keys.index(self.across_key) if self.across_key in keys else 0
        self.across_key = keys[(at + step) % len(keys)]
        self.refresh_all()

    def action_table(self, name: str) -> None:
        """All loads side by side, or the standing table, in the ladder's place; or the ladder again."""
        self.table, self.view = "" if self.tabled == name else name, VIEWS[0]
        self.refresh_all()

    def on_ladder_picked(self, message: Ladder.Picked) -> None:
        """A click on a bar shows the runs behind it."""
        review, found = self.session.review, self.shown
        setup = next((s for s in review.setups if s.name == message.name), None) if review else None
        if setup is not None and found is not None and self.session.cell(setup, found.load).runs:
            self._show_runs(setup, found.load)

    @work
    async def _show_runs(self, setup: Setup, load: str) -> None:
        run = await self.app.push_screen_wait(
            CellRuns(self, setup, load, self.session.in_the_way(setup, load))
        )
        self.refresh_all()
        if run is not None:
            self.session.trace_run = run
            self.samovar.action_go("trace")

    def action_load(self) -> None:
        """Compare under another load."""
        review = self.session.review
        if review is not None and review.loads:
            loads = list(review.loads)
            at = loads.index(self.session.load) if self.session.load in loads else -1
            self.session.load = loads[(at + 1) % len(loads)]
            self.refresh_all()

    def action_rig(self) -> None:
        """The next of several rigs."""
        rigs = rigs_of(self.session.review) if self.session.review is not None else []
        if len(rigs) < 2:
            self.notify("All setups of this review are on one rig.")
            return
        at = rigs.index(self._rig) if self._rig in rigs else 0
        self._rig = rigs[(at + 1) % len(rigs)]
        self.refresh_all()

    def action_terms(self) -> None:
        """As they ran, at equal noise, at equal heat, and round again."""
        if self.shown is None or self.session.data is None:
            return
        self.terms, why = aside(next_terms, self.session.data, self.shown, self.terms)
        for words in why:
            self.notify(words)
        self.refresh_all()

    def action_move(self, step: int) -> None:
        """The level, or the heat, up or down."""
        terms = moved(self.terms, step)
        if terms is None:
            self.notify("They are compared as they ran: t chooses equal noise or equal heat.")
            return
        self.terms = terms
        self.refresh_all()

    @work
    async def action_lines(self, of: str) -> None:
        """Choose the criteria, or enter figures from elsewhere, on the sheet of lines."""
        review = self.session.review
        if review is not None and await ask_lines(self, review, of):
            self.view = VIEWS[1] if of == "criteria" else VIEWS[0]
            self.session.reload()
            self.refresh_all()

    def action_writeup(self) -> None:
        """On to the claims."""
        self.samovar.action_go("writeup")

    @work
    async def action_export(self) -> None:
        """Ask for a folder, then write what is seen as figures and as a table."""
        if self.shown is None or self.session.review is None:
            return
        typed = await self.app.push_screen_wait(
            Ask(f"Write {self.view} as SVG, PDF and CSV into which folder?", str(Path.cwd() / "figures"))
        )
        if typed:
            self._write(Path(typed).expanduser())

    @work(thread=True)
    def _write(self, folder: Path) -> None:
        from samovar.publish.versus_files import write_view

        data, found = self.session.data, self.shown
        assert data is not None and found is not None
        try:
            written = write_view(
                self.session.archive,
                data,
                found,
                self.tabled or self.view,
                figure_of(self.across_key),
                folder,
                self.curves_shown(),
            )
        except InputError as problem:
            self.tell(self.notify, str(problem), severity="error")
            return
        self.tell(self.notify, f"{len(written)} files written into {folder}.")
