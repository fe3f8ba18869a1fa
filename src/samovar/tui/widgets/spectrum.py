"""Third octaves as they sound now, as columns: what the room alone gives stands in them in another tone."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from rich.text import Text

from samovar.figures.palette import Palette

ROWS = 5
SPAN_DB = 40.0
"""From the foot of a column to the top of the highest."""
STEP_DB = 10.0
_EIGHTHS = " ▁▂▃▄▅▆▇█"


@dataclass(frozen=True)
class SpectrumView:
    """Third octaves by their nominal frequencies, Hz: the levels now, and the background's, dB, NaN where unknown; what it
    sounds like in words; and the levels' unit."""

    hz: tuple[float, ...]
    levels_db: tuple[float, ...]
    behind_db: tuple[float, ...]
    character: str = ""
    unit: str = "dB"

    def top_db(self, count: int) -> float | None:
        """The round level over the first `count` columns; None where nothing is heard."""
        known = [db for db in self.levels_db[:count] if math.isfinite(db)]
        return STEP_DB * math.ceil(max(known) / STEP_DB) if known else None


SCALE = 3
"""Characters beside the columns for their scale."""


def spectrum_text(view: SpectrumView, palette: Palette, most: int, columns: bool = True) -> Text:
    """The columns, one character wide, with their scale and frequencies, no more than `most` characters wide; without `columns` their
    place alone, for pixels to draw them."""
    text = Text()
    levels = view.levels_db[: most - SCALE]
    top = view.top_db(len(levels))
    if top is None:
        text.append("nothing is heard\n", palette.soft)
        return text
    colour = palette.quantity["noise"]
    for row in range(ROWS):
        high = top - SPAN_DB * row / ROWS
        low = high - SPAN_DB / ROWS
        for db, behind in zip(levels, view.behind_db, strict=False):
            share = (db - low) / (high - low) if math.isfinite(db) else 0.0
            mark = _EIGHTHS[max(0, min(8, round(8.0 * share)))] if columns else " "
            # What lies under the room's own level is the room's.
            is_room = math.isfinite(behind) and behind >= 0.5 * (low + high)
            text.append(mark, palette.faint if is_room else colour)
        text.append(f"{high:3.0f}\n" if row == 0 else "\n", palette.faint)
    axis = [" "] * len(levels)
    for k, hz in enumerate(view.hz[: len(levels)]):
        if hz in (31.5, 125.0, 500.0, 2000.0, 8000.0):
            words = f"{hz:g}" if hz < 1000.0 else f"{hz / 1000.0:g}k"
            axis[k : k + len(words)] = words
    text.append("".join(axis)[: len(levels)].rstrip() + f" Hz, {view.unit}\n", palette.faint)
    if view.character:
        text.append(f"{view.character}\n", palette.text)
    return text


def spectrum_pixels(
    view: SpectrumView, palette: Palette, most: int, cell: tuple[int, int]
) -> tuple[NDArray[np.uint8], tuple[str, ...]] | None:
    """The columns of `spectrum_text` to a pixel, shape (ROWS * height, columns * width) of a cell, and the colours of the numbers from
    1 on: what is heard, and what of it is the room's. None where nothing is heard."""
    levels = view.levels_db[: most - SCALE]
    top = view.top_db(len(levels))
    if top is None:
        return None
    height = ROWS * cell[1]
    pixels = np.zeros((height, len(levels) * cell[0]), np.uint8)

    def row(db: float) -> int:
        return max(0, min(height, round((top - db) / SPAN_DB * height)))

    for k, (db, behind) in enumerate(zip(levels, view.behind_db, strict=False)):
        # A pixel stays free between one column and the next.
        across = slice(k * cell[0], (k + 1) * cell[0] - 1)
        if math.isfinite(db):
            pixels[row(db) :, across] = 1
            if math.isfinite(behind):
                pixels[max(row(db), row(behind)) :, across] = 2
    return pixels, (palette.quantity["noise"], palette.faint)
