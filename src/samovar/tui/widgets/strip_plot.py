"""What stands in a strip beside its curves: round values, limits with their words, the thermal model."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from samovar.tui.widgets.strip_axis import free_place, row_of
from samovar.tui.widgets.strip_cells import BAND, CURSOR, FAINT, TEXT, VARIANTS
from samovar.tui.widgets.strip_curves import round_levels
from samovar.tui.widgets.strip_plan import StripSpec

ONLY_NEAR = ("burst",)
"""Of no matter while nothing comes near it."""
GRID_EVERY = 6
_DOT, _DASH = ord("·"), ord("╌")


@dataclass(frozen=True)
class Plot:
    """One strip's cells, views of those of all, shape (rows, columns) each.

    Attributes:
        spec: the strip.
        ends: the values at its lower and upper edge.
        chars, styles: what is written, and the numbers of its styles.
        first_style: what these begin with.
        ground: the numbers of the grounds.
        drawn: where lines are.
        taken: where lines or edges of areas are.
        words: where words stand, with the blanks in them.
    """

    spec: StripSpec
    ends: tuple[float, float]
    chars: NDArray[np.uint32]
    styles: NDArray[np.intp]
    first_style: int
    ground: NDArray[np.intp]
    drawn: NDArray[np.bool_]
    taken: NDArray[np.bool_]
    words: NDArray[np.bool_]

    def gridlines(self, offset: int) -> list[float]:
        """Sparse dots at round values, where nothing else stands; the answer is the values. They belong to the time axis, and move with
        it: `offset` columns of it lie before the window."""
        bottom, top = self.ends
        height, width = self.chars.shape
        levels = round_levels(bottom, top, 0 if height < 5 else 1 if height < 8 else 2)
        every = slice((GRID_EVERY // 2 - offset) % GRID_EVERY, width, GRID_EVERY)
        for value in levels:
            row = row_of(value, bottom, top, height)
            free = ~self.taken[row, every]
            np.copyto(self.chars[row, every], _DOT, where=free)
            np.copyto(self.styles[row, every], self._faint + self.ground[row, every], where=free)
        return levels

    def limits(self, latest: Sequence[float]) -> None:
        """Limits as dashed lines with their word where no curve is, and if there is such a place no band; one out of sight as an arrow,
        with its distance from the `latest` value, if there is one."""
        bottom, top = self.ends
        height, spec = len(self.chars), self.spec
        for value, word in spec.limits:
            beyond = value > top or value < bottom
            if beyond and word in ONLY_NEAR:
                continue
            row = (0 if value > top else height - 1) if beyond else row_of(value, bottom, top, height)
            text = f" {word} {round(value, spec.decimals):g} "
            if beyond:
                away = abs(value - latest[0]) if latest and np.isfinite(latest[0]) else None
                unit = "K" if spec.unit == "°C" else spec.unit
                far = "" if away is None else f", {away:.0f} {unit} away"
                text = f" {'↑' if value > top else '↓'} {word} {round(value, spec.decimals):g}{far} "
            else:
                free = ~(self.drawn | self.words)[row]
                self.chars[row, free] = _DASH
                self.styles[row, free] = self._faint + self.ground[row, free]
            self._write(text, [near for near in (row, row - 1, row + 1) if 0 <= near < height])

    def model(
        self, times: Sequence[float], values: Sequence[float], column_of: Callable[[float], int | None]
    ) -> None:
        """The thermal model's curve as a dotted line over the temperatures."""
        bottom, top = self.ends
        height = len(self.chars)
        for t, value in zip(times, values, strict=True):
            column = column_of(t)
            row = int((top - value) / max(top - bottom, 1e-9) * height)
            if column is None or not 0 <= row < height:
                continue
            if not (self.drawn[row, column] or self.words[row, column]):
                self.chars[row, column] = _DOT
                self.styles[row, column] = self.first_style + self.ground[row, column]

    @property
    def _faint(self) -> int:
        return self.first_style + FAINT * VARIANTS

    def _write(self, text: str, rows: Sequence[int]) -> None:
        """A word in the first of these rows that has room for it: where a curve runs along one, it stands beside that."""
        busy = self.taken | (self.ground == BAND)
        for row, taken in ((row, taken) for taken in (busy, self.drawn) for row in rows):
            column = free_place((taken | self.words)[row], len(text))
            if column is not None:
                there = row, slice(column, column + len(text))
                ground = self.ground[there]
                faint = FAINT if not (ground == BAND).any() else TEXT
                # Faint letters would be lost on the cursor.
                ink = np.where(ground == CURSOR, TEXT, faint)
                self.chars[there] = [ord(c) for c in text]
                self.styles[there] = self.first_style + ink * VARIANTS + ground
                self.words[there] = True
                return
