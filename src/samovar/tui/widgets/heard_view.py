"""What a run sounded like, beside its strips: the spectrum in characters, or in pixels where the terminal takes them."""

from __future__ import annotations

from rich.text import Text

from samovar.figures.palette import Palette
from samovar.tui.heard_at import HeardAt
from samovar.tui.pixels.layer import Pictured, pixels_for
from samovar.tui.pixels.picture import CellPicture
from samovar.tui.theme import palette_of
from samovar.tui.widgets.spectrum import spectrum_pixels, spectrum_text


class HeardView(Pictured):
    """What was heard, no more than `most` characters wide; nothing where nobody listened."""

    DEFAULT_CSS = "HeardView { height: auto; }"

    def __init__(self, most: int) -> None:
        super().__init__()
        self._heard: HeardAt | None = None
        self._most = most

    def show(self, heard: HeardAt | None) -> None:
        """Show this from now on."""
        self._heard = heard
        self.refresh(layout=True)

    def render(self) -> Text:
        """Heading, spectrum, what else is known."""
        heard = self._heard
        self.pictures.show(())
        if heard is None:
            return Text()
        palette, pixels = palette_of(self.app.theme), pixels_for(self)
        picture = (
            None if pixels is None else spectrum_pixels(heard.spectrum, palette, self._most, pixels.cell)
        )
        if picture is not None:
            # The heading stands over it.
            self.pictures.show((CellPicture(0, 1, *picture),))
        return heard_text(heard, palette, self._most, columns=picture is None)


def heard_text(heard: HeardAt, palette: Palette, most: int, columns: bool = True) -> Text:
    """All of it in characters; without `columns` the spectrum's place alone."""
    text = Text()
    text.append(f"{heard.heading}\n", f"bold {palette.brass}")
    text.append_text(spectrum_text(heard.spectrum, palette, most, columns))
    if heard.besides:
        text.append(f"{heard.besides}\n", palette.soft)
    text.rstrip()
    return text
