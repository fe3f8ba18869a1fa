"""The settle panel: where the die is heading, how far it still drifts, the guard, what is due by hand."""

from __future__ import annotations

from dataclasses import dataclass

from rich.text import Text

from samovar.bench.course_spec import clock_text
from samovar.core.measured import Measured
from samovar.figures.palette import Palette
from samovar.tui.pixels.layer import Pictured, pixels_for
from samovar.tui.pixels.picture import CellPicture
from samovar.tui.power_shares import PowerShare
from samovar.tui.theme import palette_of
from samovar.tui.widgets.raster import large
from samovar.tui.widgets.spectrum import ROWS, SpectrumView, spectrum_pixels, spectrum_text

WIDTH = 34


@dataclass(frozen=True)
class SettleView:
    """What the panel shows; None where it is not known."""

    step: str = "idle"
    rule: str = ""
    heading: Measured | None = None
    room_c: float | None = None
    drift_k_per_min: float | None = None
    drift_wanted: float = 0.05
    settled_in_s: float | None = None
    settled: bool = False
    stop_above_c: float | None = None
    unguarded: bool = False
    slow_guard: str = ""
    graphics: Measured | None = None
    die_c: float | None = None
    due: tuple[str, ...] = ()
    logging: str = ""
    problem: str | None = None
    speed: float = 1.0
    shares: tuple[PowerShare, ...] = ()
    ended: str | None = None
    spectrum: SpectrumView | None = None
    still: str = ""


class SettlePanel(Pictured):
    """A column beside the strips; a short form where the window is small."""

    DEFAULT_CSS = (
        f"SettlePanel {{ width: {WIDTH}; height: 1fr; padding: 0 1 0 2; border-left: solid $line; }}"
    )

    def __init__(self) -> None:
        super().__init__(id="settle")
        self.view = SettleView()

    def show(self, view: SettleView) -> None:
        """Show this."""
        if view != self.view:
            self.view = view
            self.refresh()

    def render(self) -> Text:
        """Headed groups of lines."""
        view, palette = self.view, palette_of(self.app.theme)
        hot = palette.quantity["temperature"]
        text = Text()
        self.pictures.show(())

        def head(words: str) -> None:
            text.append(("\n" if text.plain else "") + words + "\n", f"bold {palette.brass}")

        def line(name: str, value: str, colour: str | None = None) -> None:
            text.append(f"{name:<12}", palette.soft)
            text.append(f"{value}\n", f"bold {colour}" if colour else palette.text)

        if view.problem:
            text.append(f"{view.problem}\n", f"bold {palette.bad}")
        if view.ended is not None:
            head("did not finish")
            text.append(f"{view.ended}\n", f"bold {palette.bad}")
        head("heading for" if view.ended is None else "was heading for")
        if view.heading is None:
            text.append("not known yet\n", palette.soft)
        else:
            shown, _, width = view.heading.text("", finest=1).partition(" ±")
            for part in large(shown.strip()):
                text.append(part + "\n", f"bold {hot}")
            text.append(f"±{width.strip() or '?'} °C", hot)
            if view.room_c is not None:
                text.append(f"   {view.heading.value - view.room_c:+.1f} K over room", palette.soft)
            text.append("\n")
        if view.graphics is not None:
            line("graphics", view.graphics.text("°C", finest=1), hot)
        head(f"settling   {view.step}")
        text.append(f"{view.rule}\n", palette.soft)
        if view.drift_k_per_min is not None and view.ended is None:
            small = abs(view.drift_k_per_min) < view.drift_wanted
            line("drift", f"{view.drift_k_per_min:+.2f} K/min", palette.good if small else None)
            line("wanted", f"under {view.drift_wanted:.2f} K/min")
        if view.settled:
            line("settled", "yes", palette.good)
        elif view.settled_in_s is not None and view.ended is None:
            line("settled in", f"about {clock_text(view.settled_in_s)}")
        head("guard")
        if view.unguarded:
            text.append("none: unguarded\n", f"bold {palette.bad}")
        elif view.stop_above_c is None:
            text.append("no load, no guard\n", palette.soft)
        else:
            line("stops at", f"{view.stop_above_c:.0f} °C")
            if view.die_c is not None:
                gap = view.stop_above_c - view.die_c
                line("away", f"{gap:.1f} K", palette.good if gap > 8 else palette.bad)
            if view.slow_guard:
                text.append(f"{view.slow_guard}\n", palette.caution)
        if view.shares:
            head("shares of the power")
            for share in view.shares:
                change = "" if share.change_w is None else f" {share.change_w:+.1f}"
                text.append(f"{_short(share.name):<9}", palette.soft)
                text.append(f"{share.power_w:5.1f} W {100 * share.share:3.0f} %{change}\n", palette.text)
        if view.spectrum is not None:
            head("heard now")
            text.append_text(self._spectrum(view.spectrum, palette, text))
        if view.still:
            text.append(f"{view.still}\n", f"bold {palette.caution}")
        if view.due:
            head("by hand")
        for words in view.due:
            text.append(words + "\n", palette.text)
        head("bench")
        text.append(view.logging + "\n", palette.soft)
        if view.speed > 1.0:
            text.append(f"{view.speed:g} times as fast as life\n", palette.soft)
        return text

    def _spectrum(self, view: SpectrumView, palette: Palette, over: Text) -> Text:
        """The columns, in pixels where the terminal takes them; `over`: what stands over them."""
        pixels = pixels_for(self)
        picture = spectrum_pixels(view, palette, WIDTH - 4, pixels.cell) if pixels is not None else None
        if picture is not None:
            width, height = self.content_size
            row = len(over.wrap(self.app.console, width)) - 1
            # What the panel has no room for is not drawn.
            if row + ROWS <= height:
                left, top = self.content_corner
                self.pictures.show((CellPicture(left, top + row, *picture),))
                return spectrum_text(view, palette, WIDTH - 4, columns=False)
        return spectrum_text(view, palette, WIDTH - 4)


def _short(name: str) -> str:
    """A part's name without the word that all of them end in."""
    return name.removesuffix(" power").removesuffix(" Power").lower()[:8]


def brief_line(view: SettleView, palette: Palette, waiting: bool) -> Text:
    """The panel in one line, for a small window."""
    text = Text(no_wrap=True, overflow="ellipsis")
    if view.problem:
        text.append(f"{view.problem}  ", f"bold {palette.bad}")
    if view.still:
        text.append(f"{view.still}  ", f"bold {palette.caution}")
    if waiting:
        text.append(f"{' '.join(view.due)}  ", f"bold {palette.caution}")
    text.append("heading for ", palette.soft)
    shown = view.heading.text("°C", finest=1) if view.heading else "not known yet"
    text.append(shown, f"bold {palette.quantity['temperature']}")
    if view.drift_k_per_min is not None:
        text.append("   drift ", palette.soft)
        text.append(f"{view.drift_k_per_min:+.2f} K/min")
    if view.settled:
        text.append("   settled", f"bold {palette.good}")
    elif view.settled_in_s is not None:
        text.append(f"   settled in {clock_text(view.settled_in_s)}", palette.soft)
    if view.unguarded:
        text.append("   unguarded", f"bold {palette.bad}")
    if view.stop_above_c is not None and view.die_c is not None:
        text.append("   guard ", palette.soft)
        text.append(f"{view.stop_above_c - view.die_c:.0f} K")
    return text
