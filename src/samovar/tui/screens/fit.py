"""The fit check: a product on a rig, drawn to scale, every clearance with its margin."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen

from samovar.core.elevation import elevation
from samovar.core.fit import check_fit, summary
from samovar.core.product import Product
from samovar.core.rig import Rig
from samovar.exchange.problems import InputError
from samovar.tui.sheets.ask import Ask
from samovar.tui.theme import palette_of
from samovar.tui.widgets.elevation_scale import FIT_COLOUR
from samovar.tui.widgets.elevation_view import ElevationView
from samovar.tui.widgets.plain import Static


class FitScreen(ModalScreen[None]):
    """The whole window: title, drawing, checks."""

    CSS = """
    FitScreen { background: $background; }
    FitScreen > Vertical { height: 1fr; padding: 0 1; }
    FitScreen #fit-title { height: 1; }
    FitScreen #fit-items { height: auto; margin-top: 1; }
    FitScreen #fit-foot { height: 1; color: $soft; background: $raised; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape,q,f", "leave", "Back", tooltip="back to the Shelf"),
        Binding("r", "rig", "Other rig", tooltip="the same product on the next rig"),
        Binding("s", "save", "Save", tooltip="write the drawing as SVG and PDF"),
    ]

    def __init__(self, product: Product, rigs: Sequence[Rig], first: int = 0) -> None:
        super().__init__()
        self._product, self._rigs, self._at = product, list(rigs), first

    def compose(self) -> ComposeResult:
        """Title, drawing, checks, keys."""
        with Vertical():
            yield Static(id="fit-title")
            yield ElevationView()
            yield Static(id="fit-items")
            yield Static(id="fit-foot")

    def on_mount(self) -> None:
        """Show the first rig."""
        self._show()

    def _show(self) -> None:
        palette = palette_of(self.app.theme)
        rig = self._rigs[self._at]
        items = check_fit(self._product, rig.details)
        title = Text(no_wrap=True, overflow="ellipsis")
        title.append(self._product.name, f"bold {palette.text}")
        title.append(" on ", palette.soft)
        title.append(rig.name, f"bold {palette.text}")
        title.append(f"   {summary(items)}", palette.brass)
        self.query_one("#fit-title", Static).update(title)
        self.query_one(ElevationView).show(elevation(self._product, rig.details))
        text = Text()
        for item in items:
            text.append(f"{item.name:<24}", palette.soft)
            text.append(f"{item.state:<14}", f"bold {getattr(palette, FIT_COLOUR[item.state])}")
            text.append(f"{item.words}\n", palette.text)
        if items:
            text.append(
                "All in mm. Coolers and panel from the processor's lid, memory from the board; checkered: size not known.",
                palette.soft,
            )
        self.query_one("#fit-items", Static).update(text)
        other = f"   r other rig ({self._at + 1} of {len(self._rigs)})" if len(self._rigs) > 1 else ""
        self.query_one("#fit-foot", Static).update(f" Esc back{other}   s save as SVG and PDF")

    def action_rig(self) -> None:
        """The next rig."""
        self._at = (self._at + 1) % len(self._rigs)
        self._show()

    @work
    async def action_save(self) -> None:
        """Write SVG and PDF."""
        drawing = elevation(self._product, self._rigs[self._at].details)
        if drawing is None:
            self.notify("There is nothing to draw.", severity="warning")
            return
        usual = re.sub(r"[^a-z0-9]+", "-", f"fit {self._product.name}".lower()).strip("-") + ".svg"
        typed = await self.app.push_screen_wait(
            Ask("Write the drawing to which file? The PDF goes beside it.", usual)
        )
        if not typed:
            return
        path = Path(typed).expanduser()

        def write() -> None:
            from samovar.figures.elevation_chart import elevation_chart
            from samovar.figures.write import write_figure

            figure = elevation_chart(drawing, self._rigs[self._at].name)
            for ending in (".svg", ".pdf"):
                write_figure(figure, path.with_suffix(ending))

        try:
            await self.run_worker(write, thread=True).wait()
        except Exception as problem:
            cause = problem.__cause__ or getattr(problem, "error", problem)
            self.notify(str(cause if isinstance(cause, InputError) else problem), severity="error")
            return
        self.notify(f"Written: {path.with_suffix('.svg')} and {path.with_suffix('.pdf')}")

    def action_leave(self) -> None:
        """Back to the Shelf."""
        self.dismiss(None)
