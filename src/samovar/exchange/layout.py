"""How a delimited text is laid out: its separator, its titles, the line of units, where its rows begin."""

from __future__ import annotations

import csv
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from samovar.exchange.cells import FLAGS, is_nothing, is_number
from samovar.exchange.encoding import mended
from samovar.exchange.moments import looks_like_moment
from samovar.exchange.titles import split_title
from samovar.exchange.units_of_logs import known_unit

SEPARATORS = (",", ";", "\t", "|", "  ", " ")
"""The last two are runs of two spaces and more, and of any."""
NO_SEPARATOR = "\x1f"
"""Stands for the separator where there is but one column."""
LEAST_ROWS = 8
LOOK_LINES = 400
SCORED_LINES = 60
"""So many lines behind the first that look like a log's tell the separator."""
LEAST_SCORED, SCORED_CHARACTERS = 12, 4000
"""Of wide logs fewer lines tell it: each has many fields."""


@dataclass(frozen=True, slots=True)
class Layout:
    """`titles` as they stand, one for each of `width` fields; `units` of a line of their own, empty without one.
    `header` and `data` are numbers of lines, from 0; `header` is None without titles."""

    separator: str
    width: int
    titles: list[str]
    units: list[str]
    header: int | None
    data: int


def split(line: str, separator: str) -> list[str]:
    """A line's fields; quoted ones may hold the separator."""
    if separator == "  ":
        return re.split(r"\s{2,}|\t", line.strip())
    if separator == " ":
        return line.split()
    if '"' not in line:
        return line.split(separator)
    try:
        return next(csv.reader([line.replace("\r", " ")], delimiter=separator), [])
    except csv.Error:
        return line.split(separator)


def is_comment(line: str) -> bool:
    """Whether a line is there for people only."""
    return line.lstrip().startswith(("#", "//"))


def _is_value(cell: str) -> bool:
    cell = cell.strip()
    return is_nothing(cell) or is_number(cell) or cell.lower() in FLAGS or looks_like_moment(cell)


def is_row(cells: Sequence[str]) -> bool:
    """Whether these fields are a row of values rather than words: numbers and times lead."""
    real = [c for c in cells if not is_nothing(c.strip())]
    if not real:
        return False
    values = sum(_is_value(c) for c in real)
    # A time or a count in front, and a number behind it, make a row of whatever words stand between.
    leads = any(_is_value(c) and not is_nothing(c.strip()) for c in cells[:2])
    return values > 0 and (values >= 0.5 * len(real) or (leads and values >= 2))


def _score(lines: Sequence[str], separator: str) -> tuple[float, int]:
    """How well a separator explains the lines, and how many fields it makes."""
    counts: Counter[int] = Counter()
    rows = [split(line, separator) for line in lines]
    for cells in rows:
        if len(cells) > 1 and is_row(cells):
            counts[len(cells)] += 1
    if not counts:
        return 0.0, 0
    width = max(counts, key=lambda n: (counts[n] * (n**0.5), n))
    good = [cells for cells in rows if len(cells) == width]
    share = sum(_is_value(c) for cells in good for c in cells) / max(1, sum(len(c) for c in good))
    # Spaces stand within titles and times too: they count for less than a mark made to separate.
    weight = {" ": 0.6, "  ": 0.8}.get(separator, 1.0)
    return weight * counts[width] * share**2 * width**0.5, width


def find_layout(lines: Sequence[str]) -> Layout | None:
    """The layout of a text by its first lines; None where no separator makes rows of values of them."""
    head = list(lines[:LOOK_LINES])
    asked = [line for line in head if line.strip() and not is_comment(line)]
    # What leads a log in is short: beyond it every line tells the same.
    scored_lines = max(
        LEAST_SCORED, min(SCORED_LINES, SCORED_CHARACTERS // max(1, len(asked[-1]) if asked else 1))
    )
    scored = asked if len(asked) <= 2 * scored_lines else [*asked[:scored_lines], *asked[-scored_lines:]]
    scores = {separator: _score(scored, separator) for separator in SEPARATORS}
    best = max(SEPARATORS, key=lambda s: scores[s][0])
    score, width = scores[best]
    if score <= 0:
        return _one_column(head)
    data = next(
        k
        for k, line in enumerate(head)
        if line.strip() and not is_comment(line) and len(c := split(line, best)) == width and is_row(c)
    )
    above: list[tuple[int, list[str]]] = []
    for k in range(data - 1, -1, -1):
        line = head[k]
        if not line.strip():
            continue
        if is_comment(line):
            cells = split(line.lstrip("#/ "), best)
            # Titles behind the sign of a comment, where no others stand over the rows.
            if not above and len(cells) == width and width > 1 and not is_row(cells):
                above.append((k, cells))
            continue
        cells = split(line, best)
        if not width - 1 <= len(cells) <= width + 1 or len(cells) < 2 or is_row(cells):
            break
        above.append((k, cells))
        if len(above) == 3:
            break
    units: list[str] = []
    if len(above) >= 2 and _are_units(above[0][1]):
        units = [mended(u).strip().strip("[](){}") for u in _fitted(above.pop(0)[1], width)]
    if not above:
        return Layout(best, width, [], units, None, data)
    header, cells = above[0]
    titles = [mended(t).strip().strip('"').strip() for t in _fitted(cells, width)]
    if len(above) > 1 and len(set(titles)) < len(titles) - titles.count("") and not units:
        titles = _with_groups(titles, [mended(g).strip() for g in _fitted(above[1][1], width)])
    return Layout(best, width, titles, units, header, data)


def _one_column(head: Sequence[str]) -> Layout | None:
    """The layout of a title with numbers under it and nothing beside them; None where it is not that."""
    asked = [(k, line.strip()) for k, line in enumerate(head) if line.strip() and not is_comment(line)]
    if len(asked) < LEAST_ROWS + 1 or is_number(asked[0][1]) or not known_unit(split_title(asked[0][1])[1]):
        return None
    under = [line for _, line in asked[1:]]
    if sum(is_number(line) or is_nothing(line) for line in under) < 0.9 * len(under):
        return None
    return Layout(NO_SEPARATOR, 1, [mended(asked[0][1]).strip('"')], [], asked[0][0], asked[1][0])


def _fitted(cells: Sequence[str], width: int) -> list[str]:
    """Cells of a line above the rows, as many as a row has."""
    return [*cells[:width], *[""] * (width - len(cells))]


def _are_units(cells: Sequence[str]) -> bool:
    """Whether a line tells units: most of what stands in it is one."""
    real = [mended(c).strip().strip("[](){}") for c in cells if c.strip()]
    return bool(real) and sum(known_unit(c) or c in ("-", "") for c in real) >= 0.6 * len(real)


def _with_groups(titles: Sequence[str], groups: Sequence[str]) -> list[str]:
    """Titles that stand several times, told apart by the group named over them."""
    filled, last = [], ""
    for group in groups:
        last = group or last
        filled.append(last)
    counts = Counter(titles)
    return [f"{g} {t}".strip() if counts[t] > 1 and g else t for t, g in zip(titles, filled, strict=True)]
