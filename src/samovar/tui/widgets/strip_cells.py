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
    def of_all(
        cls,
        first: NDArray[np.int16],
        past: NDArray[np.int16],
        rows: Sequence[int],
        begins: Sequence[Sequence[int]],
    ) -> list[Dotted]:
        """Of several strips at once.

        Args:
            first, past: lines from their first rows of dots to those past the last, shape (m, 2 * columns), strip by strip.
            rows: how high each strip is, cells.
            begins: for each strip the lines that a colour begins with; where lines cross, the first of them is seen.
        """
        inside = inside_of(first, past, 4 * max(rows))
        cuts = [*itertools.chain(*begins), len(first)]
        # Those of one colour are one.
        dots = dots_of(np.array([any_of(inside[a:b]) for a, b in itertools.pairwise(cuts)]))
        found, at = [], 0
        for high, mine in zip(rows, begins, strict=True):
            own = dots[at : at + len(mine), :high]
            at += len(mine)
            inks = np.full(own.shape[1:], TEXT)
            for begin, part in zip(reversed(mine), own[::-1], strict=True):
                inks[part > 0] = OWN + begin - mine[0]
            found.append(cls(any_of(own), inks))
        return found


@dataclass(frozen=True)
class Areas:
    """What lies under the leading curve, and its band where it swings."""

    under: Filled
    band: Filled | None

    @classmethod
    def of(cls, curve: Drawn, ends: tuple[float, float], rows: int) -> Areas:
        """Of a curve in a strip of so many rows, between the values at its lower and upper edge."""
        bottom, top = ends
        band = None
        if curve.band_low is not None and curve.band_high is not None:
            band = filled_between(curve.band_low, curve.band_high, bottom, top, rows)
        return cls(
            filled(curve.high, bottom, top, rows),
            band,
        )

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
