"""A table that is only looked at: it never takes the keys."""

from __future__ import annotations

from samovar.tui.widgets.plain import DataTable


class QuietTable(DataTable, can_focus=False):
    """A table without cursor or focus, so that its place's own keys go on working."""

    def __init__(self, id: str) -> None:
        super().__init__(id=id, cursor_type="none")
