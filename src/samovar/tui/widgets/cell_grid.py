"""The Grid's cells: as many rows and columns as there is room for, the heads always in sight."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from rich.text import Text
from textual.containers import Horizontal, Vertical
from textual.events import Resize

from samovar.archive.review_data import Cell
from samovar.tui.theme import palette_of
from samovar.tui.widgets.cell_card import CardLook, CellCard
from samovar.tui.widgets.plain import Static

HEAD_COLUMNS = 19
HEAD_ROWS = 3
LEAST_WIDTH, LEAST_HEIGHT, MOST_HEIGHT = 21, 6, 10


@dataclass(frozen=True)
class GridView:
    """What is shown: heads and cells of the whole review. `cell(row, column)` gives a cell, `way(row, column)`
    what stands in its way."""

    rows: Sequence[Text]
    columns: Sequence[Text]
    cell: Callable[[int, int], Cell]
    way: Callable[[int, int], list[str]]
    wanted: int
    look: CardLook
    next: tuple[int, int] | None = None


class CellGrid(Vertical):
    """Shows a window of the cells around the cursor; only that many widgets exist, however large the review."""

    DEFAULT_CSS = f"""
    CellGrid {{ height: 1fr; padding: 0 1; }}
    CellGrid .grid-heads {{ height: 2; margin-top: 1; }}
    GridPlace.-narrow CellGrid .grid-heads {{ margin-top: 0; }}
    CellGrid .grid-head {{ width: 1fr; height: 2; padding: 0 2; }}
    CellGrid .grid-corner {{ width: {HEAD_COLUMNS}; height: 2; }}
    CellGrid .grid-name {{ width: {HEAD_COLUMNS}; height: 100%; padding: 1 1 0 0; }}
    """

    def __init__(self) -> None:
        super().__init__(id="cells")
        self._view: GridView | None = None
        self._shape = (0, 0)
        self._first = [0, 0]
        self.at = (0, 0)

    @property
    def first(self) -> tuple[int, int]:
        """The row and column at the top left."""
        return self._first[0], self._first[1]

    def show(self, view: GridView, at: tuple[int, int]) -> None:
        """Show these cells with the cursor there."""
        self._view, self.at = view, at
        self._fit()

    def move_to(self, at: tuple[int, int]) -> None:
        """Move the cursor, and the window with it."""
        self.at = at
        self._fit()

    def on_resize(self, event: Resize) -> None:
        """Another window, another number of cells."""
        self._fit()

    def _room(self) -> tuple[int, int]:
        assert self._view is not None
        width, height = max(1, self.size.width - HEAD_COLUMNS), max(1, self.size.height - HEAD_ROWS)
        rows = max(1, min(len(self._view.rows), height // LEAST_HEIGHT))
        return rows, max(1, min(len(self._view.columns), width // LEAST_WIDTH))

    def _fit(self) -> None:
        view = self._view
        if view is None or not view.rows or not view.columns or self.size.width == 0:
            return
        room = self._room()
        for axis, total in enumerate((len(view.rows), len(view.columns))):
            first = min(self._first[axis], self.at[axis])
            first = max(first, self.at[axis] - room[axis] + 1)
            self._first[axis] = max(0, min(first, total - room[axis]))
        if room != self._shape:
            self._shape = room
            self._lay_out()
        else:
            self._fill()

    def _lay_out(self) -> None:
        rows, columns = self._shape
        assert self._view is not None
        heads = Horizontal(
            Static("", classes="grid-corner"),
            *(Static("", classes="grid-head") for _ in range(columns)),
            classes="grid-heads",
        )
        lines = []
        for row in range(rows):
            cards = [CellCard(self._cell(row, column), row, column) for column in range(columns)]
            lines.append(Horizontal(Static("", classes="grid-name"), *cards, classes="grid-row"))
        with self.app.batch_update():
            self.remove_children()
            self.mount(heads, *lines)
        self.call_after_refresh(self._fill)

    def _cell(self, row: int, column: int) -> Cell:
        assert self._view is not None
        return self._view.cell(self._first[0] + row, self._first[1] + column)

    def _fill(self) -> None:
        view = self._view
        cards = list(self.query(CellCard))
        if view is None or len(cards) != self._shape[0] * self._shape[1]:
            return
        palette = palette_of(self.app.theme)
        top, left = self._first
        height = max(LEAST_HEIGHT, min(MOST_HEIGHT, (self.size.height - HEAD_ROWS) // self._shape[0]))
        for row in self.query(".grid-row"):
            row.styles.height = height
        for k, head in enumerate(self.query(".grid-head").results(Static)):
            if left + k < len(view.columns):
                head.update(view.columns[left + k])
        for k, name in enumerate(self.query(".grid-name").results(Static)):
            if top + k < len(view.rows):
                name.update(view.rows[top + k])
        self.query_one(".grid-corner", Static).update(self._where(palette.soft))
        for card in cards:
            place = (top + card.row, left + card.column)
            if place[0] >= len(view.rows) or place[1] >= len(view.columns):
                continue
            card.show(view.cell(*place), view.wanted, view.way(*place), view.look)
            card.set_class(place == self.at, "-selected")
            card.set_class(place == view.next, "-next")

    def _where(self, colour: str) -> Text:
        """Which part of a large review is in sight."""
        view = self._view
        assert view is not None
        text = Text(no_wrap=True)
        for axis, (total, word, arrows) in enumerate(
            ((len(view.rows), "setups", "▴▾"), (len(view.columns), "loads", "◂▸"))
        ):
            first, shown = self._first[axis], self._shape[axis]
            if shown < total:
                before, after = (arrows[0] if first else " "), (arrows[1] if first + shown < total else " ")
                text.append(f"{before}{after} {word} {first + 1}–{first + shown}/{total}\n", colour)
        return text

    def place_of(self, card: CellCard) -> tuple[int, int]:
        """Where a card's cell stands in the whole."""
        return self._first[0] + card.row, self._first[1] + card.column
