"""A strip's curves in cells: lines as dots, the tint and the band under them to an eighth of a cell."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from samovar.tui.widgets.raster import BRAILLE, any_of, dots_of, inside_of
from samovar.tui.widgets.strip_curves import Drawn, Filled, filled, filled_between

VARIANTS = 6
PLAIN, TINT, WINDOW, CURSOR, OUT, BAND = range(VARIANTS)
"""Grounds of cells."""
TEXT, FAINT, TINTED, BANDED, OWN = range(5)
"""What stands on them: words, faint things, the tint's and the band's edges, then the channels' own colours."""
_BLANK, _HALF, _OVER_HALF = (ord(c) for c in " ▄▅")


@dataclass(frozen=True)
class Dotted:
    """Lines in dots: the low bytes of braille code points, and whose colour they have; shape (rows, columns) each."""

    bits: NDArray[np.uint8]
    inks: NDArray[np.intp]

    @classmethod
    def of(
        cls,
        first: NDArray[np.int16],
        past: NDArray[np.int16],
        rows: Sequence[int],
        begins: Sequence[Sequence[int]],
    ) -> Dotted:
        """The lines of several strips, these one below the other.

        Args:
            first, past: lines from their first rows of dots to those past the last, shape (m, 2 * columns), strip by strip.
            rows: how high each strip is, cells.
            begins: for each strip the lines that a colour begins with; where lines cross, the first of them is seen.
        """
        inside = inside_of(first, past, 4 * max(rows))
        cuts = [*itertools.chain(*begins), len(first)]
        # Those of one colour are one.
        dots = dots_of(np.array([any_of(inside[a:b]) for a, b in itertools.pairwise(cuts)]))
        bits = np.empty((sum(rows), dots.shape[-1]), np.uint8)
        inks = np.full(bits.shape, TEXT)
        at = row = 0
        for high, mine in zip(rows, begins, strict=True):
            own, here = dots[at : at + len(mine), :high], slice(row, row + high)
            np.bitwise_or.reduce(own, axis=0, out=bits[here])
            for begin, part in zip(reversed(mine), own[::-1], strict=True):
                np.copyto(inks[here], OWN + begin - mine[0], where=part > 0)
            at, row = at + len(mine), row + high
        return cls(bits, inks)


@dataclass(frozen=True)
class Areas:
    """What lies under the leading curves of several strips, these one below the other, and their bands where they swing."""

    under: Filled
    band: Filled | None

    @classmethod
    def of(
        cls, curves: Sequence[Drawn | None], ends: Sequence[tuple[float, float]], rows: Sequence[int]
    ) -> Areas | None:
        """Of the curves that have ground under them, in strips of so many rows between the values at their lower and upper edges."""
        there = [curve for curve in curves if curve is not None]
        if not there:
            return None
        bottom, top = np.array(ends).T[:, :, None]
        nothing = np.full(len(there[0].high), np.nan)
        high = np.array([nothing if curve is None else curve.high for curve in curves])
        under = filled(high, bottom, top, rows)
        if all(curve.band_low is None for curve in there):
            return cls(under, None)
        edges = [
            (nothing, nothing)
            if curve is None or curve.band_low is None or curve.band_high is None
            else (curve.band_low, curve.band_high)
            for curve in curves
        ]
        lows, highs = np.array(edges).swapaxes(0, 1)
        return cls(under, filled_between(lows, highs, bottom, top, rows))

    @property
    def edges(self) -> NDArray[np.bool_]:
        """The cells that an area fills in part."""
        edges: NDArray[np.bool_] = self.under.upper != _BLANK
        if self.band is not None:
            edges = edges | (self.band.upper != _BLANK) | (self.band.lower != _BLANK)
        return edges


@dataclass
class Cells:
    """Characters, the numbers of their inks and of their grounds, shape (rows, columns) each."""

    chars: NDArray[np.uint32]
    inks: NDArray[np.intp]
    ground: NDArray[np.intp]

    @classmethod
    def blank(cls, rows: int, columns: int) -> Cells:
        """Nothing on the plain ground."""
        shape = rows, columns
        return cls(np.full(shape, _BLANK, np.uint32), np.full(shape, TEXT), np.full(shape, PLAIN))

    def fill_whole(self, areas: Areas | None) -> None:
        """The cells that the areas fill whole: what else there is of them is drawn in pixels."""
        if areas is not None:
            self.ground[areas.under.whole] = TINT
            if areas.band is not None:
                self.ground[areas.band.whole] = BAND

    def fill(self, areas: Areas | None, lines: Dotted) -> None:
        """The areas, and the lines over them."""
        drawn = lines.bits > 0
        if areas is not None:
            self._fill_areas(areas, drawn)
        self.chars[drawn] = np.uint32(BRAILLE) + lines.bits[drawn]
        self.inks[drawn] = lines.inks[drawn]

    def _fill_areas(self, areas: Areas, drawn: NDArray[np.bool_]) -> None:
        """The tint under the main curve, which ends where it is, and its band in a lighter tone."""
        chars, inks, ground = self.chars, self.inks, self.ground
        under, band = areas.under, areas.band
        ground[under.whole] = TINT
        edge = under.upper != _BLANK
        chars[edge], inks[edge] = under.upper[edge], TINTED
        # A cell that the line itself is in is tinted where the tint would fill most of it.
        most = under.upper >= _OVER_HALF
        ground[most], chars[most] = TINT, _BLANK
        if band is None:
            return
        ground[band.whole], chars[band.whole] = BAND, _BLANK
        edge = band.upper != _BLANK
        chars[edge], inks[edge], ground[edge] = band.upper[edge], BANDED, PLAIN
        edge = band.lower != _BLANK
        chars[edge], inks[edge], ground[edge] = band.lower[edge], TINTED, BAND
        # A cell that a line is in cannot have an edge, too: what fills most of it fills it.
        ground[drawn & (band.upper >= _HALF)] = BAND
        ground[drawn & (band.lower >= _HALF)] = TINT
