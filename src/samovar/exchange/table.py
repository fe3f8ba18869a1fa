"""Delimited text as a table: its titles and units found, its rows parsed, lines that do not fit left out and named."""

from __future__ import annotations

import mmap
import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from samovar.exchange.encoding import as_utf8, is_plain_text, mended
from samovar.exchange.keyed import keyed_as_table
from samovar.exchange.layout import LOOK_LINES, find_layout, is_comment, split
from samovar.exchange.plain_file import mapped
from samovar.exchange.problems import InputError
from samovar.exchange.rows import (
    Faults,
    fitting_lines,
    joined,
    lines_of,
    parsed,
    patched_rows,
    tabbed,
)
from samovar.exchange.straight import straight_rows

if TYPE_CHECKING:
    import polars

LOOK_BYTES = 300_000


@dataclass(frozen=True)
class Table:
    """A text's rows: numbers where a column holds nothing else, text elsewhere. `units` by title, where the text has
    a line of them; `titles` as they stand there, by column; `lines` the number of each row's line, from 1; `above` the
    lines before the titles."""

    frame: polars.DataFrame
    warnings: list[str] = field(default_factory=list)
    units: dict[str, str] = field(default_factory=dict)
    titles: dict[str, str] = field(default_factory=dict)
    lines: NDArray[np.int64] | None = None
    above: tuple[str, ...] = ()

    def line_of(self, row: int) -> int:
        """The number of a row's line in the file, from 1."""
        return row + 2 if self.lines is None else int(self.lines[row])


def read_table(path: Path) -> Table:
    """The table of a delimited text, its titles made unique.

    Raises:
        InputError: not readable, no text, no titles, or no rows.
    """
    with mapped(path) as view:
        if view is not None and is_plain_text(view):
            found = _flawless(view, path) or _laid_out(path, view, path, ())
            if found is not None:
                return found
    text = as_utf8(path)
    data = text.data
    quick = _flawless(data, data)
    if quick is not None:
        return replace(quick, warnings=[*text.warnings, *quick.warnings])
    data = keyed_as_table(data) or data
    table = _laid_out(path, data, data, text.warnings)
    assert table is not None
    return table


def _laid_out(path: Path, data: bytes | mmap.mmap, source: bytes | Path, said: Sequence[str]) -> Table | None:
    """The table of a text that has to be looked at: by `source` the parser reads it, as a file where it is one as it
    stands. None where that does not do, and its bytes are wanted. Raises InputError as `read_table`."""
    if isinstance(source, Path) and keyed_as_table(data[:LOOK_BYTES]):
        return None
    # The beginning alone tells how it is laid out; the lines of all of it are looked at where something is odd.
    chunk = lines_of(data[: data.find(b"\n", LOOK_BYTES) + 1] or data[:])
    head = [chunk.text(k) for k in range(min(len(chunk.begins), LOOK_LINES))]
    first = next((k for k in range(len(head)) if head[k].strip() and not is_comment(head[k])), None)
    if first is None:
        raise InputError(f"{path}: the file is empty; give a log with a line of titles and rows of numbers")
    layout = find_layout(head)
    if layout is None:
        titled = any(len(split(head[first], mark)) > 1 for mark in ",;\t|")
        what = "titles but no rows" if titled else "no column titles found"
        raise InputError(f"{path}:{first + 1}: {what}; give a log with titles and rows of numbers")
    separator = layout.separator
    titles = layout.titles or [f"column {k + 1}" for k in range(layout.width)]
    names = unique_names([t or f"column {k + 1}" for k, t in enumerate(titles)])
    begin = int(chunk.begins[layout.data])
    title = chunk.text(layout.header) if layout.header is not None else None
    found = straight_rows(data, source, begin, separator, names, layout.data)
    if found is None:
        if not isinstance(data, bytes):
            return None
        found = patched_rows(data, begin, separator, names, title, layout.data)
    if found is not None:
        frame, numbers, warnings = found.frame, found.numbers + layout.data + 1, found.warnings
    else:
        lines = lines_of(data[:])
        if len(separator) > 1 or separator == " ":
            lines, separator = tabbed(lines, separator), "\t"
        faults = Faults()
        keep = fitting_lines(lines, separator, layout.width, title, faults, layout.data)
        warnings, numbers = faults.all(), np.flatnonzero(keep) + 1
        frame = parsed(path, joined(lines, layout.data - 1, keep), separator, names, len(numbers))
    before = list(range(first, layout.header if layout.header is not None else layout.data))
    before = [k for k in before if head[k].strip() and not is_comment(head[k])]
    if before:
        named = f"line {before[0] + 1}" if len(before) == 1 else f"lines {before[0] + 1} to {before[-1] + 1}"
        warnings.insert(0, f"{named}: before the titles, not used")
    if layout.header is None:
        warnings.insert(0, "no line of titles: columns are numbered from 1")
    units = {n: u for n, u in zip(names, layout.units, strict=False) if u}
    above = tuple(head[: layout.header if layout.header is not None else layout.data])
    return Table(frame, [*said, *warnings], units, dict(zip(names, titles, strict=True)), numbers, above)


def _flawless(data: bytes | mmap.mmap, source: bytes | Path) -> Table | None:
    """The table of a text in which nothing is out of order; None where that is not certain.

    Titles on the first line, then nothing but numbers. With as many separators in all as the rows should
    have together, a row that is too short would mean one that is too long, which the parser refuses.
    """
    import polars

    end = data.find(b"\n")
    if end <= 0 or data[:1] == b"#":
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
    if data.find(b'"') >= 0:
        return None
    try:
        frame = polars.read_csv(
            source,
            schema=dict.fromkeys(titles, polars.Float64),
            separator=separator,
            has_header=False,
            skip_rows=1,
            quote_char=None,
        )
    except polars.exceptions.PolarsError:
        return None
    # No row was short, and none too long, where the last column is full: the parser would have refused it.
    full = frame[titles[-1]].null_count() == 0
    if not full and data[:].count(separator.encode()) != (frame.height + 1) * (len(titles) - 1):
        return None
    return Table(frame, titles=dict(zip(titles, written, strict=True)))


def _is_plain(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return True


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
