"""The command line: what scripts call, and the way into the interface."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from samovar import __version__
from samovar.cli.agent import agent
from samovar.cli.archive import archive_app
from samovar.cli.bring import bring
from samovar.cli.compare import compare
from samovar.cli.elsewhere import elsewhere
from samovar.cli.enter import enter
from samovar.cli.film import film
from samovar.cli.frame import frame_app
from samovar.cli.options import (
    ArchiveOption,
    FactsOption,
    InstrumentsOption,
    JsonOption,
    MapOption,
    OnOption,
    SysrootOption,
    print_json,
)
from samovar.cli.record import record
from samovar.cli.said import fail, guarded
from samovar.cli.sound import sound

app = typer.Typer(
    name="samovar",
    add_completion=False,
    no_args_is_help=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    context_settings={"help_option_names": ["-h", "--help"]},
    help="A bench for people who review coolers, cases, boards and compact computers.",
)

app.add_typer(archive_app, name="archive")
app.add_typer(frame_app, name="frame")
app.command()(record)
app.command()(agent)
app.command()(bring)
app.command()(enter)
app.command()(compare)
app.command()(elsewhere)
app.command()(film)
app.command()(sound)


def run() -> int:
    """Run the command line; the answer is the exit status. Errors are one line on standard error."""

    def called() -> int:
        result = app(standalone_mode=False)
        return int(result) if isinstance(result, int) else 0

    return guarded(
        called, {typer.Exit: lambda ended: int(ended.exit_code), typer.Abort: lambda _: fail("stopped", 1)}
    )


@app.callback(invoke_without_command=True)
def main(
    context: typer.Context,
    archive: ArchiveOption = None,
    sysroot: SysrootOption = Path("/"),
    version: Annotated[bool, typer.Option("--version", help="Print the version and end.")] = False,
) -> None:
    """Open the archive in the interface.

    Example: samovar --archive booth.sqlite
    """
    if version:
        print(f"samovar {__version__}")
        raise typer.Exit
    if context.invoked_subcommand is not None and archive is not None:
        from samovar.exchange.problems import InputError

        call = context.invoked_subcommand
        raise InputError(f"command line: --archive goes behind the call: samovar {call} --archive {archive}")
    if context.invoked_subcommand is None:
        from samovar.archive import Archive
        from samovar.tui.start import start

        start(archive or Archive.usual_place(), sysroot)


@app.command()
def demo(
    archive: ArchiveOption = None,
    tour: Annotated[
        bool, typer.Option("--tour", help="Run the whole example without a terminal, and end.")
    ] = False,
    fresh: Annotated[
        bool, typer.Option("--fresh", help="Make the demo's archive anew; runs added to it are lost.")
    ] = False,
    to: Annotated[Path | None, typer.Option("--to", metavar="FOLDER", help="Where --tour publishes.")] = None,
    speed: Annotated[
        float, typer.Option("--speed", min=1.0, max=1000.0, help="How many times faster than life.")
    ] = 30.0,
) -> None:
    """Open Harbour FM's voice booth, recorded already, and record on, 30 times as fast as life.

    Example: samovar demo --tour --to /tmp/booth
    """
    from samovar.demo.start import demo_archive, run_tour

    place = demo_archive(None if archive is None else Path(archive), fresh)
    if tour:
        run_tour(place, to)
        return
    from samovar.tui.start import start_demo

    start_demo(place, speed)


@app.command()
def sources(
    sysroot: SysrootOption = Path("/"),
    instruments: InstrumentsOption = None,
    on: OnOption = None,
    as_json: JsonOption = False,
) -> None:
    """Show what can be measured here, now.

    Example: samovar sources --json
    With meters beside the machine: samovar sources --with INSTRUMENTS.toml
    Of another machine: samovar sources --on "ssh bench@pebble samovar agent"
    """
    from samovar.bench.clock import MonotonicClock
    from samovar.cli.measured import measured
    from samovar.core.contract import plain
    from samovar.exchange.instrument_file import read_instruments
    from samovar.recording.instruments import look_at

    described = read_instruments(instruments) if instruments else ()
    with measured(sysroot, on) as machine:
        found = [*machine.probe(), *(look_at(described, MonotonicClock()) if described else ())]
    if as_json:
        print_json(
            {
                "channels": [
                    {
                        "id": p.channel.id,
                        "label": p.channel.name,
                        "quantity": p.channel.quantity,
                        "unit": p.channel.unit,
                        "role": p.channel.role,
                        "value": plain(p.value),
                        "status": p.status,
                        "reason": p.reason,
                    }
                    for p in found
                ]
            }
        )
        return
    from samovar.report import sources_text

    print(sources_text(found))


@app.command()
def read(
    log: Annotated[
        str, typer.Argument(metavar="LOG", help="A log as text or Parquet, or a run of the archive (r0007).")
    ],
    facts: FactsOption = None,
    map_file: MapOption = None,
    samples: Annotated[bool, typer.Option("--samples", help="With --json: the samples too.")] = False,
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Say what one recording shows: steady values, what held it, the judgement.

    Example: samovar read bench.csv --facts halden8.toml
    """
    from samovar.core.contract import as_contract, change_row, plain, step_row
    from samovar.core.effect import of_changes
    from samovar.lookup import reading_of
    from samovar.report import reading_text

    found = reading_of(log, facts, map_file, archive)
    if as_json:
        out = as_contract(found.reading, found.recording if samples else None, found.results())
        if found.recording.marks:
            out["marks"] = [{"at_s": plain(m.at_s), "text": m.text} for m in found.recording.marks]
        if steps := found.steps():
            out["steps"] = [step_row(one) for one in steps]
        if found.recording.changes:
            out["changes"] = [change_row(*one) for one in of_changes(found.recording)]
        print_json(out)
    else:
        print(reading_text(found.reading, log, found.recording, found.facts))


@app.command()
def runs(archive: ArchiveOption = None, as_json: JsonOption = False) -> None:
    """List the runs that are kept.

    Example: samovar runs --json
    """
    from samovar.archive.told import told
    from samovar.lookup import open_archive
    from samovar.report import result_text, runs_text

    with open_archive(archive) as opened:
        reviews = {r.id: r for r in opened.reviews.reviews()}
        judgements = opened.runs.findings.judgements()
        every = opened.runs.runs()
        figures = told(opened, every, {r.id: r.figure for r in reviews.values() if r.figure})
        entries = []
        for entry in every:
            review = reviews.get(entry.review_id) if entry.review_id else None
            setup = review.setup(entry.setup_id) if review else None
            entries.append(
                {
                    "id": entry.id,
                    "review": review.name if review else None,
                    "setup": setup.name if setup else None,
                    "load": entry.load,
                    "pass": entry.pass_number,
                    "state": entry.state,
                    "started": entry.started,
                    "duration_s": round(entry.duration_s, 3),
                    "interval_s": None if entry.interval_s is None else round(entry.interval_s, 4),
                    "channels": entry.channels,
                    "samples": entry.samples,
                    "judgement": judgements.get(entry.number),
                    "bench": entry.bench or None,
                }
            )
    if as_json:
        print_json({"runs": [{k: v for k, v in one.items() if k != "bench"} for one in entries]})
        return
    shown = {f"r{number:04d}": result_text(*found) for number, found in figures.items()}
    print(runs_text(entries, {f"r{number:04d}" for number in judgements}, shown))


@app.command()
def export(
    run_name: Annotated[str, typer.Argument(metavar="RUN", help="The run, such as r0007.")],
    to: Annotated[Path, typer.Option("--to", metavar="FILE", help="A .csv or .parquet file.")],
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Write a run's samples with units in the titles, and its facts beside them.

    Example: samovar export r0007 --to booth.csv
    """
    from samovar.exchange.export import export_recording
    from samovar.lookup import open_archive, run_of

    with open_archive(archive) as opened:
        entry = run_of(opened, run_name)
        recording = opened.runs.recording(entry.number)
        by_hand = opened.runs.annotations.by_hand(entry.number)
        read = opened.runs.hands.of(entry.number)
        opened.runs.reading(entry.number)
        reference = opened.runs.findings.reference_clock(entry.number)
    export_recording(recording, to, entry.facts, *by_hand, read, reference)
    if as_json:
        print_json({"run": entry.id, "file": str(to), "rows": len(recording.time_s)})
    else:
        print(f"{to}: {len(recording.time_s)} rows, {len(recording.channels)} channels of {entry.id}")


@app.command()
def publish(
    review: Annotated[str, typer.Argument(metavar="REVIEW", help="The review's name or short name.")],
    to: Annotated[Path, typer.Option("--to", metavar="FOLDER", help="The folder to write.")],
    into: Annotated[
        bool, typer.Option("--into", help="The folder may hold other things; none of them is lost.")
    ] = False,
    author: Annotated[
        str | None,
        typer.Option("--author", help="Under whose name; kept for all publications of the archive."),
    ] = None,
    licence: Annotated[
        str | None,
        typer.Option(
            "--licence", metavar="SPDX", help="Licence of the data, such as CC-BY-4.0; kept likewise."
        ),
    ] = None,
    language: Annotated[
        str | None, typer.Option("--language", help="Written in en or de; kept likewise.")
    ] = None,
    units: Annotated[
        str | None, typer.Option("--units", help="metric or imperial (°F, feet); kept likewise.")
    ] = None,
    decimals: Annotated[str | None, typer.Option("--decimals", help="point or comma; kept likewise.")] = None,
    edition: Annotated[
        int | None, typer.Option("--edition", min=1, help="Write this earlier edition again, as it was.")
    ] = None,
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Write a review as one folder: a page that stands alone, the same as PDF, a card, figures for page and column, and the data
    as a package by the open standard. What says something else than before is a new edition.

    Example: samovar publish my-review --to folder --author "Harbour FM workshop" --licence CC-BY-4.0
    """
    from samovar.archive.editions import AUTHOR, LICENCE
    from samovar.exchange.problems import InputError
    from samovar.lookup import open_archive, review_of
    from samovar.publish.again import write_edition
    from samovar.publish.data_package import LICENCES
    from samovar.publish.imprint import choose_form
    from samovar.publish.review import publish_review

    if licence and licence not in LICENCES:
        raise InputError(f"--licence {licence}: not one of {', '.join(LICENCES)}; name one of them")
    with open_archive(archive) as opened:
        found = review_of(opened, review, review)
        for key, value in ((AUTHOR, author), (LICENCE, licence)):
            if value is not None:
                opened.editions.set_imprint(key, value.strip())
        choose_form(opened, language, decimals, units)
        if edition is not None:
            written = write_edition(opened, found, edition, to, into)
        else:
            written = publish_review(opened, found, to, into=into)
    if as_json:
        print_json({"folder": str(to), "files": [str(p.relative_to(to)) for p in written]})
    else:
        print(f"{to / 'index.html'}: {len(written)} files")
