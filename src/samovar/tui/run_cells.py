"""What a list of runs shows of each: its judgement, and the figure that it tells."""

from __future__ import annotations

from rich.text import Text

from samovar.archive.damage import DAMAGED
from samovar.archive.records import Run
from samovar.core.measured import Measured
from samovar.core.results.figure import ANY_PART, Figure
from samovar.figures.palette import JUDGEMENT_MARK, Palette


def figure_cell(found: tuple[Figure, Measured] | None, palette: Palette) -> Text:
    """What a run tells, and of what where that is not the die's rise."""
    if found is None:
        return Text("–")
    figure, value = found
    text = Text(figure.brief(value), no_wrap=True, overflow="ellipsis")
    if figure.key != "rise":
        # Where the part says it all, its word; else what is told of it.
        part = figure.parts[0] if figure.statistic in ("rise", "steady", "at") else None
        words = figure.label if part is None or part == ANY_PART else part.removesuffix(f" {figure.unit}")
        text.append(f" {words}", palette.soft)
    return text


def judgement_cell(run: Run, judgement: str | None, palette: Palette) -> Text:
    """How a run was judged, or why it was not."""
    if run.state == "recording":
        return Text("● recording", palette.quantity["temperature"])
    if (run.left_out or "").startswith(DAMAGED):
        return Text("✕ damaged", palette.bad)
    if run.state == "did-not-finish":
        return Text("✕ did not finish", palette.bad)
    if judgement is None:
        return Text("not judged", palette.faint)
    return Text(f"{JUDGEMENT_MARK[judgement]} {judgement}")


def short(words: str, most: int) -> str:
    """Words in so many letters at the most: what a table cuts off at its end is worse missed than the end of a name."""
    return words if len(words) <= most else f"{words[: most - 1].rstrip()}…"
