"""Widgets that show what they are given to the letter: names hold brackets, and none of them is markup."""

from __future__ import annotations

from typing import Any

from rich.text import Text
from textual.widgets import DataTable as TextualTable
from textual.widgets import Static as TextualStatic
from textual.widgets.data_table import RowKey


class Static(TextualStatic):
    """Text as it stands."""

    def __init__(self, content: Any = "", *, markup: bool = False, **named: Any) -> None:
        super().__init__(content, markup=markup, **named)


class DataTable(TextualTable[Any]):
    """Cells as they stand."""

    def add_row(self, *cells: Any, **named: Any) -> RowKey:
        """A row of text, styled or not."""
        return super().add_row(*(Text(c) if isinstance(c, str) else c for c in cells), **named)
