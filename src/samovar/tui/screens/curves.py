"""Curves of several setups on one axis: which channel is drawn, and the cursor on them."""

from __future__ import annotations

from typing import ClassVar

from textual import work
from textual.binding import Binding, BindingType

from samovar.core.envelope import Envelope
from samovar.core.overlay import Curve, Overlay, overlay
from samovar.core.quantity import QUANTITIES
from samovar.tui.screens.place import Place
from samovar.tui.sheets.choose import Choose
from samovar.tui.widgets.strip_plan import StripSpec
from samovar.tui.widgets.strips import StripStack, StripView

TITLE_MOST = 18
"""Characters that a strip's gutter has for its title."""
OF_SUBJECT = "what the review is about"


class Curves(Place):
    """The part of Versus that draws the latest run of each setup in a strip named `overlay`."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("c", "channel", "Channel", show=False, tooltip="which channel's curves are drawn"),
        Binding("left", "cursor(-1)", "Cursor", show=False, tooltip="cursor back on the curves"),
        Binding("right", "cursor(1)", "Cursor", show=False, tooltip="cursor on the curves; shift goes ten"),
        Binding("shift+left", "cursor(-10)", "Cursor", show=False, tooltip="cursor ten columns back"),
        Binding("shift+right", "cursor(10)", "Cursor", show=False, tooltip="cursor ten columns on"),
        Binding("escape", "no_cursor", "No cursor", show=False, tooltip="take the cursor away"),
    ]

    def __init__(self) -> None:
        super().__init__()
        self._overlay: Overlay | None = None
        self._overlay_of: tuple[object, ...] = ()
        self._cursor: float | None = None
        self._channel: str | None = None
        self._load, self._rig_shown = "", ""

    def curves_shown(self) -> Overlay | None:
        """The curves as they are drawn; None without any."""
        return self._overlay

    def setup_colours(self) -> dict[str, str]:
        """One colour a setup, the same in every view; a product over several setups has the first one's."""
        review = self.session.review
        if review is None:
            return {}
        series = self.palette.series
        own = {s.name: series[k % len(series)] for k, s in enumerate(review.setups)}
        joined = {
            " + ".join(p.name for p in s.products): own[s.name] for s in reversed(review.setups) if s.products
        }
        return {**joined, **own}

    def show_curves(self, load: str, rig: str) -> None:
        """Draw those of one rig; read them first where something has changed."""
        data = self.session.data
        if data is None:
            return
        self._load, self._rig_shown = load, rig
        cells = data.under(load)
        wanted = (
            data.review.id,
            load,
            rig,
            self._channel,
            tuple(r.run for results in cells.values() for r in results),
        )
        if wanted != self._overlay_of:
            self._overlay_of = wanted
            self.query_one("#overlay", StripStack).show(StripView(empty="reading the runs …"), None)
            self._read_overlay(load, rig, self._channel)
        else:
            self._draw_overlay()

    @work(thread=True, exclusive=True, group="overlay")
    def _read_overlay(self, load: str, rig: str, channel: str | None) -> None:
        data, runs = self.session.data, self.session.archive.runs
        latest = data.latest(load) if data is not None else []
        found = [
            Curve(
                setup.name,
                runs.recording(run.number),
                x.reading,
                channel or (data.curve_channel(x) if data else None),
            )
            for setup, run, x in latest
            if setup.rig_name == rig
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

    @work
    async def action_channel(self) -> None:
        """Choose which channel's curves are drawn."""
        data = self.session.data
        if data is None:
            return
        names: dict[str, tuple[str, str]] = {OF_SUBJECT: (OF_SUBJECT, data.subject.label)}
        for _, _, result in data.latest(self._load):
            for channel in result.reading.channels:
                if QUANTITIES[channel.quantity].averaged:
                    names.setdefault(channel.name, (channel.name, f"{channel.quantity}, {channel.unit}"))
        chosen = await self.app.push_screen_wait(Choose("Which channel's curves?", list(names.values())))
        if chosen is not None:
            self._channel = None if chosen == OF_SUBJECT else chosen
            self.show_curves(self._load, self._rig_shown)

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
