"""A figure of a run as a film that grows with it: the chart is drawn once, and what is yet to come is covered."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from samovar.exchange.problems import InputError
from samovar.exchange.whole_file import write_whole_bytes
from samovar.figures.palette import PAPER
from samovar.figures.style import SETTINGS

if TYPE_CHECKING:
    from matplotlib.figure import Figure

FILM_FORMATS = (".png", ".apng", ".gif")
SIZE_PX = (1280, 720)
FRAMES_A_SECOND = 20
FILM_S = 12.0
"""A film's length where nobody says."""
LONGEST_S = 120.0
"""A longer film than this of one chart nobody watches, and it would take all memory."""
LINE_PX, COLOURS = 2, 128
HOLD_S = 2.0
"""So long the last picture stands."""


def film_frames(figure: Figure, film_s: float) -> Iterator[Any]:
    """The pictures of a film, from the empty chart to the whole one, as Pillow images.

    Args:
        figure: a time chart: all its axes share the axis of time.
        film_s: how long it grows.
    """
    from matplotlib import rc_context
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from PIL import Image

    width, height = SIZE_PX
    across, tall = (float(x) for x in figure.get_size_inches())
    pars, now_tall = figure.subplotpars, across * height / width
    with rc_context(SETTINGS):
        # The margins stay as wide as their words need, however tall the picture is.
        top, bottom = (1.0 - pars.top) * tall / now_tall, pars.bottom * tall / now_tall
        figure.set_size_inches(across, now_tall)
        figure.subplots_adjust(top=1.0 - top, bottom=bottom)
        figure.set_dpi(width / across)
        canvas = FigureCanvasAgg(figure)
        canvas.draw()
    whole = Image.fromarray(np.asarray(canvas.buffer_rgba())[:, :, :3]).quantize(
        COLOURS, dither=Image.Dither.NONE
    )
    index, palette = np.asarray(whole), whole.getpalette()
    ground, line = (_nearest(palette or [], c) for c in (PAPER.ground, PAPER.brass))
    boxes = [axes.get_window_extent() for axes in figure.axes]
    uppers = [boxes[0].y1, *(b.y0 for b in boxes[:-1])]
    count = max(2, round(film_s * FRAMES_A_SECOND))
    for k in range(count + 1):
        picture = index.copy()
        for row, box in enumerate(boxes):
            edge, right = round(box.x0 + (box.x1 - box.x0) * k / count), round(box.x1)
            # The words of marks stand above the last row: they come with it.
            upper = uppers[row] if row == len(boxes) - 1 else box.y1
            first, last = len(index) - round(upper), len(index) - round(box.y0)
            if edge < right:
                picture[first:last, edge:right] = ground
                picture[first:last, edge : edge + LINE_PX] = line
        frame = Image.fromarray(picture, mode="P")
        frame.putpalette(palette or [])
        yield frame


def _nearest(palette: list[int], colour: str) -> int:
    """The place of the colour in a palette that is nearest to one."""
    have = np.array(palette, dtype=float).reshape(-1, 3)
    return int(np.argmin(((have - [int(colour[k : k + 2], 16) for k in (1, 3, 5)]) ** 2).sum(axis=1)))


def write_film(
    figure: Figure, path: Path, film_s: float, on_progress: Callable[[int, int], None] | None = None
) -> list[Path]:
    """Write a film as its ending says: `.png` or `.apng` (animated PNG) or `.gif`; into a folder as a sequence of pictures.

    Raises:
        InputError: another ending, a length that is none, or the place cannot be written.
    """
    if not 0.0 < film_s <= LONGEST_S:
        raise InputError(
            f"{film_s:g} s: a film takes more than 0 and at most {LONGEST_S:g} s; choose another length"
        )
    if path.suffix and path.suffix.lower() not in FILM_FORMATS:
        raise InputError(f"{path}: a film is a .png, .apng or .gif file, or a folder; change the ending")
    total = max(2, round(film_s * FRAMES_A_SECOND)) + 1
    frames = []
    folder = not path.suffix
    written = []
    for k, frame in enumerate(film_frames(figure, film_s), 1):
        if folder:
            try:
                path.mkdir(parents=True, exist_ok=True)
            except OSError as problem:
                raise InputError(f"{path}: {problem.strerror}; choose another folder") from problem
            written.append(path / f"frame-{k:05d}.png")
            write_whole_bytes(written[-1], _png(frame))
        else:
            frames.append(frame)
        if on_progress:
            on_progress(k, total)
    if folder:
        return written
    step_ms = 1000.0 / FRAMES_A_SECOND
    durations = [step_ms] * (len(frames) - 1) + [1000.0 * HOLD_S]
    out = io.BytesIO()
    kind = "GIF" if path.suffix.lower() == ".gif" else "PNG"
    frames[0].save(out, kind, save_all=True, append_images=frames[1:], duration=durations, loop=0)
    write_whole_bytes(path, out.getvalue())
    return [path]


def _png(frame: Any) -> bytes:
    out = io.BytesIO()
    frame.save(out, "PNG")
    return out.getvalue()
