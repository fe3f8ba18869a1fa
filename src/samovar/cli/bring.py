"""`samovar bring`: a log of any maker kept as a run."""

from __future__ import annotations

import sys
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from samovar.cli.options import ArchiveOption, FactsOption, JsonOption, MapOption, print_json

if TYPE_CHECKING:
    from samovar.archive.records import Review, Setup


def bring(
    logs: Annotated[
        list[Path],
        typer.Argument(
            metavar="LOG", help="A log as text or Parquet, or a recording (WAV, FLAC); several at once."
        ),
    ],
    map_file: MapOption = None,
    facts: FactsOption = None,
    review: Annotated[str | None, typer.Option("--review", metavar="NAME")] = None,
    setup: Annotated[str | None, typer.Option("--setup", metavar="NAME")] = None,
    load: Annotated[
        str | None,
        typer.Option(
            "--load", metavar="NAME", help="The load it was recorded under; the review's, where it has one."
        ),
    ] = None,
    started: Annotated[
        str | None,
        typer.Option(
            "--started",
            metavar="TIME",
            help="When it began, 2026-03-04T18:20; from its own times if not named.",
        ),
    ] = None,
    join: Annotated[
        str | None,
        typer.Option(
            "--join", metavar="RUN", help="It is the same run by another instrument: lay it beside RUN."
        ),
    ] = None,
    offset: Annotated[
        float | None,
        typer.Option(
            "--offset",
            metavar="SECONDS",
            help="With --join: move its times; by the loads' edges if not named.",
        ),
    ] = None,
    entered: Annotated[
        list[str] | None,
        typer.Option(
            "--enter",
            metavar="LINE",
            help="What was read by hand, as samovar enter takes it; may be repeated.",
        ),
    ] = None,
    calibration: Annotated[
        Path | None,
        typer.Option(
            "--calibration", metavar="FILE", help="Of recordings: a calibrator's tone with the same gain."
        ),
    ] = None,
    background: Annotated[
        Path | None,
        typer.Option(
            "--background", metavar="FILE", help="Of recordings: the room alone with the same gain."
        ),
    ] = None,
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Keep a log of any maker as a run: in a review's cell, in the inbox, or beside a run's own channels. Several are kept one
    by one; in a review each goes to the setup that its name begins with, where --setup names none.

    Example: samovar bring wall-meter.csv --map meter.toml
    With readings: samovar bring booth.csv --enter "noise 27.4 dBA at 1 m" --enter "score 5012 points"
    Recordings: samovar bring osprey-1000rpm.wav fjord-900rpm.wav --review "Voice booth" --load "worst case" --calibration tone.wav
    """
    if len(logs) > 1 and (join is not None or started is not None):
        from samovar.exchange.problems import InputError

        raise InputError("--join and --started: they are of one log; name one")
    given = Given(
        map_file, facts, review, setup, load, started, join, offset, entered or [], calibration, background
    )
    for log in logs:
        _bring_one(log, given, archive, as_json)


@dataclass(frozen=True)
class Given:
    """What was given beside the logs."""

    map_file: Path | None
    facts: Path | None
    review: str | None
    setup: str | None
    load: str | None
    started: str | None
    join: str | None
    offset: float | None
    entered: list[str]
    calibration: Path | None
    background: Path | None

    def lines_of(self, log: Path) -> list[str]:
        """What is entered beside a log: a recording with a calibration is listened to itself, and its name may tell a speed."""
        from samovar.exchange.logs import SOUND
        from samovar.named_setup import rpm_in

        lines = list(self.entered)
        if log.suffix.lower() not in SOUND:
            return lines
        if self.calibration is not None:
            beside = f', background "{self.background}"' if self.background is not None else ""
            lines.append(f'noise "{log}", calibration "{self.calibration}"{beside}')
        rpm = rpm_in(log)
        return [*lines, f"fan {rpm:g} rpm"] if rpm is not None else lines


def _bring_one(log: Path, given: Given, archive: str | None, as_json: bool) -> None:
    from samovar.bench.clock import as_started
    from samovar.core.facts import Facts
    from samovar.core.reading import read as read_recording
    from samovar.entering import circumstances, entered_row, entered_text, read_lines
    from samovar.exchange.export import facts_beside
    from samovar.exchange.logs import read_log
    from samovar.exchange.toml_files import RunNotes, read_facts, read_map
    from samovar.lookup import cell_of, join_to_run, keep_copy, open_archive, review_of
    from samovar.named_setup import setup_by_name

    result = read_log(log, read_map(given.map_file) if given.map_file else None)
    beside = facts_beside(log)
    known, notes = read_facts(beside) if beside.exists() else (None, RunNotes())
    known = read_facts(given.facts)[0] if given.facts else known
    recording = result.recording
    if notes.marks or notes.changes:
        recording = replace(recording, marks=notes.marks, changes=notes.changes, _cache={})
    began = as_started(result.began if given.started is None else _typed_start(given.started))
    with open_archive(archive) as opened:
        if given.review is not None and given.setup is None:
            found_review: Review | None = review_of(opened, given.review, f"--review {given.review}")
            assert found_review is not None
            found_setup: Setup | None = setup_by_name(log, found_review.setups)
        else:
            found_review, found_setup = cell_of(opened, given.review, given.setup)
        wanted_load = _load_of(found_review, given.load)
        lines = given.lines_of(log)
        its_facts = known or (found_setup.facts if found_setup else Facts())
        room = read_recording(recording, its_facts).room if lines else None
        there = circumstances(found_review, found_setup, room.value if room else None, recording.duration_s)
        hands = read_lines(lines, there, opened.clips.keep)
        if given.join is not None:
            number, moved_s = join_to_run(opened, given.join, recording, given.offset, str(log))
        else:
            number, moved_s = (
                opened.runs.add(
                    recording,
                    wanted_load,
                    began,
                    review_id=found_review.id if found_review else None,
                    setup_id=found_setup.id if found_setup else None,
                    facts=its_facts,
                    hand_readings=[replace(r, n=0) for r in notes.by_hand],
                ),
                0.0,
            )
        kept = opened.runs.hands.add_all(number, hands)
        opened.runs.reading(number)
        keep_copy(opened)
    name = f"r{number:04d}"
    if as_json:
        said: dict[str, Any] = {"run": name, "rows": len(recording.time_s), "warnings": result.warnings}
        if given.join is not None:
            said = {"run": name, "offset_s": moved_s, "warnings": result.warnings}
        if kept:
            said["entered"] = [entered_row(reading) for reading in kept]
        print_json(said)
        return
    for warning in result.warnings:
        print(f"samovar: {log}: {warning}", file=sys.stderr)
    if given.join is not None:
        print(f"{name}: {given.join} with {log.name} beside it, moved by {moved_s:+.1f} s")
    else:
        print(f"{name}: {len(recording.time_s)} rows, {len(recording.channels)} channels")
    if kept:
        print(entered_text(name, kept))


def _typed_start(typed: str) -> datetime:
    """A date and time as typed. Raises InputError: none."""
    from samovar.exchange.problems import InputError

    try:
        return datetime.fromisoformat(typed)
    except ValueError:
        raise InputError(f"--started {typed}: no date and time; write one such as 2026-03-04T18:20") from None


def _load_of(review: Review | None, named: str | None) -> str:
    """The load a log belongs to. Raises InputError: none is named, and the review has several, or none."""
    from samovar.exchange.problems import InputError

    if review is None:
        return named or "none"
    loads = ", ".join(review.loads) or "none yet"
    if named is None:
        if len(review.loads) == 1:
            return review.loads[0]
        raise InputError(
            f"{review.name}: under which load was it recorded? Name it with --load; there are: {loads}"
        )
    for load in review.loads:
        if load.lower() == named.lower():
            return load
    raise InputError(f"--load {named}: {review.name} has no such load; there are: {loads}")
