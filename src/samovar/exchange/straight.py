"""The rows of a text in which nearly every line is one: parsed in one go, and only the odd lines looked at."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from samovar.exchange.cells import NOTHING
from samovar.exchange.layout import is_comment
from samovar.exchange.rows import STRETCH_BYTES, Faults, Found, Text, numbers_of, terms_of_numbers

if TYPE_CHECKING:
    import polars

LINE_END = ord("\n")
MOST_LOOKED_AT = 5000
"""So many odd lines are looked at one by one; with more of them the text is of another kind."""


def straight_rows(
    data: Text, source: bytes | Path, begin: int, separator: str, titles: list[str], before: int
) -> Found | None:
    """The rows from byte `begin` on, where nearly every line is one of them; None where that is not certain.

    The parser refuses rows too long, and leaves nothing where a row is too short or a cell no number: those lines are
    looked at one by one, as long as there are not too many of them.
    """
    if len(separator) > 1 or separator == " " or data.find(b'"') >= 0:
        return None
    # The parser counts no empty line among those it is to leave aside.
    counted = all(line.strip() for line in data[:begin].split(b"\n")[:-1])
    if not counted and isinstance(source, Path):
        return None
    parse = (
        _parse_numbers(data, source, separator, titles, before)
        if counted
        else _parse_numbers(data[begin:], data[begin:], separator, titles)
    )
    if parse is None:
        return None
    frame, comma = parse
    # Where a column holds text, what is missing in it says nothing.
    numeric = [t for t in titles if frame[t].dtype.is_numeric()]
    holes = frame.select(_any_missing(numeric)).to_series()
    odd = np.flatnonzero(holes.to_numpy())
    numbers = np.arange(frame.height)
    if len(odd) == 0:
        return Found(frame, numbers)
    if len(odd) > MOST_LOOKED_AT:
        return _with_many_holes(data, source, begin, separator, titles, before if counted else None)
    texts, count_of_lines = _lines_at(data, begin, odd.tolist())
    if count_of_lines != frame.height:
        return None
    faults, keep = Faults(), np.ones(frame.height, dtype=bool)
    for k, text in texts.items():
        cells = text.split(separator)
        if not text.strip() or is_comment(text) or len(cells) != len(titles):
            keep[k] = False
            if text.strip() and not is_comment(text):
                faults.odd_line(before + k + 1, len(cells), len(titles))
        elif any(
            _is_lost(cell, comma) for title, cell in zip(titles, cells, strict=True) if title in numeric
        ):
            # A number written in another way than the rest: what it means is not for the parser to say.
            return None
    return Found(frame.filter(keep), numbers[keep], faults.all())


def _with_many_holes(
    data: Text, source: bytes | Path, begin: int, separator: str, titles: list[str], skip: int | None
) -> Found | None:
    """The rows of a text with more missing values than can be looked at one by one: where its words for nothing explain
    them all, and every line is a row."""
    if not isinstance(data, bytes):
        return None
    frame = numbers_of(data if skip is not None else data[begin:], separator, titles, skip or 0)
    if frame is None:
        return None
    whole = data.count(separator.encode(), begin) == frame.height * (len(titles) - 1)
    whole = whole and data.count(b"\n", begin) + (not data.endswith(b"\n")) == frame.height
    return Found(frame, np.arange(frame.height)) if whole else None


def _is_lost(cell: str, comma: bool) -> bool:
    """Whether a cell says something that the parser did not take for a number: words, or one written otherwise."""
    if cell.strip().lower() in NOTHING:
        return False
    try:
        float(cell.replace(",", ".") if comma else cell)
    except ValueError:
        return True
    return cell != cell.strip()


def _any_missing(columns: list[str]) -> polars.Expr:
    """Whether a row misses any of these."""
    import polars

    if not columns:
        return polars.lit(False)
    return polars.any_horizontal(polars.col(columns).is_null())


def _lines_at(data: Text, begin: int, wanted: list[int]) -> tuple[dict[int, str], int]:
    """Some lines by their places after byte `begin`, from 0 and rising, and how many there are in all: counted over
    stretches, so that a long text is not taken apart for a few lines of it."""
    view = np.frombuffer(data, np.uint8)
    texts: dict[int, str] = {}
    at, line, k = begin, 0, 0
    while at < len(data):
        end = min(at + STRETCH_BYTES, len(data))
        breaks = int(np.count_nonzero(view[at:end] == LINE_END))
        if k < len(wanted) and wanted[k] <= line + breaks:
            ends = np.flatnonzero(view[at:end] == LINE_END) + at
            while k < len(wanted) and wanted[k] < line + breaks:
                first = ends[wanted[k] - line - 1] + 1 if wanted[k] > line else data.rfind(b"\n", 0, at) + 1
                texts[wanted[k]] = _line(data, max(begin, int(first)), int(ends[wanted[k] - line]))
                k += 1
        at, line = end, line + breaks
    if view[-1] != LINE_END:
        if k < len(wanted) and wanted[k] == line:
            texts[line] = _line(data, max(begin, data.rfind(b"\n") + 1), len(data))
        line += 1
    return texts, line


def _line(data: Text, begin: int, end: int) -> str:
    return data[begin:end].decode("utf-8", errors="replace").rstrip("\r")


def _parse_numbers(
    data: Text, source: bytes | Path, separator: str, titles: list[str], skip: int = 0
) -> tuple[polars.DataFrame, bool] | None:
    """The rows of a text, its first `skip` lines left aside, nothing where a cell is no number, and whether it has decimal
    commas; None where its cells are not mostly numbers, or a row is too long."""
    import polars

    found = terms_of_numbers(data, separator, titles, skip)
    if found is None:
        return None
    terms, _ = found
    try:
        return polars.read_csv(source, ignore_errors=True, **terms), terms["decimal_comma"]
    except polars.exceptions.PolarsError:
        return None
