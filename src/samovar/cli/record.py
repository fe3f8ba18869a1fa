"""`samovar record`: a run without the interface."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from samovar.cli.options import (
    ArchiveOption,
    InstrumentsOption,
    JsonOption,
    OnOption,
    SysrootOption,
    print_json,
)


def record(
    sysroot: SysrootOption = Path("/"),
    archive: ArchiveOption = None,
    rate: Annotated[
        float | None,
        typer.Option(
            "--rate", metavar="HZ", help="Samples a second, 0.1 to 20; 1, or as the cell's rig has it."
        ),
    ] = None,
    slow_rate: Annotated[
        float | None,
        typer.Option("--slow-rate", metavar="HZ", help="Of board probes, fans and voltages; as --rate."),
    ] = None,
    for_s: Annotated[
        float | None,
        typer.Option("--for", metavar="SECONDS", help="The load's time (with --load none, the recording's)."),
    ] = None,
    load: Annotated[
        str,
        typer.Option(
            "--load", metavar="NAME|none", help="One of the program's loads, of the archive's own, or none."
        ),
    ] = "none",
    threads: Annotated[
        int | None, typer.Option("--threads", metavar="N", help="Threads of the load; all where not named.")
    ] = None,
    stop_above: Annotated[
        float | None,
        typer.Option(
            "--stop-above",
            metavar="°C",
            help="The guard stops the load over this; 105, or 10 K over the cell's limit.",
        ),
    ] = None,
    unguarded: Annotated[
        bool,
        typer.Option(
            "--unguarded", help="Run the load though no guard can stop it; the run is marked so, everywhere."
        ),
    ] = False,
    review: Annotated[
        str | None, typer.Option("--review", metavar="NAME", help="With --setup: the cell it belongs to.")
    ] = None,
    setup: Annotated[str | None, typer.Option("--setup", metavar="NAME")] = None,
    to: Annotated[
        Path | None, typer.Option("--to", metavar="FILE", help="Export it too, as .csv or .parquet.")
    ] = None,
    replay: Annotated[
        str | None,
        typer.Option("--replay", metavar="RUN", help="Record a recorded run again instead of this machine."),
    ] = None,
    speed: Annotated[
        float, typer.Option("--speed", metavar="X", help="With --replay: so many times as fast as life.")
    ] = 1.0,
    listening: Annotated[
        bool,
        typer.Option(
            "--listen", help="Lines on standard input are marks, readings, fan changes, joining loads."
        ),
    ] = False,
    allow: Annotated[
        list[str] | None,
        typer.Option(
            "--allow",
            metavar="NAME",
            help="You have read the command of this load, which came with a document: it may run here.",
        ),
    ] = None,
    instruments: InstrumentsOption = None,
    on: OnOption = None,
    as_json: JsonOption = False,
) -> None:
    """Record a run without the interface: idle until calm, load until steady (or --for), cool-down.

    A short --for gets a short idle and cool-down. Ctrl-C stops the load and seals the run as stopped.
    With --listen: "panel off" is a mark, "fans 60", "join memory", "read noise 27.4" are done.

    Example: samovar record --load "worst case" --for 600 --to booth.csv
    Another machine: samovar record --on "ssh bench@pebble samovar agent" --load "worst case"
    With meters beside it: samovar record --with INSTRUMENTS.toml --load "worst case"
    Again, from its samples: samovar record --replay r0007 --speed 30
    """
    from samovar.bench.replay_machine import ReplayMachine
    from samovar.cli.measured import measured
    from samovar.core.contract import as_contract
    from samovar.exchange.export import export_recording
    from samovar.exchange.instrument_file import read_instruments
    from samovar.exchange.problems import InputError
    from samovar.lookup import cell_of, keep_copy, open_archive, replayed_run, run_of
    from samovar.recording.ended import said_by
    from samovar.recording.headless import allow_commands, check_call, course_of
    from samovar.recording.headless import record as record_run
    from samovar.recording.instruments import open_instruments
    from samovar.report import reading_text

    check_call(sysroot, (rate, slow_rate), for_s, to, stop_above, unguarded, threads)
    if replay is not None and on is not None:
        raise InputError("--replay and --on: a run recorded again needs no machine; name one of the two")
    with measured(sysroot, on) as reached, open_archive(archive) as opened:
        allow_commands(opened, allow or [])
        found_review, found_setup = cell_of(opened, review, setup)
        machine = replayed_run(opened, replay, speed) if replay else reached
        if isinstance(machine, ReplayMachine) and for_s is None:
            for_s = machine.duration_s
        described = read_instruments(instruments) if instruments else ()
        spec = course_of(opened, found_review, found_setup, load, threads, for_s, stop_above)
        live, status = record_run(
            opened,
            machine,
            spec,
            rates_hz=(rate, slow_rate),
            for_s=for_s,
            review=found_review,
            setup=found_setup,
            as_json=as_json,
            listening=listening,
            facts=run_of(opened, replay).facts if replay else None,
            unguarded=unguarded,
            beside=open_instruments(described, machine.clock),
        )
        # Where the archive went away meanwhile, the run is in a new one.
        reading, recording, read_by_hand = said_by(live)
        if as_json:
            print_json(as_contract(reading))
        else:
            print(reading_text(reading, live.id, recording, live.facts))
        if to is not None:
            export_recording(recording, to, live.facts, by_hand=read_by_hand)
        keep_copy(live.archive)
    raise typer.Exit(status)
