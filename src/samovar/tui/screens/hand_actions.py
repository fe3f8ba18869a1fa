"""What a person does by hand while a run goes on: marks, readings, starting and ending a load elsewhere."""

from __future__ import annotations

from textual import work

from samovar.recording.live import LiveRun
from samovar.tui.aside import aside
from samovar.tui.hand_sheets import ask_change, ask_noise, ask_reading
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask


class HandActions(Place):
    """The part of the Bench that hands need."""

    @property
    def live(self) -> LiveRun | None:
        """The run under way or just finished."""
        return self.session.live

    @property
    def under_way(self) -> bool:
        """Whether a run is being recorded."""
        return self.live is not None and not self.live.sealed.is_set()

    def room_c(self) -> float | None:
        """The room now, or as typed in; None where it is not known, or nothing is recorded."""
        return self.live.room_c() if self.live is not None else None

    def action_by_hand(self) -> None:
        """The load that a person starts elsewhere runs now, or has ended."""
        live = self.live
        if live is None or not self.under_way or not live.by_hand:
            self.notify("Only a load that is started by hand needs this.", severity="warning")
        elif live.step == "load":
            live.load_over()
            self.notify("Ended: the course goes on to the cool-down.")
        else:
            live.release()
            self.notify("It runs: press g again when it has ended.")

    @work
    async def action_mark(self) -> None:
        """Note something."""
        live = self.live
        if live is None or not self.under_way:
            self.notify("Marks need a run under way: press r to record.", severity="warning")
            return
        sheet = Ask("What happened?", hint="a word or two", prepared=live.spec.marks)
        words = await self.app.push_screen_wait(sheet)
        if words:
            aside(live.note, words)

    @work
    async def action_change(self) -> None:
        """What if: other fans, or a second load, in mid-run."""
        live = self.live
        if live is None or not self.under_way or live.course is None:
            self.notify("A change in mid-run needs a run with a load: press r to record.", severity="warning")
            return
        await ask_change(self, live, self.session.loads())

    @work
    async def action_noise(self) -> None:
        """Type in a sound level."""
        await self._by_hand("noise")

    @work
    async def action_reading(self) -> None:
        """Type in a reading of another kind."""
        await self._by_hand("reading")

    async def _by_hand(self, what: str) -> None:
        live = self.live
        if live is None or not self.under_way:
            self.notify("A reading by hand needs a run under way: press r to record.", severity="warning")
        elif what == "noise":
            await ask_noise(self, live)
        else:
            await ask_reading(self, live)
