"""Figures into files: SVG with its text as text, PDF with embedded fonts; whole or not at all."""

from __future__ import annotations

import warnings
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from samovar.exchange.problems import InputError
from samovar.exchange.whole_file import whole_file
from samovar.figures.style import SETTINGS

if TYPE_CHECKING:
    from matplotlib.figure import Figure

FORMATS = (".svg", ".pdf")


def styled(draw: Callable[..., Figure]) -> Callable[..., Figure]:
    """A drawing function under the common settings."""
    from functools import wraps

    @wraps(draw)
    def wrapped(*arguments: object, **named: object) -> Figure:
        from matplotlib import rc_context

        with rc_context(SETTINGS):
            return draw(*arguments, **named)

    return wrapped


def write_figure(figure: Figure, path: Path) -> Path:
    """Write a figure as its ending says; what stands there is replaced once the new file is whole.

    Raises:
        InputError: another ending, or the place cannot be written.
    """
    from matplotlib import rc_context

    if path.suffix.lower() not in FORMATS:
        raise InputError(f"{path}: a figure is an .svg or a .pdf file; change the ending")
    kind = path.suffix.lower()[1:]
    undated = {"Date": None} if kind == "svg" else {"CreationDate": None}
    with whole_file(path) as part, rc_context(SETTINGS), warnings.catch_warnings():
        # A name in letters that the font lacks is text in the SVG all the same.
        warnings.filterwarnings("ignore", "Glyph .* missing from font")
        figure.savefig(part, format=kind, metadata=undated)
        # The layout is worked out at the first drawing; the other format takes it as it is.
        figure.set_layout_engine("none")
    return path
