"""The Shelf: products, rigs, courses, loads and exchange rates, each with all that is known of it."""

from __future__ import annotations

from collections.abc import Awaitable, Callable
from importlib import import_module
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll

from samovar.archive.database import ArchiveError
from samovar.archive.kept import ARCHIVED, DELETED, KEPT
from samovar.core.rig import Rig
from samovar.tui.aside import aside
from samovar.tui.asking import SHOWING
from samovar.tui.screens.place import Place
from samovar.tui.shelf.plans import CoursesView, LoadsView
from samovar.tui.shelf.products import ProductsView
from samovar.tui.shelf.rates import RatesView
from samovar.tui.shelf.rigs import RigsView
from samovar.tui.shelf.view import ShelfView
from samovar.tui.widgets.plain import DataTable, Static

_LETTERS = {"p": "products", "g": "rigs", "k": "courses", "w": "loads", "e": "rates"}
_STATES = (KEPT, ARCHIVED, DELETED)


class ShelfPlace(Place):
    """A list at the left, all of one thing at the right."""

    NAME = "shelf"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("a", "add", "Add", tooltip="add one of what is shown"),
        Binding("enter", "edit", "Edit", tooltip="change what is under the cursor"),
        Binding("f", "fit", "Fit", tooltip="draw the product on its rig to scale, with every clearance"),
        Binding("c", "prices", "Prices", tooltip="type in or change the product's prices"),
        Binding("n", "notes", "Notes", tooltip="rating, quirks, faults, what is in the box, photographs"),
        Binding(
            "s", "sensors", "Sensors", tooltip="on a rig: look through its sensors' roles and confirm them"
        ),
        Binding(
            "m",
            "meters",
            "Instruments",
            tooltip="on a rig: the instruments beside it, set up from what they say",
        ),
        Binding("d", "duplicate", "Duplicate", tooltip="a second one like it, under a name of its own"),
        Binding("delete,backspace", "delete", "Delete", show=False, tooltip="delete it; z brings it back"),
        Binding("h", "hide", "Archive", show=False, tooltip="out of sight, or back on the shelf"),
        Binding(
            "v",
            "states",
            "Archived",
            show=False,
            tooltip="show what is archived, what is deleted, what is kept",
        ),
        Binding("x", "write", "Write TOML", show=False, tooltip="write it to a TOML file"),
        Binding(
            "i",
            "take",
            "Take in TOML",
            show=False,
            tooltip="take in products, rigs or a review from a TOML file",
        ),
        *(
            Binding(key, f"show('{name}')", name.capitalize(), show=False, tooltip=f"show the {name}")
            for key, name in _LETTERS.items()
        ),
    ]
    CSS = """
    #views { height: 1; padding: 0 1; margin-top: 1; }
    #shelf-body { height: 1fr; margin-top: 1; }
    #things { width: 62; height: 1fr; margin-left: 1; }
    #detail-box { width: 1fr; height: 1fr; padding: 0 1 0 2; border-left: solid $line; scrollbar-size-vertical: 1; }
    #nothing { padding: 1 2; color: $soft; display: none; }
    ShelfPlace.-empty #shelf-body { display: none; }
    ShelfPlace.-empty #nothing { display: block; }
    ShelfPlace.-narrow #things { width: 34; }
    ShelfPlace.-narrow #detail-box { padding: 0 0 0 1; }
    """

    def __init__(self) -> None:
        super().__init__()
        kinds: tuple[type[ShelfView], ...] = (ProductsView, RigsView, CoursesView, LoadsView, RatesView)
        self._views = {kind.NAME: kind(self) for kind in kinds}
        self._view: ShelfView = self._views["products"]
        self._filling = False

    def body(self) -> ComposeResult:
        """The views' names, the list and the detail, or what to do where there is nothing."""
        yield Static(id="views")
        yield Static(id="nothing")
        with Horizontal(id="shelf-body"):
            yield DataTable(id="things", cursor_type="row")
            with VerticalScroll(id="detail-box"):
                yield Static(id="detail")

    def title_line(self) -> Text:
        """What stands here."""
        state = "" if self._view.state == KEPT else f" ({self._view.state})"
        return self.trail(f"shelf: {self._view.NAME}{state}")

    def fill(self) -> None:
        """The list of the present view, the cursor where it was."""
        table = self.query_one("#things", DataTable)
        # Cells as narrow as need be: the detail has everything anyway.
        shown = min(2, len(self._view.COLUMNS)) if self.narrow else len(self._view.COLUMNS)
        here, rows, views = self._key(), self._view.rows(), self._view_line()
        self._filling = True
        table.clear(columns=True)
        table.add_columns(*self._view.COLUMNS[:shown])
        for key, cells in rows:
            table.add_row(*cells[:shown], key=str(key))
        keys = [key for key, _ in rows]
        if here in keys:
            table.move_cursor(row=keys.index(here))
        self._filling = False
        self.query_one("#views", Static).update(views)
        self.set_class(not rows, "-empty")
        self.query_one("#nothing", Static).update(self._nothing())
        if rows:
            self._show_detail()
            if self.focused is None or self.focused is not table:
                table.focus()

    def _nothing(self) -> Text:
        view = self._view
        if view.state != KEPT:
            return Text(f"Nothing is {view.state} here: v goes on to the next.", self.palette.soft)
        text = Text(view.EMPTY, self.palette.soft)
        if isinstance(view, LoadsView):
            view.program_loads(text)
        return text

    def _view_line(self) -> Text:
        palette = self.palette
        text = Text(no_wrap=True)
        for letter, name in _LETTERS.items():
            here = self._views[name] is self._view
            style = f"bold {palette.on_brass} on {palette.brass}" if here else palette.text
            text.append(f" {letter} ", f"bold {palette.brass}" if not here else style)
            text.append(f"{name} {self._views[name].count()} ", style)
            text.append("  ")
        return text

    def _key(self) -> int | None:
        table = self.query_one("#things", DataTable)
        if table.row_count == 0:
            return None
        return int(table.coordinate_to_cell_key(table.cursor_coordinate).row_key.value or 0)

    def on_data_table_row_highlighted(self, message: DataTable.RowHighlighted) -> None:
        """The detail follows the cursor."""
        if not self._filling:
            self.soon(self._show_detail, group=SHOWING, exclusive=True)

    def on_data_table_row_selected(self, message: DataTable.RowSelected) -> None:
        """Enter changes it."""
        if not self.session.guest:
            self.action_edit()

    def _show_detail(self) -> None:
        key = self._key()
        if key is not None:
            self.query_one("#detail", Static).update(self._view.detail(key))
            self.query_one("#detail-box", VerticalScroll).scroll_home(animate=False)

    def action_show(self, name: str) -> None:
        """Another view."""
        self._view = self._views[name]
        self.refresh_all()

    def action_states(self) -> None:
        """Kept, archived, deleted, and around."""
        self._view.state = _STATES[(_STATES.index(self._view.state) + 1) % len(_STATES)]
        self.refresh_all()
        self.notify(f"Shown: {self._view.NAME} that are {self._view.state}.")

    @work
    async def action_add(self) -> None:
        """Add one, and put the cursor on it."""
        self._view.state = KEPT
        key = await self._view.add()
        if key is not None:
            self.session.reload()
            self.refresh_all()
            self._go_to(key)

    def show_product(self, key: int) -> None:
        """Go to a product that was looked for."""
        self._view = self._views["products"]
        self._view.state = KEPT
        self.refresh_all()
        self._go_to(key)

    def _go_to(self, key: int) -> None:
        table = self.query_one("#things", DataTable)
        keys = [k for k, _ in self._view.rows()]
        if key in keys:
            table.move_cursor(row=keys.index(key))

    @work
    async def action_edit(self) -> None:
        """Change what is under the cursor."""
        await self._with_key(self._view.edit)

    async def _with_key(self, act: object) -> None:
        key = self._key()
        if key is None:
            self.notify(f"There is no {self._view.ONE} here yet: a adds one.", severity="warning")
            return
        await act(key)  # type: ignore[operator]
        self.session.reload()
        self.refresh_all()

    @work
    async def action_prices(self) -> None:
        """The product's prices."""
        if isinstance(self._view, ProductsView):
            await self._with_key(self._view.prices)

    @work
    async def action_notes(self) -> None:
        """What was found while handling it."""
        if isinstance(self._view, ProductsView):
            await self._with_key(self._view.notes)

    @work
    async def action_sensors(self) -> None:
        """Roles of the rig's sensors."""

        async def look_through(view: RigsView, rig: Rig) -> None:
            await view.sensors(rig.id, aside(self.session.equipment.probe, rig))

        await self._with_rig(look_through, "Sensors belong to a rig")

    @work
    async def action_meters(self) -> None:
        """Instruments beside the rig."""

        async def ask(view: RigsView, rig: Rig) -> None:
            await aside(import_module, "samovar.tui.shelf.meters").ask_instruments(view, rig)

        await self._with_rig(ask, "Instruments stand beside a rig")

    async def _with_rig(self, act: Callable[[RigsView, Rig], Awaitable[None]], words: str) -> None:
        """Do something with the rig under the cursor; where there is none, `words` say whose it is."""
        view, key = self._view, self._key()
        rig = None if key is None or not isinstance(view, RigsView) else self.session.archive.shelf.rig(key)
        if not isinstance(view, RigsView) or rig is None:
            self.notify(f"{words}: g shows the rigs.", severity="warning")
            return
        await act(view, rig)
        self.session.reload()
        self.refresh_all()

    def action_fit(self) -> None:
        """The product on its rig, drawn."""
        from samovar.tui.screens.fit import FitScreen

        view, key = self._view, self._key()
        if not isinstance(view, ProductsView) or key is None:
            self.notify("The fit is a product's: p shows the products.", severity="warning")
            return
        rigs = self.session.archive.shelf.rigs()
        if not rigs:
            self.notify("No rig to fit it on yet: g shows the rigs, a adds one.", severity="warning")
            return
        product = view.product(key)
        usual = view.rig(product)
        first = next((k for k, r in enumerate(rigs) if usual is not None and r.id == usual.id), 0)
        self.app.push_screen(FitScreen(product, rigs, first))

    def action_duplicate(self) -> None:
        """A second one like it."""
        key = self._key()
        new = self._view.duplicate(key) if key is not None else None
        if new is not None:
            self.refresh_all()
            self._go_to(new)
            self.notify(f"{self._view.name_of(new)}: Enter changes it.")

    def action_delete(self) -> None:
        """Delete it; what is in use is not."""
        self._put(KEPT if self._view.state == DELETED else DELETED)

    def action_hide(self) -> None:
        """Out of sight, or back."""
        self._put(ARCHIVED if self._view.state == KEPT else KEPT)

    def _put(self, state: str) -> None:
        key = self._key()
        if key is None:
            return
        try:
            words = self._view.put(key, state)
        except ArchiveError as problem:
            self.notify(str(problem), severity="warning")
            return
        self.session.reload()
        self.refresh_all()
        self.notify(words)

    @work
    async def action_write(self) -> None:
        """What is under the cursor, or the whole shelf, as TOML."""
        from samovar.tui.frame_files import write_from_shelf

        await write_from_shelf(self, self._view.NAME, self._key())

    @work
    async def action_take(self) -> None:
        """Take in a TOML file."""
        from samovar.tui.frame_files import take_in

        if await take_in(self):
            self.refresh_all()
