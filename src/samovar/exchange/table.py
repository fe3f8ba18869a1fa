"""Delimited text as a table: its separator and titles found, lines that do not fit left out and named.

Lines are counted by numpy over the bytes, and only those that do not fit are looked at one by one: a
long log costs little more than the bare parse.
"""

from __future__ import annotations

import csv
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from samovar.exchange.problems import InputError

if TYPE_CHECKING:
    import polars

SEPARATORS = ",;\t|"
MOST_WARNINGS = 50


@dataclass(frozen=True)
class _Lines:
    """A text by its lines: begins[k] to ends[k] are the bytes of line k without its line end."""

    data: bytes
    begins: NDArray[np.int64]
    ends: NDArray[np.int64]

    def text(self, k: int) -> str:
        return self.data[self.begins[k] : self.ends[k]].decode("utf-8", errors="replace").rstrip("\r")


def read_table(path: Path) -> tuple[polars.DataFrame, list[str]]:
    """The table of a delimited text: numbers where a column holds nothing else, text elsewhere.

    Returns:
        The table with its titles made unique, and a warning for each line that could not be used.

    Raises:
        InputError: not readable, no text, no titles, or no rows.
    """
    data = _as_utf8(path)
    quick = _flawless(data)
    if quick is not None:
        return quick, []
    lines = _lines(data)
    header = next((k for k in range(min(len(lines.begins), 1000)) if _is_data(lines.text(k))), None)
    if header is None:
        raise InputError(f"{path}: the file is empty; give a log with a line of titles and rows of numbers")
    first = lines.text(header)
    separator = max(SEPARATORS, key=lambda s: (first.count(s), -SEPARATORS.index(s)))
    if first.count(separator) == 0:
        raise InputError(
            f"{path}:{header + 1}: no column titles found; give a log with titles and rows of numbers"
        )
    titles = unique_names([t.strip() for t in _split(first, separator)])
    keep, warnings = _fitting(lines, header, separator, len(titles))
    if not keep.any():
        raise InputError(f"{path}:{header + 1}: titles but no rows; give a log with rows of numbers")
    return _parse(path, _joined(lines, header, keep), separator, titles), warnings


def _flawless(data: bytes) -> polars.DataFrame | None:
    """The table of a text in which nothing is out of order; None where that is not certain.

    Titles on the first line, then nothing but numbers. With as many separators in all as the rows should
    have together, a row that is too short would mean one that is too long, which the parser refuses.
    """
    import polars

    end = data.find(b"\n")
    if end <= 0 or b'"' in data or data[:1] == b"#":
        return None
    first = data[:end].decode("utf-8", errors="replace").rstrip("\r")
    separator = max(SEPARATORS, key=lambda s: (first.count(s), -SEPARATORS.index(s)))
    titles = unique_names([t.strip() for t in first.split(separator)])
    rows = data.count(b"\n") - (1 if data.endswith(b"\n") else 0)
    if len(titles) < 2 or rows < 1 or data.count(separator.encode()) != (rows + 1) * (len(titles) - 1):
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
    return frame if frame.height == rows else None


def _as_utf8(path: Path) -> bytes:
    try:
        data = path.read_bytes()
    except OSError as problem:
        raise InputError(
            f"{path}: {(problem.strerror or 'cannot be read').lower()}; allow reading it"
        ) from problem
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", errors="replace").encode()
    if b"\x00" in data[:4096]:
        raise InputError(f"{path}: this is no text; give a log as delimited text or Parquet")
    if not data.isascii():
        try:
            data.decode("utf-8")
        except UnicodeDecodeError:
            return data.decode("latin-1").encode()
    return data.removeprefix(b"\xef\xbb\xbf")


def _lines(data: bytes) -> _Lines:
    if b"\n" not in data:
        data = data.replace(b"\r", b"\n")
    breaks = np.flatnonzero(np.frombuffer(data, np.uint8) == ord("\n")).astype(np.int64)
    begins = np.concatenate([[0], breaks + 1])
    ends = np.concatenate([breaks, [len(data)]])
    return _Lines(data, begins, ends)


def _is_data(line: str) -> bool:
    return bool(line.strip()) and not line.startswith("#")


def _split(line: str, separator: str) -> list[str]:
    try:
        return next(csv.reader([line.replace("\r", " ")], delimiter=separator), [])
    except csv.Error:
        return line.split(separator)


def _fitting(lines: _Lines, header: int, separator: str, wanted: int) -> tuple[NDArray[np.bool_], list[str]]:
    """Which lines hold a row, and what is wrong with the others."""
    raw = np.frombuffer(lines.data, np.uint8)
    places = np.flatnonzero(raw == ord(separator))
    fields = np.searchsorted(places, lines.ends) - np.searchsorted(places, lines.begins) + 1
    keep = np.asarray(fields == wanted)
    keep[: header + 1] = False
    first_byte = raw[np.minimum(lines.begins, max(len(raw) - 1, 0))]
    doubtful = np.asarray((fields != wanted) | (first_byte == ord("#")))
    if b'"' in lines.data:
        # A quoted separator is none: lines with quotes are counted properly.
        quotes = np.flatnonzero(raw == ord('"'))
        doubtful |= np.searchsorted(quotes, lines.ends) > np.searchsorted(quotes, lines.begins)
    doubtful[: header + 1] = False
    warnings: list[str] = []
    dropped = 0
    for k in np.flatnonzero(doubtful):
        line = lines.text(int(k))
        count = len(_split(line, separator)) if '"' in line else int(fields[k])
        keep[k] = count == wanted and _is_data(line)
        if keep[k] or not _is_data(line):
            continue
        dropped += 1
        if len(warnings) < MOST_WARNINGS:
            warnings.append(f"line {k + 1}: {count} fields instead of {wanted}, skipped")
    if dropped > MOST_WARNINGS:
        warnings.append(f"{dropped - MOST_WARNINGS} more lines with another number of fields, skipped")
    return keep, warnings


def _joined(lines: _Lines, header: int, keep: NDArray[np.bool_]) -> bytes:
    """The bytes of the lines that are kept: neighbouring ones are taken in one piece."""
    if bool(keep[header + 1 : -1].all()):
        return lines.data[lines.begins[header + 1] :]
    edges = np.flatnonzero(np.diff(np.concatenate([[False], keep, [False]]).astype(np.int8))).reshape(-1, 2)
    return b"\n".join(lines.data[lines.begins[a] : lines.ends[b - 1]] for a, b in edges)


def _parse(path: Path, data: bytes, separator: str, titles: list[str]) -> polars.DataFrame:
    import polars

    if b'"' in data:
        # What people quote, and how, is better left to the parser that has seen it all.
        lines = data.decode("utf-8", errors="replace").split("\n")
        rows = [row for row in (_split(line, separator) for line in lines) if len(row) == len(titles)]
        columns = zip(*rows, strict=True) if rows else ((),) * len(titles)
        return polars.DataFrame(
            {t: polars.Series(c, dtype=polars.String) for t, c in zip(titles, columns, strict=True)}
        )
    for kind in (polars.Float64, polars.String):
        try:
            return polars.read_csv(
                data,
                schema=dict.fromkeys(titles, kind),
                separator=separator,
                has_header=False,
                quote_char=None,
            )
        except polars.exceptions.PolarsError:
            continue
    raise InputError(f"{path}: the rows cannot be parsed; give a log as delimited text")


def unique_names(names: list[str]) -> list[str]:
    """Names told apart: the second of one name becomes `name (2)`."""
    seen: dict[str, int] = {}
    out = []
    for name in names:
        seen[name] = seen.get(name, 0) + 1
        out.append(name if seen[name] == 1 else f"{name} ({seen[name]})")
    return out
