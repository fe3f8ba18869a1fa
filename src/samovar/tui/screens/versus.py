"""Versus: the setups held against each other under one load."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll

from samovar.archive.review_data import shown_figures
from samovar.archive.rig_comparison import compare_on
from samovar.core.envelope import Envelope
from samovar.core.overlay import Curve, Overlay, overlay
from samovar.core.results.figure import figure_of
from samovar.exchange.problems import InputError
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.widgets.ladder import Ladder
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.strip_plan import StripSpec
from samovar.tui.widgets.strips import StripStack, StripView

TITLE_MOST = 18
"""Characters that a strip's gutter has for its title."""
_AUDIT_MARK = {"same": "=", "corrected": "≈", "caution": "▲"}


class VersusPlace(Place):
    """Ladder, audit, overlay."""

    NAME = "versus"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("f", "figure(1)", "Next figure", tooltip="rank by the next figure"),
        Binding("F", "figure(-1)", "Figure before", show=False, tooltip="rank by the figure before"),
        Binding("l", "load", "Other load", tooltip="compare under another load"),
        Binding("left", "cursor(-1)", "Cursor", show=False, tooltip="cursor back on the curves"),
        Binding("right", "cursor(1)", "Cursor", tooltip="cursor on the curves; shift goes ten"),
        Binding("shift+left", "cursor(-10)", "Cursor", show=False, tooltip="cursor ten columns back"),
        Binding("shift+right", "cursor(10)", "Cursor", show=False, tooltip="cursor ten columns on"),
        Binding("escape", "no_cursor", "No cursor", show=False, tooltip="take the cursor away"),
        Binding("e", "export", "Export", tooltip="ladder and overlay as SVG or PDF"),
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
    """

    def __init__(self) -> None:
        super().__init__()
        self._overlay: Overlay | None = None
        self._overlay_of: tuple[object, ...] = ()
        self._cursor: float | None = None

    def body(self) -> ComposeResult:
        """Ladder and audit above, curves below."""
        yield Static(id="choice")
        with Horizontal(id="versus-top"):
            with VerticalScroll(id="ladder-box", can_focus=False):
                yield Ladder()
            with VerticalScroll(id="audit-box", can_focus=False):
                yield Static(id="audit")
        yield StripStack(id="overlay")

    def title_line(self) -> Text:
        """The question."""
        return self.question_line()

    def fill(self) -> None:
        """Ladder and audit now; the curves when they are read."""
        session, palette = self.session, self.palette
        review, data = session.review, session.data
        if review is None or data is None or not review.loads:
            self.query_one("#choice", Static).update("Nothing to compare. Choose a review on the Desk (0).")
            return
        load = session.load or review.loads[-1]
        figure = figure_of(session.measure_key)
        choice = Text()
        choice.append("ranked by ", palette.soft)
        choice.append(figure.label, f"bold {palette.brass}")
        choice.append("  under ", palette.soft)
        choice.append(load, f"bold {palette.brass}")
        if not self.narrow:
            choice.append(
                f"   {'less' if figure.lower_is_better else 'more'} is better, f and l choose others",
                palette.soft,
            )
        self.query_one("#choice", Static).update(choice)
        found = compare_on(data, load, figure)
        cells, reference, rungs = found.cells, found.reference, list(found.ladder.rungs)
        named = {r.name for r in rungs}
        without = [s.name for s in review.setups if s.name not in named]
        self.query_one(Ladder).show(rungs, figure, reference, self.setup_colours(), without)
        text = Text()
        text.append("like for like?\n", f"bold {palette.brass}")
        for item in found.audit:
            colour = palette.caution if item.level == "caution" else palette.good
            text.append(f"{_AUDIT_MARK[item.level]} ", f"bold {colour}")
            text.append(f"{item.text}\n", palette.text if item.level == "caution" else palette.soft)
        self.query_one("#audit", Static).update(text)
        wanted = (review.id, load, tuple(r.run for results in cells.values() for r in results))
        if wanted != self._overlay_of:
            self._overlay_of = wanted
            self.query_one("#overlay", StripStack).show(StripView(empty="reading the runs …"), None)
            self._read_overlay(load)
        else:
            self._draw_overlay()

    def setup_colours(self) -> dict[str, str]:
        """One colour a setup, the same in ladder and overlay."""
        review = self.session.review
        if review is None:
            return {}
        series = self.palette.series
        return {s.name: series[k % len(series)] for k, s in enumerate(review.setups)}

    @work(thread=True, exclusive=True, group="overlay")
    def _read_overlay(self, load: str) -> None:
        data, runs = self.session.data, self.session.archive.runs
        latest = data.latest(load) if data is not None else []
        found = [
            Curve(setup.name, runs.recording(run.number), x.reading, data.curve_channel(x) if data else None)
            for setup, run, x in latest
        ]
        result = overlay(found) if found else None
        self.tell(self._take_overlay, result)

    def _take_overlay(self, result: Overlay | None) -> None:
        self._overlay = result
        self._cursor = None
        self._draw_overlay()

    def _draw_overlay(self) -> None:
        strips, found = self.query_one("#overlay", StripStack), self._overlay
        if found is None:
            strips.show(
                StripView(empty="No finished run under this load yet: record one on the Bench (3)."), None
            )
            return
        colours = self.setup_colours()
        spec = StripSpec(
            found.label.capitalize() if len(found.label) <= TITLE_MOST else "Over the room",
            found.quantity,
            found.unit,
            tuple(range(len(found.names))),
            found.names,
            colours=tuple(colours[n] for n in found.names),
        )
        view = StripView(
            specs=(spec,),
            start_s=float(found.time_s[0]),
            end_s=float(found.time_s[-1]),
            cursor_s=self._cursor,
        )
        strips.show(view, Envelope(found.time_s, found.values))

    def action_figure(self, step: int) -> None:
        """Rank by another figure."""
        data = self.session.data
        keys = [f.key for f in shown_figures(data)] if data is not None else ["rise"]
        at = keys.index(self.session.measure_key) if self.session.measure_key in keys else 0
        self.session.measure_key = keys[(at + step) % len(keys)]
        self.refresh_all()

    def action_load(self) -> None:
        """Compare under another load."""
        review = self.session.review
        if review is not None and review.loads:
            loads = list(review.loads)
            at = loads.index(self.session.load) if self.session.load in loads else -1
            self.session.load = loads[(at + 1) % len(loads)]
            self.refresh_all()

    def action_cursor(self, columns: int) -> None:
        """Move the cursor on the curves."""
        if self._overlay is None:
            return
        begin, end = float(self._overlay.time_s[0]), float(self._overlay.time_s[-1])
        step = (end - begin) / self.query_one("#overlay", StripStack).plot_width
        at = (self._cursor if self._cursor is not None else 0.5 * (begin + end)) + columns * step
        self._cursor = min(max(at, begin), end)
        self._draw_overlay()

    def on_strip_stack_picked(self, message: StripStack.Picked) -> None:
        """A click sets the cursor."""
        self._cursor = message.seconds
        self._draw_overlay()

    def action_no_cursor(self) -> None:
        """Take the cursor away."""
        self._cursor = None
        self._draw_overlay()

    def action_writeup(self) -> None:
        """On to the claims."""
        self.samovar.action_go("writeup")

    @work
    async def action_export(self) -> None:
        """Ask for a folder, then write both figures in both formats."""
        if self._overlay is None or self.session.review is None:
            return
        typed = await self.app.push_screen_wait(
            Ask("Write ladder and overlay into which folder?", str(Path.cwd() / "figures"))
        )
        if typed:
            self._write(Path(typed).expanduser())

    @work(thread=True)
    def _write(self, folder: Path) -> None:
        from samovar.publish.figures import comparison_figures

        review, data = self.session.review, self.session.data
        assert review is not None and data is not None
        try:
            written = comparison_figures(
                self.session.archive,
                data,
                self.session.load or review.loads[-1],
                [self.session.measure_key],
                folder,
            )
        except InputError as problem:
            self.tell(self.notify, str(problem), severity="error")
            return
        self.tell(self.notify, f"{len(written)} files written into {folder}.")
