"""The table of criteria, drawn in cells: setups across, criteria down, what is best marked by sign and word."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from rich.text import Text

from samovar.archive.before_after import Step
from samovar.core.compare.criteria import ASKED, LEVEL, WINS, Criterion, tally, weighed
from samovar.core.compare.loads import SideBySide
from samovar.core.results.figure import Figure
from samovar.figures.palette import Palette
from samovar.tui.run_cells import short

ASKED_MARK = {"met": ("✔ ", "good"), "not met": ("✕ ", "bad"), "not shown": ("? ", "caution")}
"""What a setup makes of a demand: its sign, and the palette's colour for it."""
LABEL_MOST, LABEL_NARROW = 42, 27
NARROW = 96
"""Under so many cells the signs alone say who wins: there is no column of words for it."""
VERDICT = 24
"""Cells for who wins, behind the setups."""
CELL_LEAST, CELL_MOST = 8, 22
"""A value, which may name another setup, is cut where it is longer: the ladder of that figure has it whole."""
NAME_MOST = 16
"""Longer names of setups are cut in the table's head: the ladder has them whole."""


def criteria_text(
    palette: Palette,
    rows: Sequence[Criterion],
    names: Sequence[str],
    colours: Mapping[str, str],
    width: int,
    lacking: Mapping[str, Mapping[str, Sequence[str]]] | None = None,
) -> Text:
    """The table as text.

    Args:
        palette: the colours in force.
        rows: the criteria.
        names: the setups, in the review's order.
        colours: of each setup.
        width: cells there are; setups that do not fit are turned over to a second table below.
        lacking: what each setup lacks, and what is wrong with it.
    """
    text = Text(no_wrap=True)
    if not rows:
        text.append("No run carries a figure under this load yet: record one on the Bench (3).", palette.soft)
        return text
    narrow = width < NARROW
    label = min(
        LABEL_NARROW if narrow else LABEL_MOST, max(len(r.label) + 4 * bool(r.weight) for r in rows) + 2
    )
    cells = {
        n: max(
            CELL_LEAST,
            min(NAME_MOST, len(n)),
            *(min(CELL_MOST, len(r.cells.get(n, ""))) + 2 * (r.verdict == ASKED) for r in rows),
        )
        + 2
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
    text.append("    a count of unlike things, no mark\n", palette.faint)
    total = weighed(rows, names)
    if total:
        whole = sum(r.weight for r in rows if r.best)
        text.append("by weight   ", palette.soft)
        ranked = sorted(total.items(), key=lambda x: -x[1])
        text.append(", ".join(f"{n} {v:g}" for n, v in ranked), palette.text)
        text.append(f" of {whole:g}    the weights are the reviewer's own\n", palette.faint)
    for name, lists in (lacking or {}).items():
        for kind, items in lists.items():
            text.append(f"{kind:<12}", palette.caution)
            text.append(f"{name}: ", f"bold {colours.get(name, palette.text)}")
            text.append(f"{'; '.join(items)}\n", palette.text)
    return text


def loads_words(palette: Palette, shown: SideBySide, figure: Figure) -> Text:
    """Which load is the hardest, and for which setups that holds; or why the figure does not tell."""
    text = Text()
    if not shown.tells:
        text.append(
            f"{figure.label} of unlike loads is of unlike things: it does not tell which is harder.\n",
            palette.soft,
        )
        return text
    if shown.hardest:
        text.append("\nwhich load is harder here?\n", f"bold {palette.brass}")
    for words, names in shown.hardest.items():
        text.append(f"{words}  ", palette.text)
        text.append(f"{', '.join(names)}\n", palette.soft)
    return text


def steps_text(palette: Palette, steps: Sequence[Step]) -> Text:
    """Before and after, step by step: what hands did, and what it gained."""
    text = Text()
    if steps:
        text.append("\nstep by step\n", f"bold {palette.brass}")
    for step in steps:
        text.append(f"{step.before} → {step.after}  ", f"bold {palette.text}")
        text.append(f"{', '.join(step.work)}\n", palette.soft)
        text.append(f"  {step.gained()}\n", palette.text)
    return text


def _short(name: str) -> str:
    return name if len(name) <= NAME_MOST else f"{name[: NAME_MOST - 1]}…"


def _block(
    text: Text, palette: Palette, rows: Sequence[Criterion], names: Sequence[str], colours: Mapping[str, str], label: int, cells: Mapping[str, int], narrow: bool,
) -> None:  # fmt: skip
    text.append(" " * label)
    for name in names:
        text.append(f"{_short(name):>{cells[name]}}", f"bold {colours.get(name, palette.text)}")
    text.append("\n")
    for row in rows:
        words = f"{row.label} ×{row.weight:g}" if row.weight else row.label
        words = words if len(words) < label else words[: label - 2] + "…"
        text.append(f"{words:<{label}}", palette.text)
        for name in names:
            value = short(row.cells.get(name, "–"), CELL_MOST)
            best = name in row.best
            mark = "▸" if best and row.verdict == WINS else "=" if best else ""
            style = f"bold {palette.good}" if best else palette.text if name in row.cells else palette.faint
            if row.verdict == ASKED:
                mark, colour = ASKED_MARK.get(value, ("", "text"))
                style = getattr(palette, colour)
            text.append(f"{mark + value:>{cells[name]}}", style)
        tail = {WINS: f"{_short(row.best[0])} wins" if row.best else "", LEVEL: "level"}.get(row.verdict, "")
        tail = "" if narrow else tail
        text.append(f"  {tail}\n", palette.good if row.verdict == WINS else palette.soft)
