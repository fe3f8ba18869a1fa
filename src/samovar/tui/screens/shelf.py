"""The Shelf: the products of the review, with what their makers claim."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import BindingType
from textual.widgets import DataTable, Static

from samovar.core.compare import joined
from samovar.tui.screens.place import Place

_UNITS = {"mm": "mm", "kg": "kg", "w": "W", "dba": "dBA"}


class ShelfPlace(Place):
    """Products, their specifications beside what was measured, and their prices."""

    NAME = "shelf"
    BINDINGS: ClassVar[list[BindingType]] = []
    CSS = "#products { height: 1fr; margin: 1 1; } ShelfPlace #question { padding: 0 1; color: $soft; height: 2; }"

    def body(self) -> ComposeResult:
        """One table."""
        yield DataTable(id="products", cursor_type="row")
        yield Static(id="question")

    def on_mount(self) -> None:
        """Columns once."""
        table = self.query_one("#products", DataTable)
        table.add_columns(
            "product",
            "kind",
            "size",
            "mass",
            "rated heat",
            "headroom found",
            "rated noise",
            "noise read",
            "price",
        )
        table.focus()

    def title_line(self) -> Text:
        """Which review's products these are."""
        return self.trail("products and what their makers claim")

    def fill(self) -> None:
        """A row for each product fitted in the review."""
        session = self.session
        table = self.query_one("#products", DataTable)
        table.clear()
        if session.review is None or session.data is None:
            self.query_one("#question", Static).update("No review is open: choose one on the Desk (0).")
            return
        load = session.review.loads[-1] if session.review.loads else ""
        for setup in session.review.setups:
            results = [r for r in session.cell(setup, load).results if r.finished]
            heads = [
                r.reading.thermal.headroom_w
                for r in results
                if r.reading.thermal and r.reading.thermal.headroom_w
            ]
            noise = joined([r.noise for r in results if r.noise is not None])
            for product in setup.products:
                spec = product.specification
                table.add_row(
                    Text(product.name, f"bold {self.palette.text}"),
                    product.kind,
                    _with_unit(spec, "height_mm", "radiator_mm"),
                    _with_unit(spec, "mass_kg"),
                    _with_unit(spec, "rated_heat_w"),
                    f"{sum(heads) / len(heads):.0f} W" if heads else "not known",
                    _with_unit(spec, "rated_noise_dba"),
                    noise.text("dBA", finest=1) if noise else "not known",
                    f"{product.price:.2f} {product.currency}" if product.price else "in the box",
                )
        self.query_one("#question", Static).update(
            f"Headroom and noise as measured under {load}: the heat that would bring the die to its limit in this room."
        )


def _with_unit(specification: dict[str, object], *keys: str) -> str:
    for key in keys:
        value = specification.get(key)
        if value is not None:
            return f"{value} {_UNITS.get(key.rsplit('_', 1)[-1], '')}".strip()
    return "not known"
