"""`samovar film`: a run's time chart as a film that grows with it, with captions."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from samovar.cli.options import ArchiveOption, JsonOption, print_json


def film(
    run: Annotated[str, typer.Argument(metavar="RUN", help="The run, such as r0004.")],
    to: Annotated[
        Path,
        typer.Option(
            "--to",
            metavar="FILE",
            help="A .png (animated), .apng or .gif file, or a folder for single pictures.",
        ),
    ],
    seconds: Annotated[float, typer.Option("--seconds", help="How long it takes to grow.")] = 12.0,
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Write a run's time chart as a film that grows with the run, 1280 by 720, and beside it the captions as WebVTT: phases, what
    held the clock, and the marks.

    Example: samovar film r0004 --to booth.png --seconds 10
    """
    from samovar.lookup import open_archive, run_of
    from samovar.publish.film import write_run_film

    with open_archive(archive) as opened:
        written = write_run_film(opened, run_of(opened, run), to, seconds)
    if as_json:
        print_json({"files": [str(p) for p in written]})
    else:
        print(f"{to}: {seconds:g} s, captions in {written[-1]}")
