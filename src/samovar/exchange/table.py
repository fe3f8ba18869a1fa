"""Delimited text as a table: its rows parsed, lines that do not fit left out and named.

Lines are counted by numpy over the bytes, and only those that do not fit are looked at one by one: a
long log costs little more than the bare parse.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from samovar.exchange.cells import NOTHING, is_number
from samovar.exchange.encoding import as_utf8, mended
from samovar.exchange.layout import LOOK_LINES, Layout, find_layout, is_comment, split
from samovar.exchange.problems import InputError

if TYPE_CHECKING:
    import polars

MOST_WARNINGS = 50
_NULLS = ("N/A", "NaN", "-", "null")
"""The commonest words for nothing; the parser grows slow with each that it has to look out for."""


@dataclass(frozen=True)
class Table:
    """A text's rows: numbers where a column holds nothing else, text elsewhere. `units` by title, where the text has
    a line of them; `titles` as they stand there, by column; `lines` the number of each row's line, from 1."""

    frame: polars.DataFrame
    warnings: list[str] = field(default_factory=list)
    units: dict[str, str] = field(default_factory=dict)
    titles: dict[str, str] = field(default_factory=dict)
    lines: NDArray[np.int64] | None = None

    def line_of(self, row: int) -> int:
        """The number of a row's line in the file, from 1."""
        return row + 2 if self.lines is None else int(self.lines[row])


@dataclass(frozen=True)
class _Lines:
    """A text by its lines: begins[k] to ends[k] are the bytes of line k without its line end."""

    data: bytes
    begins: NDArray[np.int64]
    ends: NDArray[np.int64]

    def text(self, k: int) -> str:
        return self.data[self.begins[k] : self.ends[k]].decode("utf-8", errors="replace").rstrip("\r")


def read_table(path: Path) -> Table:
    """The table of a delimited text, its titles made unique.

    Raises:
        InputError: not readable, no text, no titles, or no rows.
    """
    data = as_utf8(path)
    quick = _flawless(data)
    if quick is not None:
        return quick
    lines = _lines(data)
    head = [lines.text(k) for k in range(min(len(lines.begins), LOOK_LINES))]
    first = next((k for k in range(len(head)) if head[k].strip() and not is_comment(head[k])), None)
    if first is None:
        raise InputError(f"{path}: the file is empty; give a log with a line of titles and rows of numbers")
    layout = find_layout(head)
    if layout is None:
        titled = any(len(split(head[first], mark)) > 1 for mark in ",;\t|")
        what = "titles but no rows" if titled else "no column titles found"
        raise InputError(f"{path}:{first + 1}: {what}; give a log with titles and rows of numbers")
    separator = layout.separator
    if len(separator) > 1 or separator == " ":
        lines, separator = _tabbed(lines, separator), "\t"
    titles = layout.titles or [f"column {k + 1}" for k in range(layout.width)]
    names = unique_names([t or f"column {k + 1}" for k, t in enumerate(titles)])
    keep, warnings = _fitting(lines, layout, separator)
    rows = np.flatnonzero(keep)
    frame = _parse(path, _joined(lines, layout.data - 1, keep), separator, names, len(rows))
    before = list(range(first, layout.header if layout.header is not None else layout.data))
    before = [k for k in before if head[k].strip() and not is_comment(head[k])]
    if before:
        named = f"line {before[0] + 1}" if len(before) == 1 else f"lines {before[0] + 1} to {before[-1] + 1}"
        warnings.insert(0, f"{named}: before the titles, not used")
    if layout.header is None:
        warnings.insert(0, "no line of titles: columns are numbered from 1")
    units = {n: u for n, u in zip(names, layout.units, strict=False) if u}
    return Table(frame, warnings, units, dict(zip(names, titles, strict=True)), rows + 1)


def _flawless(data: bytes) -> Table | None:
    """The table of a text in which nothing is out of order; None where that is not certain.

    Titles on the first line, then nothing but numbers. With as many separators in all as the rows should
    have together, a row that is too short would mean one that is too long, which the parser refuses.
    """
    import polars

    end = data.find(b"\n")
    if end <= 0 or b'"' in data or data[:1] == b"#":
        return None
    first = data[:end].decode("utf-8", errors="replace").rstrip("\r")
    separator = max(",;\t|", key=lambda s: (first.count(s), -",;\t|".index(s)))
    written = [mended(t).strip() for t in first.split(separator)]
    titles = unique_names(written)
    second = data[end + 1 : data.find(b"\n", end + 1)].decode("utf-8", errors="replace")
    if any(cell.strip() and not _is_plain(cell) for cell in second.split(separator)):
        return None
    if len(titles) < 2 or any(re.fullmatch(r"[+-]?[\d.,]+", t) for t in titles) or "" in titles:
        return None
    try:
        frame = polars.read_csv(
            data[end + 1 :],
            schema=dict.fromkeys(titles, polars.Float64),
            separator=separator,
            has_header=False,
            quote_char=None,
        )
    except polars.exceptions.PolarsError:
        return None
    if data.count(separator.encode()) != (frame.height + 1) * (len(titles) - 1):
        return None
    return Table(frame, titles=dict(zip(titles, written, strict=True)))


def _is_plain(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return True


def _lines(data: bytes) -> _Lines:
    if b"\n" not in data:
        data = data.replace(b"\r", b"\n")
    breaks = np.flatnonzero(np.frombuffer(data, np.uint8) == ord("\n")).astype(np.int64)
    begins = np.concatenate([[0], breaks + 1])
    ends = np.concatenate([breaks, [len(data)]])
    return _Lines(data, begins, ends)


def _tabbed(lines: _Lines, separator: str) -> _Lines:
    """Lines whose fields stand apart by blanks, with a tab between them instead."""
    whole = [lines.text(k) for k in range(len(lines.begins))]
    return _lines(
        "\n".join("\t".join(split(line, separator)) if line.strip() else "" for line in whole).encode()
    )


def _fitting(lines: _Lines, layout: Layout, separator: str) -> tuple[NDArray[np.bool_], list[str]]:
    """Which lines hold a row, and what is wrong with the others."""
    wanted, begin = layout.width, layout.data
    raw = np.frombuffer(lines.data, np.uint8)
    places = np.flatnonzero(raw == ord(separator))
    fields = np.searchsorted(places, lines.ends) - np.searchsorted(places, lines.begins) + 1
    keep = np.asarray(fields == wanted)
    keep[:begin] = False
    first_byte = raw[np.minimum(lines.begins, max(len(raw) - 1, 0))]
    comment = (first_byte == ord("#")) | (first_byte == ord("/"))
    doubtful = np.asarray((fields != wanted) | comment)
    if b'"' in lines.data:
        # A quoted separator is none: lines with quotes are counted properly.
        quotes = np.flatnonzero(raw == ord('"'))
        doubtful |= np.searchsorted(quotes, lines.ends) > np.searchsorted(quotes, lines.begins)
    doubtful[:begin] = False
    if layout.header is not None:
        doubtful |= _again(lines, layout.header)
    title_line = lines.text(layout.header) if layout.header is not None else None
    warnings: list[str] = []
    dropped = 0
    for k in np.flatnonzero(doubtful):
        line = lines.text(int(k))
        if not line.strip() or is_comment(line):
            keep[k] = False
            continue
        if line == title_line:
            keep[k] = False
            warnings.append(f"line {k + 1}: the titles again, skipped")
            continue
        count = len(split(line, separator)) if '"' in line else int(fields[k])
        keep[k] = count == wanted
        if keep[k]:
            continue
        dropped += 1
        if dropped <= MOST_WARNINGS:
            warnings.append(f"line {k + 1}: {count} fields instead of {wanted}, skipped")
    if dropped > MOST_WARNINGS:
        warnings.append(f"{dropped - MOST_WARNINGS} more lines with another number of fields, skipped")
    return keep, warnings


def _again(lines: _Lines, header: int) -> NDArray[np.bool_]:
    """Lines that repeat the titles."""
    out = np.zeros(len(lines.begins), dtype=bool)
    title = lines.data[lines.begins[header] : lines.ends[header]]
    at = lines.data.find(title, int(lines.ends[header]))
    while at >= 0 and title.strip():
        k = int(np.searchsorted(lines.begins, at, "right")) - 1
        out[k] = int(lines.begins[k]) == at
        at = lines.data.find(title, at + len(title))
    return out


def _joined(lines: _Lines, before: int, keep: NDArray[np.bool_]) -> bytes:
    """The bytes of the lines that are kept: neighbouring ones are taken in one piece."""
    if bool(keep[before + 1 : -1].all()) and (bool(keep[-1]) or lines.begins[-1] == lines.ends[-1]):
        return lines.data[lines.begins[before + 1] :]
    edges = np.flatnonzero(np.diff(np.concatenate([[False], keep, [False]]).astype(np.int8))).reshape(-1, 2)
    return b"\n".join(lines.data[lines.begins[a] : lines.ends[b - 1]] for a, b in edges)


def _parse(path: Path, data: bytes, separator: str, titles: list[str], rows: int) -> polars.DataFrame:
    import polars

    if b'"' in data and data.count(separator.encode()) == rows * (len(titles) - 1):
        # No separator stands within quotes: without them the rows are the same.
        data = data.replace(b'"', b"")
    plain: dict[str, type[polars.DataType]] = dict.fromkeys(titles, polars.String)
    # The parser's own idea of odd quotes ends in a panic: what is quoted in earnest is split below.
    guessed, comma, nulls = _guessed(data, separator, titles)
    for schema in () if b'"' in data else (guessed, plain):
        try:
            frame = polars.read_csv(
                data,
                schema=schema,
                separator=separator,
                has_header=False,
                quote_char=None,
                null_values=None if schema is plain else nulls,
                decimal_comma=comma and schema is guessed,
            )
        except polars.exceptions.PolarsError:
            continue
        if frame.height == rows:
            return frame
    # What people quote, and how, is better left to the parser that has seen it all.
    cells = [
        split(line.rstrip("\r"), separator) for line in data.decode("utf-8", errors="replace").split("\n")
    ]
    fitting = [row for row in cells if len(row) == len(titles)]
    if not fitting:
        raise InputError(f"{path}: the rows cannot be parsed; give a log as delimited text")
    columns = zip(*fitting, strict=True)
    return polars.DataFrame(
        {t: polars.Series(c, dtype=polars.String) for t, c in zip(titles, columns, strict=True)}
    )


def _guessed(
    data: bytes, separator: str, titles: list[str]
) -> tuple[dict[str, type[polars.DataType]], bool, list[str]]:
    """Which columns hold plain numbers, from rows here and there, whether they have decimal commas, and the words
    that stand in them for nothing."""
    import polars

    lines = data[:40_000].split(b"\n")[:-1] or data.split(b"\n")
    middle = len(data) // 2
    lines = lines[:80] + data[middle : middle + 40_000].split(b"\n")[1:-1][:80]
    plain, pointed, commas = [True] * len(titles), [False] * len(titles), [False] * len(titles)
    odd, nothing = [False] * len(titles), set(_NULLS)
    for line in lines:
        cells = split(line.decode("utf-8", errors="replace").rstrip("\r"), separator)[: len(titles)]
        for k, cell in enumerate(cells):
            if not cell or cell.strip().lower() in NOTHING:
                nothing.add(cell)
                continue
            try:
                float(cell)
                pointed[k] |= "." in cell
            except ValueError:
                plain[k] = False
                commas[k] |= "," in cell and is_number(cell)
                odd[k] |= re.fullmatch(r"-?\d+(,\d+)?", cell) is None
    # Beside decimal commas a point marks thousands: those columns are read with the others' style in mind.
    comma = separator != "," and any(c and not o for c, o in zip(commas, odd, strict=True))
    comma = comma and not any(p and q for p, q in zip(plain, pointed, strict=True))
    numeric = [
        not p and c and not o if comma and not p else p and not (any(commas) and q)
        for p, q, c, o in zip(plain, pointed, commas, odd, strict=True)
    ]
    return (
        {t: polars.Float64 if n else polars.String for t, n in zip(titles, numeric, strict=True)},
        comma,
        sorted(nothing - {""}),
    )


def unique_names(names: list[str]) -> list[str]:
    """Names told apart: the second of one name becomes `name (2)`."""
    seen: dict[str, int] = {}
    taken = set(names)
    out: list[str] = []
    for name in names:
        seen[name] = seen.get(name, 0) + 1
        shown = name
        while seen[name] > 1 and (shown := f"{name} ({seen[name]})") in taken:
            seen[name] += 1
        taken.add(shown)
        out.append(shown)
    return out
