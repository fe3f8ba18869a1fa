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


SETTLES_S = 0.3
"""So long after its last row a table's columns must be as wide as their cells."""
LOOKED_AT = 60
"""Rows on a screen: by these it is told."""


class DataTable(TextualTable[Any]):
    """Cells as they stand, in columns as wide as they need: where a machine is busy, Textual's own widening may not come."""

    _settling = False

    def add_row(self, *cells: Any, **named: Any) -> RowKey:
        """A row of text, styled or not."""
        key = super().add_row(*(Text(c) if isinstance(c, str) else c for c in cells), **named)
        if not self._settling and self.is_running:
            self._settling = True
            self.set_timer(SETTLES_S, self.settle)
        return key

    def settle(self) -> None:
        """Widen columns that are narrower than what stands in them."""
        self._settling = False
        rows = list(self.rows)[:LOOKED_AT]
        for key in rows:
            cells = self.get_row(key)
            for column, cell in zip(self.ordered_columns, cells, strict=False):
                if column.auto_width and isinstance(cell, Text) and column.content_width < cell.cell_len:
                    self._update_dimensions(self.rows)
                    self._clear_caches()
                    self.refresh(layout=True)
                    return
