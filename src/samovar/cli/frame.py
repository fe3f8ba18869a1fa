"""`samovar frame`: what is framed, written to TOML and read from it."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from samovar.cli.options import ArchiveOption, JsonOption, print_json

frame_app = typer.Typer(
    help="Products, rigs, courses, loads and reviews as TOML, out of an archive and in.", no_args_is_help=True
)


@frame_app.command("write")
def frame_write(
    name: Annotated[
        str,
        typer.Argument(metavar="REVIEW|shelf", help="A review's name, or shelf for all that stands there."),
    ],
    to: Annotated[Path, typer.Option("--to", metavar="FILE.toml", help="The file to write.")],
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Write a review with all it stands on, or the whole shelf; runs are not in it.

    Example: samovar frame write voice-booth-playout-pc --to booth.toml
    """
    from samovar.exchange.frame_toml import write_frame
    from samovar.framing import review_frame, shelf_frame
    from samovar.lookup import open_archive, review_of

    with open_archive(archive) as opened:
        frame = (
            shelf_frame(opened) if name == "shelf" else review_frame(opened, review_of(opened, name, name))
        )
    write_frame(frame, to)
    if as_json:
        print_json({"file": str(to), "holds": frame.words()})
    else:
        print(f"{to}: {frame.words()}")


@frame_app.command("read")
def frame_read(
    file: Annotated[
        Path, typer.Argument(metavar="FILE.toml", help="A document written by frame write, or by hand.")
    ],
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Enter what a document holds. What is here already, the same, is used as it is; otherwise a second one is added.

    Example: samovar frame read booth.toml
    """
    from samovar.core.entered import visible
    from samovar.exchange.frame_toml import read_frame
    from samovar.framing import commands_in, take
    from samovar.lookup import open_archive

    frame = read_frame(file)
    with open_archive(archive) as opened:
        said = take(opened, frame, file.name)
        brought = commands_in(opened, frame)
    if as_json:
        commands = [{"load": one.name, "command": one.command} for one in brought]
        print_json({"file": str(file), "entered": said, "commands": commands})
        return
    print("\n".join(said) or f"{file}: nothing in it")
    if brought:
        print(f"\nCommands that came with {file.name}; none runs before you have read and allowed it:")
        for one in brought:
            print(f"  {one.name}: {visible(one.command)}")
        print("Allow one in the interface, or with: samovar record --load NAME --allow NAME")
