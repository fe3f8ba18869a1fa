"""`samovar agent`: this machine as the one under test, for a bench that reaches it by a command."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from samovar.cli.options import SysrootOption


def agent(
    sysroot: SysrootOption = Path("/"),
    write: Annotated[
        Path | None,
        typer.Option(
            "--write",
            metavar="FILE.pyz",
            help="Write the agent as one file that any Python 3.9 or newer runs.",
        ),
    ] = None,
) -> None:
    """Be the machine under test: measure and load this one for a bench elsewhere.

    It speaks on its standard input and output alone, and never listens. On the bench:
    samovar record --on "ssh bench@pebble samovar agent" --load "worst case"

    Where nothing of ours is installed, copy one file there:
    samovar agent --write samovar-agent.pyz
    samovar sources --on "ssh bench@pebble python3 samovar-agent.pyz"
    """
    if write is None:
        from samovar.agent.serve import main

        main(["--sysroot", str(sysroot)])
        return
    from samovar.agent.pack import write_agent
    from samovar.exchange.problems import InputError

    try:
        size = write_agent(write)
    except FileExistsError:
        raise InputError(f"{write}: there is something of this name already; name a new file") from None
    except OSError as problem:
        raise InputError(
            f"{write}: {(problem.strerror or 'it cannot be written').lower()}; name another file"
        ) from None
    print(
        f"{write}: {size / 1e3:.0f} kB; copy it over, and reach it with ssh USER@MACHINE python3 {write.name}"
    )
