"""What stands at the left of a strip: its name, the value now, the rise, the lesser channels; and the axis beside the plot."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

import numpy as np
from rich.segment import Segment
from rich.style import Style
from textual.strip import Strip

from samovar.tui.run_cells import short
from samovar.tui.widgets.raster import large
from samovar.tui.widgets.spectrogram import loudest
from samovar.tui.widgets.strip_frame import Frame
from samovar.tui.widgets.strip_plan import StripSpec

LABEL = 7
"""Room for the axis' numbers, cells."""
MORE = 3


def gutter_lines(
    frame: Frame,
    spec: StripSpec,
    values: Sequence[float],
    height: int,
    colours: Sequence[str],
    axis: Mapping[int, str],
) -> list[list[Segment]]:
    """Name, value, rise and the lesser channels at the left; the axis' ends beside the plot.

    Args:
        frame: colours and widths.
        spec, values: the strip, and its channels' values now.
        height: in cells.
        colours: of the channels.
        axis: what stands beside the plot, by row.
    """
    palette, width = frame.palette, frame.names_width - LABEL - 1
    main = _figure(values[0], spec.decimals) if values else "–"
    soft, plain = frame.style(palette.soft), frame.style(palette.text)
    lines: list[list[Segment]] = []
    title = [
        Segment(f" {spec.title}", frame.style(colours[0] if not spec.colours else palette.text, bold=True))
    ]
    title.append(Segment(f" {spec.unit}", soft))
    note = ""
    if spec.over_room and frame.view.room_c is not None and values and np.isfinite(values[0]):
        note = f"{values[0] - frame.view.room_c:+.1f} K" + (" rise" if width >= 20 else "")
    first_other = 1
    if spec.is_picture:
        lines.append(title)
        lines += [[Segment(words, soft)] for words in loudest(values, spec.labels, height - 1)]
        first_other = len(spec.rows)
    elif spec.colours:
        lines.append(title)
        first_other = 0
    elif height >= 7:
        lines.append(title)
        strong = frame.style(colours[0], bold=True)
        lines += [[Segment(f" {part}", strong)] for part in large(main)]
        lines.append(
            [
                Segment(f" {spec.labels[0]} ", plain),
                Segment(note[: width - len(spec.labels[0]) - 2], soft),
            ]
        )
    elif height >= 5:
        lines.append([*title, Segment(f" {spec.labels[0]}", plain)])
        strong = frame.style(colours[0], bold=True)
        lines += [[Segment(f" {part}", strong)] for part in large(main)]
        if note:
            lines.append([Segment(f" {note}", soft)])
    else:
        lines.append(title)
        lines.append(
            [
                Segment(f" {main}", frame.style(colours[0], bold=True)),
                Segment(f" {spec.labels[0]}", plain),
            ]
        )
        if note:
            lines.append([Segment(f" {note}", soft)])
    room_for = height - len(lines)
    others = list(range(first_other, len(spec.rows)))
    in_band = [values[k] for k in spec.band if np.isfinite(values[k])]
    if in_band and room_for > 0:
        low, high = (_figure(edge, spec.decimals) for edge in (min(in_band), max(in_band)))
        words = f" {spec.band_word} {low} to {high}"
        lines.append([Segment(words if len(words) <= width else f" {low} to {high}", soft)])
    others = [k for k in others if k not in spec.band]
    for k in others[: max(0, height - len(lines))]:
        figure = _figure(values[k], spec.decimals)
        name = short(spec.labels[k], width - len(figure) - 3)
        colour = colours[k] if spec.colours or k == spec.other else palette.soft
        lines.append(
            [
                Segment(f" {name:<{width - len(figure) - 2}}", frame.style(colour, bold=bool(spec.colours))),
                Segment(f"{figure} ", frame.style(colour)),
            ]
        )
    found = []
    faint, line = frame.style(palette.faint), frame.style(palette.line)
    for row in range(height):
        label = axis.get(row, "")
        # A long name may reach into what a short number at the axis leaves free.
        more = max(0, min(MORE, LABEL - 2 - len(label))) if row == 0 else 0
        mine = _cut(frame, lines[row] if row < len(lines) else [], width + more)
        found.append([*mine, *_beside(label, LABEL - 1 - more, faint, line)])
    return found


@lru_cache(maxsize=1024)
def _beside(label: str, width: int, faint: Style, line: Style) -> tuple[Segment, Segment]:
    """The axis' number and its line."""
    return Segment(label.rjust(width)[:width] + " ", faint), Segment("▏", line)


def _cut(frame: Frame, segments: list[Segment], width: int) -> list[Segment]:
    """A line of just this width: what is too long ends in a mark of it."""
    room = width
    for segment in segments:
        # Most letters are one cell wide, which is quicker to see than to look up.
        room -= len(segment.text) if segment.text.isascii() else segment.cell_length
    if room < 0:
        shortened = Strip(segments).crop(0, width - 1)
        return [*shortened, Segment("…", frame.style(frame.palette.soft))]
    return [*segments, Segment(" " * room, frame.style(None))] if room else segments


def _figure(value: float, decimals: int) -> str:
    return f"{value:.{decimals}f}" if np.isfinite(value) else "–"
