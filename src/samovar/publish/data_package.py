"""A publication's data as a package that others can build on: the open Data Package standard, version 2.

Every CSV is a resource with its schema, its size and a checksum; beside them lie a page that says what is in it, and a short
script that computes the headline figures again from the files alone.
"""

from __future__ import annotations

import csv
import hashlib
import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path
from typing import Any

from samovar import __version__
from samovar.core.quantity import Channel
from samovar.exchange.titles import defused
from samovar.exchange.whole_file import whole_file, write_whole
from samovar.publish.tables import DataTable

PROFILE = "https://datapackage.org/profiles/2.0/datapackage.json"
LICENCES = {
    "CC-BY-4.0": ("Creative Commons Attribution 4.0", "https://creativecommons.org/licenses/by/4.0/"),
    "CC-BY-SA-4.0": (
        "Creative Commons Attribution-ShareAlike 4.0",
        "https://creativecommons.org/licenses/by-sa/4.0/",
    ),
    "CC0-1.0": ("Creative Commons Zero 1.0", "https://creativecommons.org/publicdomain/zero/1.0/"),
    "ODC-BY-1.0": ("Open Data Commons Attribution 1.0", "https://opendatacommons.org/licenses/by/1-0/"),
}
"""Licences for data, by their SPDX names."""
NO_LICENCE = "none"
"""Kept where a reviewer was asked and gave none: all rights stay his."""
SCRIPT = "recompute.py"


@dataclass(frozen=True, slots=True)
class Imprint:
    """Who publishes, under which licence for the data (a key of LICENCES); empty where nobody said."""

    author: str = ""
    licence: str = ""


@dataclass(frozen=True, slots=True)
class Samples:
    """One run's samples: where they lie in the package, of which run, and their channels in the file's order."""

    path: str
    run: str
    channels: tuple[Channel, ...]


def write_table(table: DataTable, path: Path) -> None:
    """Write a table as CSV. Raises InputError: the place cannot be written."""
    with whole_file(path) as part, part.open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow([c.name for c in table.columns])
        for row in table.rows:
            writer.writerow([_text(cell) for cell in row])


def _text(cell: Any) -> str:
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "true" if cell else "false"
    # What a spreadsheet would take for a formula goes out as words.
    return defused(cell) if isinstance(cell, str) else repr(cell)


def write_package(
    folder: Path,
    name: str,
    title: str,
    question: str,
    edition: int,
    day: str,
    imprint: Imprint,
    tables: Sequence[DataTable],
    samples: Iterable[Samples],
) -> list[Path]:
    """Write the descriptor, the page and the script over files that are already there.

    Args:
        folder: the publication's.
        name: the review's short name; its title and question.
        edition, day: of this publication.
        imprint: author and licence.
        tables: written as NAME.csv.
        samples: of every run.

    Raises:
        InputError: a place cannot be written.
    """
    resources = [_table_resource(folder, t) for t in tables]
    resources += [_samples_resource(folder, s) for s in samples]
    package: dict[str, Any] = {
        "$schema": PROFILE,
        "name": name,
        "title": title,
        "description": question,
        "version": f"{edition}.0.0",
        "created": f"{day}T00:00:00Z",
        "keywords": ["cooling", "temperature", "measurement"],
        "sources": [{"title": f"Recorded by the reviewer with Samovar {__version__}"}],
    }
    if imprint.licence in LICENCES:
        words, path = LICENCES[imprint.licence]
        package["licenses"] = [{"name": imprint.licence, "title": words, "path": path}]
    if imprint.author:
        package["contributors"] = [{"title": imprint.author, "roles": ["creator"]}]
    package["resources"] = resources
    descriptor, readme, script = (folder / n for n in ("datapackage.json", "README.md", SCRIPT))
    write_whole(descriptor, json.dumps(package, indent=2, ensure_ascii=False) + "\n")
    write_whole(readme, _readme(title, question, edition, day, imprint, tables))
    write_whole(
        script, files("samovar").joinpath("publish/templates/recompute.py.txt").read_text(encoding="utf-8")
    )
    return [descriptor, readme, script]


def _file_of(folder: Path, path: str) -> dict[str, Any]:
    data = (folder / path).read_bytes()
    return {
        "path": path, "format": "csv", "mediatype": "text/csv", "encoding": "utf-8",
        "bytes": len(data), "hash": f"sha256:{hashlib.sha256(data).hexdigest()}",
    }  # fmt: skip


def _table_resource(folder: Path, table: DataTable) -> dict[str, Any]:
    schema: dict[str, Any] = {
        "fields": [{"name": c.name, "type": c.type, "description": c.words} for c in table.columns],
        "missingValues": [""],
    }
    if table.key:
        schema["primaryKey"] = list(table.key)
    return {
        "name": table.name, "type": "table", "title": table.title, **_file_of(folder, f"{table.name}.csv"),
        "schema": schema,
    }  # fmt: skip


def _samples_resource(folder: Path, one: Samples) -> dict[str, Any]:
    fields = [
        {"name": "Time (s)", "type": "number", "description": "seconds since the first sample", "unit": "s"}
    ]
    fields += [
        {
            "name": defused(c.title), "type": "number", "title": c.name, "description": f"{c.quantity}, {c.role}",
            "unit": c.unit,
        }
        for c in one.channels
    ]  # fmt: skip
    return {
        "name": f"samples-{one.run}", "type": "table", "title": f"The samples of {one.run}", **_file_of(folder, one.path),
        "schema": {"fields": fields, "missingValues": [""]},
    }  # fmt: skip


def _readme(
    title: str, question: str, edition: int, day: str, imprint: Imprint, tables: Sequence[DataTable]
) -> str:
    lines = [
        f"# {title}: the data",
        "",
        question,
        "",
        f"Edition {edition} of {day}{f', by {imprint.author}' if imprint.author else ''}.",
        "",
        *(
            [f"Licence of the data: [{LICENCES[imprint.licence][0]}]({LICENCES[imprint.licence][1]}).", ""]
            if imprint.licence in LICENCES
            else []
        ),
        "`datapackage.json` describes every file by the Data Package standard: columns, units, sizes, checksums.",
        "",
        *(f"- `{t.name}.csv`: {t.title.lower()}" for t in tables),
        "- `data/RUN.csv`: the samples of a run; `data/RUN.facts.toml`: the facts it was read with, and what was marked",
        "",
        "The mean of `channel` in `data/RUN.csv` from `window_start_s` to `window_end_s` is the `value` of its `steady` row. "
        "Where the run was still on the last of its way there, what was left of it is taken off the value, and the two agree "
        "within its half-width.",
        "",
        f"`python {SCRIPT}` computes these means again, and the mean of each setup over its passes (it needs polars, no more).",
        "",
    ]
    return "\n".join(lines)
