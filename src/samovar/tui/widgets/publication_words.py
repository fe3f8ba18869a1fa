"""What publishing a review writes, in words."""

from __future__ import annotations

from rich.text import Text

from samovar.archive.review_data import ReviewData
from samovar.figures.palette import Palette


def publication_text(palette: Palette, data: ReviewData | None) -> Text:
    """What publishing writes."""
    text = Text()
    text.append("figures\n\n", f"bold {palette.brass}")
    if data is None:
        return text
    loads = [load for load in data.review.loads if data.under(load)]
    for load in loads:
        text.append(f"{load}\n", f"bold {palette.text}")
        text.append("  ladder of each figure\n  curves, aligned at load start\n", palette.soft)
    runs = sum(len(c.runs) for c in data.cells.values())
    text.append(f"\n{runs} time charts", f"bold {palette.text}")
    text.append(", one for each run\n", palette.soft)
    text.append(f"{runs} data files", f"bold {palette.text}")
    text.append(" as CSV\n\n", palette.soft)
    text.append(
        "Publishing writes one folder: a page that stands alone, the same as PDF, a card, each figure for page and column, and "
        "the data as a package that others can compute with.\n\n",
        palette.soft,
    )
    text.append("p", f"bold {palette.brass}")
    text.append(" publishes\n", palette.text)
    return text
