"""The table of criteria, drawn in cells: setups across, criteria down, what is best marked by sign and word."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from rich.text import Text

from samovar.core.compare.criteria import ASKED, LEVEL, WINS, Criterion, tally
from samovar.figures.palette import Palette

ASKED_MARK = {"met": ("✔ ", "good"), "not met": ("✕ ", "bad"), "not shown": ("? ", "caution")}
"""What a setup makes of a demand: its sign, and the palette's colour for it."""
LABEL_MOST, LABEL_NARROW = 34, 27
NARROW = 96
"""Under so many cells the signs alone say who wins: there is no column of words for it."""
VERDICT = 20
"""Cells for who wins, behind the setups."""
CELL_LEAST = 8


def criteria_text(
    palette: Palette, rows: Sequence[Criterion], names: Sequence[str], colours: Mapping[str, str], width: int
) -> Text:
    """The table as text.

    Args:
        palette: the colours in force.
        rows: the criteria.
        names: the setups, in the review's order.
        colours: of each setup.
        width: cells there are; setups that do not fit are turned over to a second table below.
    """
    text = Text(no_wrap=True)
    if not rows:
        text.append("No run carries a figure under this load yet: record one on the Bench (3).", palette.soft)
        return text
    narrow = width < NARROW
    label = min(LABEL_NARROW if narrow else LABEL_MOST, max(len(r.label) for r in rows) + 2)
    cells = {
        n: max(CELL_LEAST, len(n), *(len(r.cells.get(n, "")) + 2 * (r.verdict == ASKED) for r in rows)) + 2
        for n in names
    }
    room, block = width - label - (0 if narrow else VERDICT), list[str]()
    for name in names:
        if block and sum(cells[n] for n in (*block, name)) > room:
            _block(text, palette, rows, block, colours, label, cells, narrow)
            text.append("\n")
            block = []
        block.append(name)
    _block(text, palette, rows, block, colours, label, cells, narrow)
    counts = tally(rows, names)
    text.append("\nwins alone  ", palette.soft)
    text.append(", ".join(f"{n} {k}" for n, k in counts.items() if k) or "none", palette.text)
    text.append(
        "    a count of criteria, not a mark: they are not worth the same to every reader\n", palette.faint
    )
    return text


def _block(
    text: Text, palette: Palette, rows: Sequence[Criterion], names: Sequence[str], colours: Mapping[str, str], label: int, cells: Mapping[str, int], narrow: bool,
) -> None:  # fmt: skip
    text.append(" " * label)
    for name in names:
        text.append(f"{name:>{cells[name]}}", f"bold {colours.get(name, palette.text)}")
    text.append("\n")
    for row in rows:
        words = row.label if len(row.label) < label else row.label[: label - 2] + "…"
        text.append(f"{words:<{label}}", palette.text)
        for name in names:
            value = row.cells.get(name, "–")
            best = name in row.best
            mark = "▸" if best and row.verdict == WINS else "=" if best else ""
            style = f"bold {palette.good}" if best else palette.text if name in row.cells else palette.faint
            if row.verdict == ASKED:
                mark, colour = ASKED_MARK.get(value, ("", "text"))
                style = getattr(palette, colour)
            text.append(f"{mark + value:>{cells[name]}}", style)
        tail = {WINS: f"{row.best[0]} wins" if row.best else "", LEVEL: "level"}.get(row.verdict, "")
        tail = "" if narrow else tail
        text.append(f"  {tail}\n", palette.good if row.verdict == WINS else palette.soft)
