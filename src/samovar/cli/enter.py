"""`samovar enter`: what a person read, for any run, at any time."""

from __future__ import annotations

from typing import Annotated

import typer

from samovar.cli.options import ArchiveOption, JsonOption, print_json


def enter(
    run_name: Annotated[str, typer.Argument(metavar="RUN", help="The run, such as r0007.")],
    lines: Annotated[
        list[str] | None, typer.Argument(metavar="LINE...", help="What was read, one line each.")
    ] = None,
    listed: Annotated[bool, typer.Option("--list", help="List what was read of the run.")] = False,
    take_back: Annotated[
        int | None, typer.Option("--take-back", metavar="N", help="Take the reading of this number away.")
    ] = None,
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Enter what a person read of a run: noise, a surface, a score, a time, the room.

    A line is a kind (noise, room, surface, contact, wall power, score, time, voltage, storage read, storage write,
    fan, other), a value as people write it (33 to 36, < 34, 27.4 ± 0.5, 72 °F, 17:46), then between commas where it
    was read (on vrm back), how far away (at 3 ft), over which background, with what, and when in the run (at 12:30).
    All lines of a call are kept, or none.

    Example: samovar enter r0007 "noise 33 to 36 dBA at 3 ft, phone, background 30" "score 5012 points"
    Again: samovar enter r0007 "surface 86 °C on vrm back, e 0.95, at 12:30" "noise not above background 30"
    """
    from samovar.entering import circumstances_of, entered_row, entered_text, read_lines
    from samovar.exchange.problems import InputError
    from samovar.lookup import open_archive, run_of

    asked = [bool(lines), listed, take_back is not None]
    if sum(asked) != 1:
        raise InputError(
            f'command line: name lines to enter, --list or --take-back N, one of them; such as samovar enter {run_name} "noise 27.4"'
        )
    with open_archive(archive) as opened:
        run = run_of(opened, run_name)
        if run.state == "recording" and not listed:
            raise InputError(
                f"{run.id}: it is being recorded; type the reading on the Bench, or enter it when it has ended"
            )
        hands = opened.runs.hands
        if take_back is not None:
            gone = hands.take_back(run.number, take_back)
            if gone is None:
                raise InputError(
                    f"{run.id}: it has no reading {take_back}; see samovar enter {run.id} --list"
                )
            shown = [gone]
        elif listed:
            shown = hands.of(run.number)
        else:
            shown = hands.add_all(
                run.number, read_lines(lines or [], circumstances_of(opened, run), opened.clips.keep)
            )
    if as_json:
        key = "taken_back" if take_back is not None else "entered"
        print_json({"run": run.id, key: [entered_row(reading) for reading in shown]})
    else:
        print(("taken back: " if take_back is not None else "") + entered_text(run.id, shown))
