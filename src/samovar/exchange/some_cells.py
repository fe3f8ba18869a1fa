"""Some cells of a column of text, which tell what the others are."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from samovar.exchange.cells import split_unit
from samovar.exchange.units_of_logs import known_unit

if TYPE_CHECKING:
    import polars

SAMPLED = 60


def polars_text() -> Any:
    import polars

    return polars.String


def some_cells(series: polars.Series) -> list[str]:
    """Some cells of a text column, from here and there, those that hold something."""
    step = max(1, len(series) // (4 * SAMPLED))
    return [c.strip() for c in series.gather_every(step).to_list() if c and c.strip()][: 4 * SAMPLED]


def unit_in(cells: list[str]) -> str:
    """The unit that stands behind the numbers of a column, where it is always the same."""
    found = {unit for cell in cells if (unit := split_unit(cell)[1])}
    return found.pop() if len(found) == 1 and known_unit(next(iter(found))) else ""
