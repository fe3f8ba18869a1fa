"""Figures into files: SVG with its text as text, PDF made of that SVG with embedded fonts; whole or not at all.

The PDF is typeset from the SVG: one drawing, the same in both, and fonts that hold every letter of it as text.
"""

from __future__ import annotations

import io
import warnings
from collections.abc import Callable
from functools import lru_cache, wraps
from pathlib import Path
from typing import TYPE_CHECKING, Any

from samovar.exchange.problems import InputError
from samovar.exchange.whole_file import write_whole_bytes
from samovar.figures.style import SETTINGS, to_column

if TYPE_CHECKING:
    from matplotlib.figure import Figure

FORMATS = (".svg", ".pdf")
COLUMN = "-column"
"""What the names of figures for a column end in."""
FAMILY = b"'DejaVu Sans', Verdana, 'Noto Sans', Arial, sans-serif"
"""Where a reader has not the letters that a figure was laid out with, those that are about as wide."""
_ALONE = b'#set page(width: auto, height: auto, margin: 0pt)\n#image("figure.svg")\n'


def styled(draw: Callable[..., Figure]) -> Callable[..., Figure]:
    """A drawing function under the common settings."""

    @wraps(draw)
    def wrapped(*arguments: object, **named: object) -> Figure:
        from matplotlib import rc_context

        with rc_context(SETTINGS):
            return draw(*arguments, **named)

    return wrapped


@lru_cache(maxsize=1)
def fonts() -> Any:
    """The fonts of figures and documents: those that come with our packages, so that every machine sets the same."""
    import matplotlib
    import typst

    own = Path(matplotlib.get_data_path()) / "fonts" / "ttf"
    return typst.Fonts(font_paths=[str(own)], include_system_fonts=False)


def svg_of(figure: Figure) -> bytes:
    """A figure as SVG."""
    from matplotlib import rc_context

    out = io.BytesIO()
    with rc_context(SETTINGS), warnings.catch_warnings():
        # A name in letters that the font lacks is text in the SVG all the same.
        warnings.filterwarnings("ignore", "Glyph .* missing from font")
        _lay_out(figure)
        figure.savefig(out, format="svg", metadata={"Date": None}, facecolor=figure.get_facecolor())
    return out.getvalue().replace(b"'DejaVu Sans'", FAMILY)


def _lay_out(figure: Figure) -> None:
    """Work out where everything goes, once: saving would draw all of it a further time for that."""
    engine = figure.get_layout_engine()
    if engine is not None:
        engine.execute(figure)
        figure.set_layout_engine("none")


def pdf_of(svg: bytes) -> bytes:
    """An SVG as a PDF of its size."""
    import typst

    return bytes(typst.compile({"main.typ": _ALONE, "figure.svg": svg}, font_paths=fonts(), timestamp=0))


def write_figure(figure: Figure, path: Path) -> Path:
    """Write a figure as its ending says; what stands there is replaced once the new file is whole.

    Raises:
        InputError: another ending, or the place cannot be written.
    """
    if path.suffix.lower() not in FORMATS:
        raise InputError(f"{path}: a figure is an .svg or a .pdf file; change the ending")
    data = svg_of(figure)
    return _write(path, data if path.suffix.lower() == ".svg" else pdf_of(data))


def write_both(figure: Figure, path: Path, said: Callable[[bytes], bytes] = bytes) -> list[Path]:
    """Write a figure as SVG and PDF, drawn once; `path` has no ending yet.

    Raises:
        InputError: the place cannot be written.
    """
    data = said(svg_of(figure))
    made = {".svg": data, ".pdf": pdf_of(data)}
    return [_write(path.with_name(path.name + ending), made[ending]) for ending in FORMATS]


def write_for_print(figure: Figure, path: Path, said: Callable[[bytes], bytes] = bytes) -> list[Path]:
    """Write a figure for the page's width and, as `NAME-column`, for a column, each as SVG and PDF; `path` has no ending yet. `said`
    makes of an SVG the one that is written: in another language, say.

    Raises:
        InputError: a place cannot be written.
    """
    from matplotlib import rc_context

    written = write_both(figure, path, said)
    with rc_context(SETTINGS):
        to_column(figure)
    return [*written, *write_both(figure, path.with_name(f"{path.name}{COLUMN}"), said)]


def write_as_picture(figure: Figure, path: Path, said: Callable[[bytes], bytes] = bytes) -> list[Path]:
    """Write a figure as SVG and PNG of its own size; `path` has no ending yet, `said` as for print.

    Raises:
        InputError: a place cannot be written.
    """
    data = said(svg_of(figure))
    made = {".svg": data, ".png": png_of(data, float(figure.dpi))}
    return [_write(path.with_name(path.name + ending), body) for ending, body in made.items()]


def _write(path: Path, data: bytes) -> Path:
    write_whole_bytes(path, data)
    return path


def png_of(svg: bytes, dots_an_inch: float) -> bytes:
    """An SVG as a PNG of its size; what has no ground stays without one."""
    import typst

    main = _ALONE.replace(b"margin: 0pt", b"margin: 0pt, fill: none")
    sources = {"main.typ": main, "figure.svg": svg}
    return bytes(typst.compile(sources, format="png", ppi=dots_an_inch, font_paths=fonts(), timestamp=0))
