"""Third octaves as they sound now, as columns: what the room alone gives stands in them in another tone."""

from __future__ import annotations

import math
from dataclasses import dataclass

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


def spectrum_text(view: SpectrumView, palette: Palette, most: int) -> Text:
    """The columns, one character wide, with their scale and frequencies, no more than `most` characters wide."""
    text = Text()
    levels = view.levels_db[: most - 3]
    known = [db for db in levels if math.isfinite(db)]
    if not known:
        text.append("nothing is heard\n", palette.soft)
        return text
    top = STEP_DB * math.ceil(max(known) / STEP_DB)
    colour = palette.quantity["noise"]
    for row in range(ROWS):
        high = top - SPAN_DB * row / ROWS
        low = high - SPAN_DB / ROWS
        for db, behind in zip(levels, view.behind_db, strict=False):
            share = (db - low) / (high - low) if math.isfinite(db) else 0.0
            mark = _EIGHTHS[max(0, min(8, round(8.0 * share)))]
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
