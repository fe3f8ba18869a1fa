"""The rows of a delimited text: parsed in one go where all is in order, looked at line by line where it is not.

Lines are counted over the bytes, and only those that do not fit are looked at one by one: a long log costs little
more than the bare parse.
"""

from __future__ import annotations

import mmap
import re
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from samovar.exchange.cells import NOTHING, is_number
from samovar.exchange.layout import is_comment, split
from samovar.exchange.problems import InputError

if TYPE_CHECKING:
    import polars

Text = bytes | mmap.mmap
MOST_WARNINGS = 50
STRETCH_BYTES = 100_000
_NULLS = ("N/A", "NaN", "-", "null")
"""The commonest words for nothing; the parser grows slow with each that it has to look out for."""


@dataclass(frozen=True)
class Lines:
    """A text by its lines: begins[k] to ends[k] are the bytes of line k without its line end."""

    data: bytes
    begins: NDArray[np.int64]
    ends: NDArray[np.int64]

    def text(self, k: int) -> str:
        return self.data[self.begins[k] : self.ends[k]].decode("utf-8", errors="replace").rstrip("\r")


@dataclass
class Faults:
    """What is wrong with lines, named one by one as long as that is of use."""

    warnings: list[str] = field(default_factory=list)
    odd: int = 0

    def odd_line(self, number: int, count: int, wanted: int) -> None:
        """A line with another number of fields."""
        self.odd += 1
        if self.odd <= MOST_WARNINGS:
            self.warnings.append(f"line {number}: {count} fields instead of {wanted}, skipped")

    def all(self) -> list[str]:
        """Every warning."""
        if self.odd <= MOST_WARNINGS:
            return self.warnings
        return [
            *self.warnings,
            f"{self.odd - MOST_WARNINGS} more lines with another number of fields, skipped",
        ]


@dataclass(frozen=True)
class Found:
    """Rows, the places of their lines after the titles, from 0, and what was wrong with others."""

    frame: polars.DataFrame
    numbers: NDArray[np.int64]
    warnings: list[str] = field(default_factory=list)


def terms_of_numbers(
    data: Text, separator: str, titles: list[str], skip: int = 0
) -> tuple[dict[str, Any], list[str]] | None:
    """How the parser is to take a text of rows, its first `skip` lines left aside, and the words for nothing that its
    sample shows; None where its cells are not mostly numbers."""
    import polars

    guessed, comma, nulls = guessed_schema(data, separator, titles, skip)
    if sum(kind == polars.Float64 for kind in guessed.values()) < 0.5 * len(titles):
        return None
    terms = {
        "schema": guessed,
        "separator": separator,
        "has_header": False,
        "skip_rows": skip,
        "quote_char": None,
        "decimal_comma": comma,
    }
    return terms, nulls


def numbers_of(data: bytes, separator: str, titles: list[str], skip: int = 0) -> polars.DataFrame | None:
    """The rows of a text, its first `skip` lines left aside, whose lines all have their fields, mostly numbers; None
    where they are not."""
    import polars

    found = terms_of_numbers(data, separator, titles, skip)
    if found is None:
        return None
    terms, nulls = found
    # Each word for nothing that has to be looked out for costs time: those of the sample first, then all.
    for words in ([w for w in nulls if w not in _NULLS] or None, nulls):
        try:
            return polars.read_csv(data, null_values=words, **terms)
        except polars.exceptions.PolarsError:
            continue
    return None


def patched_rows(
    data: bytes, begin: int, separator: str, titles: list[str], title: str | None, before: int
) -> Found | None:
    """The rows of a text in which a line here and there is none: stretches of it are counted whole, and only those
    with another number of separators than their lines should have are looked at line by line. None where that does
    not do."""
    if len(separator) > 1 or separator == " " or data.find(b'"') >= 0:
        return None
    mark, width, again = separator.encode(), len(titles), (title or "").encode()
    pieces: list[bytes] = []
    gone: list[NDArray[np.int64]] = []
    faults, at, line = Faults(), begin, 0
    while at < len(data):
        end = data.find(b"\n", at + STRETCH_BYTES) + 1 or len(data)
        piece = data[at:end]
        lines_here = piece.count(b"\n") + (not piece.endswith(b"\n"))
        if piece.count(mark) != lines_here * (width - 1) or (again and again in piece):
            lines = lines_of(piece.removesuffix(b"\n"))
            keep = fitting_lines(lines, separator, width, title, faults, 0, before + line)
            piece = b"".join(
                lines.data[lines.begins[k] : lines.ends[k]] + b"\n" for k in np.flatnonzero(keep)
            )
            gone.append(np.flatnonzero(~keep) + line)
        pieces.append(piece)
        at, line = end, line + lines_here
    numbers = np.delete(np.arange(line), np.concatenate(gone)) if gone else np.arange(line)
    frame = numbers_of(b"".join(pieces), separator, titles)
    return None if frame is None or frame.height != len(numbers) else Found(frame, numbers, faults.all())


def lines_of(data: bytes) -> Lines:
    """A text's lines, told by their ends."""
    breaks = np.flatnonzero(np.frombuffer(data, np.uint8) == ord("\n")).astype(np.int64)
    begins = np.concatenate([[0], breaks + 1])
    ends = np.concatenate([breaks, [len(data)]])
    return Lines(data, begins, ends)


def tabbed(lines: Lines, separator: str) -> Lines:
    """Lines whose fields stand apart by blanks, with a tab between them instead."""
    whole = [lines.text(k) for k in range(len(lines.begins))]
    return lines_of(
        "\n".join("\t".join(split(line, separator)) if line.strip() else "" for line in whole).encode()
    )


def fitting_lines(
    lines: Lines,
    separator: str,
    wanted: int,
    title: str | None,
    faults: Faults,
    begin: int = 0,
    before: int = 0,
) -> NDArray[np.bool_]:
    """Which lines, from `begin` on, hold a row; what is wrong with the others is told to `faults`, by the number of
    the line where `before` lines stand before these."""
    raw = np.frombuffer(lines.data, np.uint8)
    # No separator stands between a line's end and the next one's beginning: those before each end are enough.
    counted = np.searchsorted(np.flatnonzero(raw == ord(separator)), lines.ends)
    fields = np.diff(counted, prepend=0) + 1
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
    if title is not None and title.strip():
        doubtful |= _again(lines, title.encode(), begin)
    for k in np.flatnonzero(doubtful):
        line, number = lines.text(int(k)), before + int(k) + 1
        if not line.strip() or is_comment(line):
            keep[k] = False
            continue
        if line == title:
            keep[k] = False
            faults.warnings.append(f"line {number}: the titles again, skipped")
            continue
        count = len(split(line, separator)) if '"' in line else int(fields[k])
        keep[k] = count == wanted
        if not keep[k]:
            faults.odd_line(number, count, wanted)
    return keep


def _again(lines: Lines, title: bytes, begin: int) -> NDArray[np.bool_]:
    """Lines, from `begin` on, that repeat the titles."""
    out = np.zeros(len(lines.begins), dtype=bool)
    at = lines.data.find(title, int(lines.begins[begin]) if begin < len(lines.begins) else len(lines.data))
    while at >= 0:
        k = int(np.searchsorted(lines.begins, at, "right")) - 1
        out[k] = int(lines.begins[k]) == at
        at = lines.data.find(title, at + len(title))
    return out


def joined(lines: Lines, before: int, keep: NDArray[np.bool_]) -> bytes:
    """The bytes of the lines that are kept: neighbouring ones are taken in one piece."""
    if bool(keep[before + 1 : -1].all()) and (bool(keep[-1]) or lines.begins[-1] == lines.ends[-1]):
        return lines.data[lines.begins[before + 1] :]
    edges = np.flatnonzero(np.diff(np.concatenate([[False], keep, [False]]).astype(np.int8))).reshape(-1, 2)
    return b"\n".join(lines.data[lines.begins[a] : lines.ends[b - 1]] for a, b in edges)


def parsed(path: Path, data: bytes, separator: str, titles: list[str], rows: int) -> polars.DataFrame:
    """The table of lines that all fit, by the parser where it can, cell by cell where it cannot; `rows` is how many
    there should be. Raises InputError: no line can be parsed."""
    import polars

    if b'"' in data and data.count(separator.encode()) == rows * (len(titles) - 1):
        # No separator stands within quotes: without them the rows are the same.
        data = data.replace(b'"', b"")
    plain: dict[str, type[polars.DataType]] = dict.fromkeys(titles, polars.String)
    # The parser's own idea of odd quotes ends in a panic: what is quoted in earnest is split below.
    guessed, comma, nulls = guessed_schema(data, separator, titles)
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


def guessed_schema(
    data: Text, separator: str, titles: list[str], skip: int = 0
) -> tuple[dict[str, type[polars.DataType]], bool, list[str]]:
    """Which columns hold plain numbers, from rows here and there, whether they have decimal commas, and the words
    that stand in them for nothing."""
    import polars

    lines = (data[: 40_000 * (1 + skip // 50)].split(b"\n")[:-1] or data[:].split(b"\n"))[skip:]
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
