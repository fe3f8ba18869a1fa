"""A table that is only looked at: it never takes the keys."""

from __future__ import annotations

from typing import Any

from textual.widgets import DataTable


class QuietTable(DataTable[Any], can_focus=False):
    """A table without cursor or focus, so that its place's own keys go on working."""

    def __init__(self, id: str) -> None:
        super().__init__(id=id, cursor_type="none")
