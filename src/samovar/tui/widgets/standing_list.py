"""The standing table in cells, and how far each tie between reviews carries."""

from __future__ import annotations

from rich.text import Text

from samovar.core.compare.standing_table import StandingTable
from samovar.core.measured import Measured
from samovar.core.results.figure import Figure
from samovar.figures.palette import Palette


def standing_text(
    palette: Palette, table: StandingTable, figure: Figure, rig: str, load: str, reference: str
) -> Text:
    """The table as text, best first."""
    text = Text(no_wrap=True, overflow="ellipsis")
    if not table.rows:
        text.append(f"No run of any review carries {figure.label} under {load} on {rig} yet.\n", palette.soft)
    lines = [
        (
            row.name,
            figure.text(row.value),
            "the reference" if row.name == reference else _gap(figure, row.difference),
            f"{row.passes} pass{'es' if row.passes != 1 else ''} in {', '.join(row.reviews)}",
        )
        for row in table.rows
    ]
    columns = [max((len(line[k]) for line in lines), default=0) + 2 for k in range(3)]
    for name, value, gap, of in lines:
        text.append(f"{name:<{columns[0]}}", f"bold {palette.text}")
        text.append(f"{value:>{columns[1]}}  ", f"bold {palette.brass}")
        text.append(f"{gap:>{columns[2]}}  ", palette.text)
        text.append(f"{of}\n", palette.soft)
    text.append("\nhow far the ties carry\n", f"bold {palette.brass}")
    if not table.ties:
        text.append(
            "All of it is of one review: another on this rig that measures one of these again is tied by that.\n",
            palette.soft,
        )
    for tie in table.ties:
        known = tie.offset.half_width
        text.append(f"{tie.review}  ", palette.text)
        text.append(
            f"read {figure.difference_text(tie.offset, signed=True)} to this review, by {', '.join(tie.by)}"
            f"{'' if known is not None else '; nothing was repeated, so nobody knows how well'}\n",
            palette.soft,
        )
    for name, why in table.left_out.items():
        text.append(f"{name}: {why}\n", palette.faint)
    return text


def _gap(figure: Figure, gap: Measured | None) -> str:
    return "" if gap is None else figure.difference_text(gap, signed=True)
