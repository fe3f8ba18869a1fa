"""A CSV table of figures that others published, as lines of a review."""

from __future__ import annotations

import csv
from pathlib import Path

from samovar.core.elsewhere import ROW, line_of_row, read_elsewhere
from samovar.core.shown_text import visible
from samovar.core.units import Unreadable
from samovar.exchange.problems import InputError

MOST_BYTES = 1_000_000
"""A list of rivals is a page, not a book."""


def elsewhere_lines(path: Path) -> list[str]:
    """Every row as a line, in plain form.

    Raises:
        InputError: the file cannot be read, lacks a column, or a row says too little; with the row's number.
    """
    try:
        data = path.read_bytes()
    except OSError as problem:
        raise InputError(f"{path}: cannot be read ({(problem.strerror or 'error').lower()})") from problem
    if len(data) > MOST_BYTES:
        raise InputError(
            f"{path}: larger than {MOST_BYTES // 1000} kB; take the rows that belong to this review"
        )
    text = data.decode("utf-8-sig", errors="replace").replace("\0", "")
    first = text.partition("\n")[0]
    delimiter = max((";", "\t", ","), key=first.count)
    rows = csv.DictReader(text.splitlines(), delimiter=delimiter)
    titles = [(t or "").strip().lower() for t in rows.fieldnames or ()]
    missing = [c for c in ROW if c not in titles and c not in ("load", "known", "unit")]
    if missing:
        raise InputError(f"{path}: no column {missing[0]!r}; the first line names {', '.join(ROW)}")
    found = []
    try:
        for number, row in enumerate(rows, 2):
            line = line_of_row(row)
            if line:
                found.append(_read(path, number, line))
    except csv.Error as problem:
        raise InputError(f"{path}: no table of values ({problem})") from problem
    if not found:
        raise InputError(f"{path}: no row under its titles; write one figure a row")
    return found


def _read(path: Path, number: int, line: str) -> str:
    try:
        return read_elsewhere(line).line
    except Unreadable as problem:
        raise InputError(f"{path}, line {number}: {visible(str(problem), 300)}") from None
