"""`samovar archive`: looking through an archive, copying, rescuing and moving it."""

from __future__ import annotations

import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from samovar.cli.options import ArchiveOption, JsonOption, print_json

if TYPE_CHECKING:
    from samovar.archive.backup import Progress
    from samovar.archive.place import Place

archive_app = typer.Typer(
    no_args_is_help=True,
    rich_markup_mode=None,
    help="Look through the archive, copy it, save what is left of a damaged one, move it to a server or back.",
)
_SAID_EVERY_S = 1.0


def _progress(word: str) -> Progress:
    """A line on standard error, at most one a second, once it takes longer than that."""
    said = time.monotonic()

    def tell(done: int, total: int) -> None:
        nonlocal said
        if time.monotonic() - said >= _SAID_EVERY_S and total:
            said = time.monotonic()
            print(f"samovar: {word}, {100 * done // total} %", file=sys.stderr)

    return tell


def _place(archive: str | None) -> Place:
    from samovar.archive.archive import Archive
    from samovar.archive.place import place_of

    return place_of(archive or Archive.usual_place())


def _there(place: Place) -> Place:
    """The place of an archive that is to be there already: a look at one must not make it."""
    from samovar.exchange.problems import InputError

    if place.path is not None and not place.path.exists():
        raise InputError(f"{place.path}: there is no such file; name the archive with --archive")
    return place


@archive_app.command()
def check(archive: ArchiveOption = None, as_json: JsonOption = False) -> None:
    """Hold every run against its checksums; ends with 0 where all is whole, with 1 where something is damaged.

    Example: samovar archive check --archive booth.sqlite
    """
    from samovar.archive.archive import Archive
    from samovar.archive.check import Checked, Damaged
    from samovar.archive.check import check as look_through
    from samovar.archive.database import BrokenArchive

    place = _there(_place(archive))
    try:
        with Archive(place, look_only=True) as opened:
            found = look_through(opened, _progress("looking through the archive"))
    except BrokenArchive as problem:
        found = Checked(place.words, 0, (Damaged(None, f"the archive is {problem.what}"),))
    if as_json:
        print_json(
            {
                "archive": found.archive,
                "whole": found.whole,
                "runs": found.runs,
                "damaged": [{"run": one.run, "what": one.what} for one in found.damaged],
            }
        )
    elif found.whole:
        print(f"{found.archive}: whole, {found.runs} runs")
    else:
        print(f"{found.archive}: damaged, {found.runs} runs")
        for one in found.damaged:
            print(f"  {one.run or 'archive'}: {one.what}")
        if place.path is not None:
            print(f"samovar archive rescue NEW.sqlite --archive {place.path} saves what can still be read")
    raise typer.Exit(0 if found.whole else 1)


@archive_app.command()
def backup(
    to: Annotated[Path, typer.Argument(metavar="TO", help="The new file.")],
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Copy a live archive as of one moment, while others go on writing; of a server, into a file.

    Example: samovar archive backup /media/stick/archive-2026-03-04.sqlite
    """
    from samovar.archive.archive import Archive
    from samovar.archive.backup import copy_file
    from samovar.archive.moving import backup_of_server
    from samovar.archive.place import Place

    place = _there(_place(archive))
    with Archive(place, look_only=True) as opened:
        runs = len(opened.runs.runs())
        if place.path is not None:
            copy_file(place.path, to, _progress("copying"))
        else:
            backup_of_server(opened, Place(to), _progress("copying"))
    if as_json:
        print_json({"archive": place.words, "to": str(to), "runs": runs})
    else:
        print(f"{to}: {runs} runs of {place.words}, as of now")


@archive_app.command()
def rescue(
    to: Annotated[Path, typer.Argument(metavar="TO", help="The new archive.")],
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Write a new archive of all that can still be read of a damaged one, and list what could not. The old file stays as
    it is.

    Example: samovar archive rescue saved.sqlite --archive booth.sqlite
    """
    from samovar.archive.rescue import rescue as save
    from samovar.exchange.problems import InputError

    place = _there(_place(archive))
    if place.path is None:
        raise InputError(
            f"{place.words}: a server looks after its own files; ask whoever keeps it for a copy"
        )
    found = save(place.path, to, _progress("reading what is left"))
    if as_json:
        lost = [{"run": one.run, "what": one.what} for one in found.lost]
        print_json({"archive": str(place.path), "to": found.archive, "runs": found.runs, "lost": lost})
        return
    print(f"{found.archive}: {found.runs} runs saved{'' if found.lost else ', nothing was lost'}")
    for one in found.lost:
        print(f"  {one.run or 'archive'}: {one.what}")


@archive_app.command()
def move(
    to: Annotated[str, typer.Argument(metavar="TO", help="A new file, or a server's address.")],
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Take the whole archive to an empty place, file or server, and prove that all of it arrived. The old one stays.

    Example: samovar archive move postgresql://bench@lab/samovar
    """
    from samovar.archive.archive import Archive
    from samovar.archive.moving import move as take_over

    with Archive(_there(_place(archive))) as source, Archive(to) as target:
        found = take_over(source, target, _progress("moving"))
    if as_json:
        print_json({"from": found.source, "to": found.target, "runs": found.runs, "rows": found.rows})
    else:
        print(
            f"{found.target}: {found.runs} runs, {sum(found.rows.values())} rows in {len(found.rows)} tables, "
            f"all as in {found.source}, which stays as it was"
        )
