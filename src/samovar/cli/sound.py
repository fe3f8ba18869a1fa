"""`samovar sound`: what a recording of a fan says."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from samovar.cli.options import ArchiveOption, JsonOption, print_json


def sound(
    path: Annotated[Path, typer.Argument(metavar="FILE", help="A recording, WAV or FLAC.")],
    calibration: Annotated[
        Path | None,
        typer.Option(
            "--calibration", metavar="FILE", help="A calibrator's tone, recorded with the same gain."
        ),
    ] = None,
    calibrator: Annotated[
        float, typer.Option("--calibrator", metavar="DB", help="What the calibrator sounds at.")
    ] = 94.0,
    known: Annotated[
        float | None,
        typer.Option(
            "--known", metavar="DBA", help="The recording's equivalent level, as a meter read it beside."
        ),
    ] = None,
    background: Annotated[
        Path | None,
        typer.Option("--background", metavar="FILE", help="The room alone, recorded with the same gain."),
    ] = None,
    distance: Annotated[
        float | None, typer.Option("--distance", metavar="M", help="How far the microphone stood, m.")
    ] = None,
    blades: Annotated[
        int | None,
        typer.Option("--blades", metavar="N", help="How many blades the fan has: tells its speed."),
    ] = None,
    into: Annotated[
        str | None,
        typer.Option(
            "--into", metavar="RUN", help="Keep its level, and the speed, with this run as readings of it."
        ),
    ] = None,
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Listen to a recording of a fan: its level, third octaves, tones, swing and speed. Without a calibration what needs
    none: tones, swing, character, speed.

    Example: samovar sound osprey-1000rpm.wav --calibration tone.wav --background room.wav --distance 0.5 --blades 7
    Again: samovar sound osprey-1000rpm.wav --known 33.1 --into r0007
    """
    from samovar.core.sound.heard import as_promised
    from samovar.hearing import heard_in, kept_clip, readings_of, sound_text

    heard = heard_in(
        path, calibration=calibration, calibrator_db=calibrator, known_dba=known, background=background,
        distance_m=distance, blades=blades,
    )  # fmt: skip
    kept: dict[str, object] = {}
    words = ""
    if into is not None:
        from samovar.entering import circumstances_of, entered_row, entered_text
        from samovar.lookup import open_archive, run_of

        with open_archive(archive) as opened:
            run = run_of(opened, into)
            clip = kept_clip(heard, opened.clips.keep)
            found = readings_of(heard, path.name, circumstances_of(opened, run), clip=clip)
            readings = opened.runs.hands.add_all(run.number, found)
        kept = {"run": run.id, "entered": [entered_row(reading) for reading in readings]}
        words = "\n\n" + entered_text(run.id, readings)
    if as_json:
        print_json({**as_promised(heard), **kept})
    else:
        print(sound_text(heard) + words)
