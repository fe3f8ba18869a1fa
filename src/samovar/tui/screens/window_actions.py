"""Looking closer while a run goes on: zoom, pan, and which channels are drawn."""

from __future__ import annotations

from typing import ClassVar

from textual import work
from textual.binding import Binding, BindingType

from samovar.core.quantity import Channel
from samovar.core.rig import Rig
from samovar.tui.live_window import LiveWindow
from samovar.tui.run_strips import whole_end
from samovar.tui.screens.hand_actions import HandActions
from samovar.tui.sheets.channels import ChannelsSheet


class WindowActions(HandActions):
    """The part of the Bench that says what of the run is in sight. Its place redraws with `tick`."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding(
            "v", "channels", "Channels", show=False, tooltip="which channels are drawn, and cores as one band"
        ),
        Binding(
            "plus,equals_sign",
            "zoom(0.5)",
            "Zoom",
            key_display="+ −",
            show=False,
            tooltip="nearer; the newest stays in sight",
        ),
        Binding("minus", "zoom(2)", "Wider", show=False, tooltip="wider, up to the whole run"),
        Binding("left", "pan(-1)", "Back", show=False, tooltip="zoomed: look back"),
        Binding("right", "pan(1)", "On", show=False, tooltip="zoomed: on, to the newest sample"),
        Binding("a", "whole", "All", show=False, tooltip="the whole run again"),
    ]

    def __init__(self) -> None:
        super().__init__()
        self.window_shown = LiveWindow()

    def tick(self) -> None:
        """Draw anew."""
        raise NotImplementedError

    def drawn_channels(self) -> tuple[Channel, ...]:
        """The channels of the run under way with their bands; none without a run."""
        raise NotImplementedError

    def channels_changed(self) -> None:
        """Another choice of channels holds from now on."""
        raise NotImplementedError

    def rig(self) -> Rig | None:
        """The rig of the run under way; None in the inbox."""
        return self.live.setup.rig if self.live is not None and self.live.setup is not None else None

    def _spans(self) -> tuple[float, float]:
        """How long the run is, and where its whole axis ends."""
        elapsed = 0.0
        if self.live is not None and len(self.live.arrays()[0]):
            elapsed = float(self.live.arrays()[0][-1])
        return elapsed, whole_end(elapsed)

    def action_zoom(self, factor: float) -> None:
        """Nearer or wider."""
        self.window_shown.zoom(factor, *self._spans())
        self.tick()

    def action_pan(self, direction: int) -> None:
        """Back, or on."""
        self.window_shown.pan(direction, *self._spans())
        self.tick()

    def action_whole(self) -> None:
        """The whole run."""
        self.window_shown.all()
        self.tick()

    @work
    async def action_channels(self) -> None:
        """Choose what is drawn; the choice is the rig's."""
        channels = self.drawn_channels()
        if not channels:
            self.notify(
                "The channels of a run can be chosen while it is recorded: press r.", severity="warning"
            )
            return
        rig = self.rig()
        view = await self.app.push_screen_wait(ChannelsSheet(channels, self.session.channel_view(rig)))
        if view is not None:
            self.session.keep_channel_view(rig, view)
            self.channels_changed()
