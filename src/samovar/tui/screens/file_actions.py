"""What comes from files and goes to them: logs brought in, reviews written and taken in as TOML."""

from __future__ import annotations

from importlib import import_module
from typing import ClassVar

from textual import work
from textual.binding import Binding, BindingType

from samovar.tui.aside import aside
from samovar.tui.screens.place import Place


class FileActions(Place):
    """The part of the Desk that deals with files."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding(
            "b",
            "bring",
            "Bring in",
            tooltip="bring in a log of any maker, as text or Parquet, or a recording of sound",
        ),
        Binding("x", "write", "Write TOML", show=False, tooltip="write the review to a TOML file"),
        Binding(
            "i", "take", "Take in TOML", show=False, tooltip="take in a review, or a shelf, from a TOML file"
        ),
    ]

    def review_under_cursor(self) -> None:
        """Take the review under the cursor in hand, if there is one."""
        raise NotImplementedError

    @work
    async def action_bring(self) -> None:
        """Bring in a log, and read it in Trace."""
        # What reads logs is large: it is imported aside.
        number = await aside(import_module, "samovar.tui.bring_log").bring_in(self)
        if number is not None:
            self.session.reload()
            self.session.trace_run = number
            self.samovar.action_go("trace")

    @work
    async def action_write(self) -> None:
        """The review under the cursor as TOML."""
        from samovar.tui.frame_files import write_review

        self.review_under_cursor()
        await write_review(self)

    @work
    async def action_take(self) -> None:
        """Take in a TOML file."""
        from samovar.tui.frame_files import take_in

        if await take_in(self):
            self.refresh_all()
