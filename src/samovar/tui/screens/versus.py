"""Versus: the setups held against each other under one load, in four views of one choice."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll

from samovar.archive.before_after import steps_on
from samovar.archive.deciding import decided_on
from samovar.archive.review_data import shown_figures
from samovar.archive.rig_comparison import RigComparison, compare_on, noise_curves_on, rigs_of
from samovar.archive.versus_views import criteria_on, trade_on
from samovar.core.compare.terms import AS_THEY_RAN, Terms, noise_range
from samovar.core.demands import decision_words
from samovar.core.results.figure import PRICE, Figure, figure_of
from samovar.exchange.problems import InputError
from samovar.tui.screens.curves import Curves
from samovar.tui.sheets.ask import Ask
from samovar.tui.widgets.criteria_table import criteria_text
from samovar.tui.widgets.ladder import Ladder
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.strips import StripStack
from samovar.tui.widgets.trade_plot import TradePlot

RAIL = 17
"""Cells that the rail takes."""
_AUDIT_MARK = {"same": "=", "corrected": "≈", "caution": "▲"}
VIEWS = ("ladder", "criteria", "trade", "overlay")
NOISE_STEP_DBA, HEAT_STEP_W = 0.5, 5.0
"""What one press of an arrow moves the terms by."""


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
        Binding("t", "terms", "Terms", tooltip="as they ran, at equal noise, at equal heat"),
        Binding(
            "up",
            "move(1)",
            "Level",
            key_display="↑ ↓",
            show=False,
            tooltip="at equal noise or heat: the level up or down",
        ),
        Binding("down", "move(-1)", "", show=False),
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
    """

    def __init__(self) -> None:
        super().__init__()
        self.view = VIEWS[0]
        self.terms = AS_THEY_RAN
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

    def title_line(self) -> Text:
        """The question."""
        return self.question_line()

    def fill(self) -> None:
        """The view that is seen, now; the curves when they are read."""
        session = self.session
        review, data = session.review, session.data
        if review is None or data is None or not review.loads:
            self.query_one("#choice", Static).update("Nothing to compare. Choose a review on the Desk (0).")
            return
        if self._review != review.id:
            self._review, self._rig, self.terms = review.id, None, AS_THEY_RAN
        load = session.load or review.loads[-1]
        figure = figure_of(session.measure_key)
        try:
            found = compare_on(data, load, figure, self._rig, self.terms)
        except ValueError as problem:
            # Another figure was chosen, which means nothing under these terms.
            self.notify(f"{self.terms.words}: {problem}.", severity="warning")
            self.terms = AS_THEY_RAN
            found = compare_on(data, load, figure, self._rig)
        self.shown = found
        for view in VIEWS:
            self.set_class(view == self.view, f"-{view}")
        self.query_one("#choice", Static).update(self._choice_line(found))
        self._shape(found)

    def _shape(self, found: RigComparison) -> None:
        """Fill the view that is seen."""
        fill = {"criteria": self._fill_criteria, "trade": self._fill_trade}.get(self.view, self._fill_ladder)
        fill(found)
        if self.view in ("ladder", "overlay"):
            self.show_curves(found.load)

    def on_resize(self) -> None:
        """The table of criteria takes what width there is."""
        super().on_resize()
        if self.shown is not None and self.view == "criteria":
            self._fill_criteria(self.shown)

    def _choice_line(self, found: RigComparison) -> Text:
        """What is compared, by what, on which terms: the same above every view."""
        palette, text = self.palette, Text(no_wrap=True, overflow="ellipsis")
        text.append(f"{self.view}", f"bold {palette.text}")
        if self.view in ("ladder", "trade"):
            text.append("  by ", palette.soft)
            text.append(found.figure.label, f"bold {palette.brass}")
        if self.view == "trade":
            text.append(" over ", palette.soft)
            text.append(figure_of(self.across_key).label, f"bold {palette.brass}")
        text.append("  under ", palette.soft)
        text.append(found.load, f"bold {palette.brass}")
        text.append("  ", palette.soft)
        text.append(found.terms.words, f"bold {palette.brass}")
        if len(rigs_of(self.session.review)) > 1 if self.session.review else False:
            text.append("  on ", palette.soft)
            text.append(found.rig, f"bold {palette.brass}")
        if not self.narrow and self.view in ("ladder", "trade"):
            hint = (
                "↑ ↓ move it"
                if found.terms != AS_THEY_RAN
                else f"{'less' if found.figure.lower_is_better else 'more'} is better"
            )
            text.append(f"   {hint}", palette.soft)
        return text

    def _fill_ladder(self, found: RigComparison) -> None:
        review, palette = self.session.review, self.palette
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
        text = Text()
        text.append("like for like?\n", f"bold {palette.brass}")
        for item in found.audit:
            colour = palette.caution if item.level == "caution" else palette.good
            text.append(f"{_AUDIT_MARK[item.level]} ", f"bold {colour}")
            text.append(f"{item.text}\n", palette.text if item.level == "caution" else palette.soft)
        self.query_one("#audit", Static).update(text)

    def _fill_criteria(self, found: RigComparison) -> None:
        data, review = self.session.data, self.session.review
        assert data is not None and review is not None
        rows = criteria_on(data, found.load, found.rig)
        names = [s.name for s in review.setups if s.rig_name == found.rig]
        # Before it is first seen the box has no width yet: that of the window, less the rail, is near enough.
        width = (self.query_one("#criteria-box").size.width or self.size.width - RAIL) - 3
        text = Text()
        decided = decided_on(data, found.rig)
        if decided is not None:
            text.append(
                f"{decision_words(decided.decision, decided.demands)}\n\n", f"bold {self.palette.brass}"
            )
        text.append_text(criteria_text(self.palette, rows, names, self.setup_colours(), width))
        steps = steps_on(data, found.load, found.rig)
        if steps:
            text.append("\nstep by step\n", f"bold {self.palette.brass}")
            for step in steps:
                text.append(f"{step.words()}\n", self.palette.text)
        self.query_one("#criteria", Static).update(text)

    def _fill_trade(self, found: RigComparison) -> None:
        data, review = self.session.data, self.session.review
        assert data is not None and review is not None
        across = figure_of(self.across_key)
        limit = review.noise_limit_dba if across.quantity == "noise" else None
        self.query_one(TradePlot).show(
            trade_on(data, found, across),
            self.setup_colours(),
            limit,
            f"No setup has both {found.figure.label} and {across.label} under {found.load}: f chooses another figure, x another across.",
        )

    def action_view(self, step: int) -> None:
        """Another view of the same choice."""
        self.view = VIEWS[(VIEWS.index(self.view) + step) % len(VIEWS)]
        self.refresh_all()

    def _figures(self) -> list[Figure]:
        data = self.session.data
        return shown_figures(data) if data is not None else [figure_of("rise")]

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
        found, data = self.shown, self.session.data
        if found is None or data is None:
            return
        if self.terms == AS_THEY_RAN:
            levels = noise_range(noise_curves_on(data, found.load, found.figure, found.rig))
            if levels is not None and found.figure.quantity != "noise":
                limit = self.session.review.noise_limit_dba if self.session.review else None
                middle = round(sum(levels) / 2.0 / NOISE_STEP_DBA) * NOISE_STEP_DBA
                inside = limit is not None and levels[0] <= limit <= levels[1]
                self.terms = Terms(noise_dba=limit if inside else middle)
                self.refresh_all()
                return
            self.notify(
                "At equal noise: no setup has three fan speeds with a level read in each. A course in steps gives them "
                "(4 Shelf, courses), or three setups of one product at fixed fans."
                if levels is None
                else "At equal noise every level is the same: f chooses another figure."
            )
        if self.terms.heat_w is None:
            watts = [
                r.figure.value
                for r in compare_on(data, found.load, figure_of("power"), found.rig).ladder.rungs
            ]
            if watts and found.figure.key == "rise":
                self.terms = Terms(heat_w=round(sum(watts) / len(watts) / HEAT_STEP_W) * HEAT_STEP_W)
                self.refresh_all()
                return
            self.notify(
                "At equal heat the resistance tells the rise of the die: f chooses the rise, and a power is needed."
            )
        self.terms = AS_THEY_RAN
        self.refresh_all()

    def action_move(self, step: int) -> None:
        """The level, or the heat, up or down."""
        if self.terms.noise_dba is not None:
            self.terms = replace(self.terms, noise_dba=max(0.0, self.terms.noise_dba + step * NOISE_STEP_DBA))
        elif self.terms.heat_w is not None:
            self.terms = replace(self.terms, heat_w=max(HEAT_STEP_W, self.terms.heat_w + step * HEAT_STEP_W))
        else:
            self.notify("They are compared as they ran: t chooses equal noise or equal heat.")
            return
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
                self.view,
                figure_of(self.across_key),
                folder,
                self.curves_shown(),
            )
        except InputError as problem:
            self.tell(self.notify, str(problem), severity="error")
            return
        self.tell(self.notify, f"{len(written)} files written into {folder}.")
