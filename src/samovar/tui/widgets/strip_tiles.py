"""Pieces of curves as pictures that are kept: a window that is moved shows most of them again, elsewhere.

What a piece is drawn from is its name in the store, so nothing has to be thrown away when samples, scales or colours change: what has
become another curve has another name.
"""

from __future__ import annotations

import itertools
import time
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from samovar.tui.pixels.coded import coded
from samovar.tui.pixels.picture import CellPicture
from samovar.tui.pixels.terminal import Pixels
from samovar.tui.widgets.spectrogram import spectrogram_pixels
from samovar.tui.widgets.strip_pixels import MARGIN, STRETCH, Ground, Ink, strip_pixels

TILE = 12
"""Cells in a piece: wide enough that drawing it is more than the calls it takes, narrow enough that a step's end is soon drawn."""
AT_ONCE = 16
"""So many new pieces are drawn within a redraw of the same window, such as those that the newest sample or a word is in."""
EVERYTHING = 1_000_000
TOGETHER = 8
"""Neighbours that are drawn in one go and cut apart, at most: twice as fast as one by one, and still a matter of milliseconds."""
SLICE_S = 0.006
"""So long the others are drawn at a stretch before keys have their turn again."""
MOST_KEPT = 1500
"""Pieces: some ten windows full of them, of a few kilobytes each."""


class TileStore:
    """The pieces drawn so far, as one kind of terminal takes them."""

    def __init__(self, pixels: Pixels) -> None:
        self.pixels = pixels
        self._kept: OrderedDict[object, CellPicture] = OrderedDict()
        self._wanted: list[tuple[Sequence[object], Callable[[], list[CellPicture]]]] = []
        self._left = 0

    @property
    def waits(self) -> bool:
        """Whether something was asked for that is not drawn yet."""
        return bool(self._wanted)

    def begin(self, at_once: int) -> None:
        """A new picture begins, in which so many new pieces may be drawn: what an earlier one still wanted is of no matter any more."""
        self._wanted.clear()
        self._left = at_once

    def kept(self, name: object) -> CellPicture | None:
        """The piece of this name; None where it is not drawn."""
        found = self._kept.get(name)
        if found is not None:
            self._kept.move_to_end(name)
        return found

    def drawn(
        self, names: Sequence[object], draw: Callable[[], list[CellPicture]]
    ) -> list[CellPicture] | None:
        """The pieces drawn now, or None where they have to wait."""
        if len(names) > self._left:
            self._wanted.append((names, draw))
            return None
        self._left -= len(names)
        return self._keep(names, draw)

    def go_on(self) -> None:
        """Draw some of what waits."""
        until = time.perf_counter() + SLICE_S
        while self._wanted and time.perf_counter() < until:
            self._keep(*self._wanted.pop(0))

    def _keep(self, names: Sequence[object], draw: Callable[[], list[CellPicture]]) -> list[CellPicture]:
        found = [replace(one, pieces=coded(one, self.pixels)) for one in draw()]
        self._kept.update(zip(names, found, strict=True))
        while len(self._kept) > MOST_KEPT:
            self._kept.popitem(last=False)
        return found


@lru_cache(maxsize=64)
def spans_of(columns: int, offset: int) -> tuple[tuple[int, int], ...]:
    """From and to which column each piece of a window goes: they begin at the same moments wherever the window is.

    Args:
        columns: cells of the window.
        offset: how many columns lie between the axis' beginning and the window's.
    """
    cuts = sorted({0, *range(-offset % TILE, columns, TILE), columns})
    return tuple(itertools.pairwise(cuts))


def pieces_of(
    store: TileStore,
    columns: int,
    offset: int,
    corner: tuple[int, int],
    name_of: Callable[[int, int], object],
    draw: Callable[[Sequence[tuple[int, int]]], list[CellPicture]],
) -> tuple[list[CellPicture], NDArray[np.bool_]]:
    """The pieces of a window that are there, and in which columns those are that have to wait, shape (columns,).

    Args:
        store: what is drawn already.
        columns: cells of the window.
        offset: how many columns lie between the axis' beginning and the window's.
        corner: column and row of the window in its widget.
        name_of: all that the piece between two columns is drawn from.
        draw: pieces that lie side by side, from and to which column each.
    """
    found: dict[int, CellPicture] = {}
    missing = np.zeros(columns, bool)
    runs: list[list[tuple[int, int, object]]] = [[]]
    for begin, end in spans_of(columns, offset):
        name = name_of(begin, end)
        picture = store.kept(name)
        if picture is not None:
            found[begin] = picture
            runs.append([])
            continue
        if len(runs[-1]) == TOGETHER:
            runs.append([])
        runs[-1].append((begin, end, name))
    for run in filter(None, runs):
        spans = [(begin, end) for begin, end, _ in run]
        pictures = store.drawn([name for _, _, name in run], partial(draw, spans))
        if pictures is None:
            missing[spans[0][0] : spans[-1][1]] = True
        else:
            found.update(zip((begin for begin, _ in spans), pictures, strict=True))
    return [
        CellPicture(corner[0] + begin, corner[1], one.pixels, one.colours, one.stretch, one.pieces)
        for begin, one in sorted(found.items())
    ], missing


def tiles_of(
    store: TileStore,
    offset: int,
    curves: NDArray[np.int16],
    ink: Ink,
    ground: Ground,
    corner: tuple[int, int],
) -> tuple[list[CellPicture], NDArray[np.bool_]]:
    """A strip's pieces, as `pieces_of` has them; `curves`, `ink` and `ground` as `strip_pixels` takes them, of the whole window."""
    rows, columns = ground.cells.shape
    # Column by column, so that a piece's name is a part of the whole window's.
    lines, cells, free = (part.T.tobytes() for part in (curves, ground.cells, ground.free))
    per_line = 2 * curves.itemsize * len(curves)
    alike = ink, ground.colours, len(curves), rows

    def name_of(begin: int, end: int) -> object:
        line = lines[begin * per_line : (end + 2 * MARGIN) * per_line]
        return alike, line, cells[begin * rows : end * rows], free[begin * rows : end * rows]

    draw = partial(_drawn, store.pixels.cell, curves, ink, ground)
    return pieces_of(store, columns, offset, corner, name_of, draw)


def shades_of(
    store: TileStore,
    offset: int,
    shades: NDArray[np.uint8],
    tones: tuple[str, ...],
    rows: int,
    corner: tuple[int, int],
) -> list[CellPicture]:
    """A spectrogram's pieces, as far as they are there.

    Args:
        store, offset, corner: as in `pieces_of`.
        shades: the numbers of their tones, shape (bands, columns of pixels).
        tones: the colours.
        rows: its height in cells.
    """
    wide = store.pixels.cell_width // STRETCH
    by_column = shades.T.tobytes()
    per_cell = len(shades) * wide

    def name_of(begin: int, end: int) -> object:
        return tones, rows, by_column[begin * per_cell : end * per_cell]

    def draw(spans: Sequence[tuple[int, int]]) -> list[CellPicture]:
        height = rows * store.pixels.cell_height
        return [
            CellPicture(0, 0, spectrogram_pixels(shades[:, a * wide : b * wide], height), tones, STRETCH)
            for a, b in spans
        ]

    return pieces_of(store, shades.shape[1] // wide, offset, corner, name_of, draw)[0]


def _drawn(
    cell: tuple[int, int],
    curves: NDArray[np.int16],
    ink: Ink,
    ground: Ground,
    spans: Sequence[tuple[int, int]],
) -> list[CellPicture]:
    """Pieces that lie side by side."""
    first, last = spans[0][0], spans[-1][1]
    under = Ground(ground.cells[:, first:last], ground.free[:, first:last], ground.colours)
    pixels, colours = strip_pixels(cell, curves[:, 2 * first : 2 * (last + 2 * MARGIN)], ink, under)
    wide = cell[0] // STRETCH
    return [
        CellPicture(0, 0, pixels[:, (begin - first) * wide : (end - first) * wide], colours, STRETCH)
        for begin, end in spans
    ]
