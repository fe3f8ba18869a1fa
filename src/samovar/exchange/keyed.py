"""Logs whose values name themselves, `temp=51.6'C frequency(48)=1500398464`, as a table with titles."""

from __future__ import annotations

import csv
import io
import re

from samovar.exchange.encoding import mended

_PAIR = re.compile(r"(?P<key>[A-Za-z_][\w .\-/]{0,40}?)(?:\(\d+\))?=(?P<value>[^\s,;|=]+)")
LOOK_LINES = 40
LEAST_SHARE = 0.8
LEAST_LINES = 5
MOST_KEYS = 200


def keyed_as_table(data: bytes) -> bytes | None:
    """The same rows as delimited text, UTF-8, a line for each line; None where the text is not of this kind."""
    head = data[:20_000].decode("utf-8", errors="replace").split("\n")[:LOOK_LINES]
    lines = [line for line in head if line.strip()]
    if len(lines) < LEAST_LINES or sum("=" in line for line in lines) < LEAST_SHARE * len(lines):
        return None
    if sum(bool(_PAIR.search(line)) for line in lines) < LEAST_SHARE * len(lines):
        return None
    rows: list[tuple[str, dict[str, str]]] = []
    keys: dict[str, None] = {}
    for line in data.decode("utf-8", errors="replace").split("\n"):
        pairs = list(_PAIR.finditer(mended(line)))
        before = mended(line)[: pairs[0].start()].strip(" ,;|\t") if pairs else ""
        found = {p["key"].strip(): p["value"] for p in pairs}
        keys |= dict.fromkeys(found)
        rows.append((before, found))
    if len(keys) > MOST_KEYS:
        return None
    # A line of titles over such rows says no more than their keys.
    first = next(k for k, (_, found) in enumerate(rows) if found)
    timed = sum(bool(before) for before, found in rows if found) > 0.5 * sum(bool(found) for _, found in rows)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([*(["Time"] if timed else []), *keys])
    for before, found in rows[first:]:
        if found:
            writer.writerow([*([before] if timed else []), *(found.get(key, "") for key in keys)])
    return out.getvalue().encode()
