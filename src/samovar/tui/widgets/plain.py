"""Widgets that show what they are given to the letter: names hold brackets, and none of them is markup."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from rich.text import Text
from textual.widgets import DataTable as TextualTable
from textual.widgets import Static as TextualStatic
from textual.widgets.data_table import RowKey


class Static(TextualStatic):
    """Text as it stands."""

    def __init__(self, content: Any = "", *, markup: bool = False, **named: Any) -> None:
        super().__init__(content, markup=markup, **named)

    def update(self, content: Any = "", *, layout: bool = True) -> None:
        """Show this. What has its size from outside cannot change it: nothing need be laid out anew, which would have the
        whole screen drawn again."""
        sides = self.styles.width, self.styles.height
        has_its_size = self.is_mounted and all(side is not None and not side.is_auto for side in sides)
        super().update(content, layout=layout and not has_its_size)


class DataTable(TextualTable[Any]):
    """Cells as they stand, in columns as wide as they need."""

    def add_row(self, *cells: Any, **named: Any) -> RowKey:
        """A row of text, styled or not."""
        return super().add_row(*(Text(c) if isinstance(c, str) else c for c in cells), **named)

    def _update_dimensions(self, new_rows: Iterable[RowKey]) -> None:
        # Textual widens a column once it is idle, but keeps the lines that it drew before: on a busy machine these come
        # first, and names would stay cut.
        widths = [column.get_render_width(self) for column in self.ordered_columns]
        super()._update_dimensions(new_rows)
        if widths != [column.get_render_width(self) for column in self.ordered_columns]:
            self._clear_caches()
            self.refresh()
