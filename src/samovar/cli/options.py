"""The command line's common options, and how JSON is printed."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer

ArchiveOption = Annotated[
    str | None,
    typer.Option(
        "--archive",
        metavar="FILE",
        help="The archive: a file, or a laboratory's server (postgresql://user@host/database); the user's own where "
        "not named.",
    ),
]
JsonOption = Annotated[bool, typer.Option("--json", help="Print one JSON object instead of text.")]
SysrootOption = Annotated[
    Path,
    typer.Option("--sysroot", metavar="DIR", help="Read DIR/sys and DIR/proc instead of /sys and /proc."),
]
MapOption = Annotated[
    Path | None, typer.Option("--map", metavar="MAP.toml", help="Settles what column titles leave open.")
]
FactsOption = Annotated[
    Path | None,
    typer.Option(
        "--facts", metavar="FACTS.toml", help="What is known of the machine: limits, clocks, budgets."
    ),
]
OnOption = Annotated[
    str | None,
    typer.Option(
        "--on",
        metavar="COMMAND",
        help="The machine under test is another one, which this command reaches: ssh bench@pebble samovar agent.",
    ),
]
InstrumentsOption = Annotated[
    Path | None,
    typer.Option(
        "--with",
        metavar="INSTRUMENTS.toml",
        help="Instruments beside the machine, by open protocols; see docs/.",
    ),
]


def print_json(content: dict[str, Any]) -> None:
    """One object on standard output, without NaN."""
    print(json.dumps(content, ensure_ascii=False, allow_nan=False), flush=True)
