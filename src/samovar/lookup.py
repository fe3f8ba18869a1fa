"""What a call names, found: an archive, a log or a run to read, the cell of a review."""

from __future__ import annotations

import re
import sys
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from samovar.core.by_hand.reading import HandReading, results_by_hand, with_room
from samovar.core.exclusions import without
from samovar.core.facts import Facts
from samovar.core.quantity import Channel, domain_of
from samovar.core.reading import Reading
from samovar.core.reading import read as read_recording
from samovar.core.recording import Recording
from samovar.core.results.result import Result
from samovar.exchange.problems import InputError

if TYPE_CHECKING:
    # A log is read without any archive: what opens one is heavy, and imported where one is opened.
    from samovar.archive import Archive
    from samovar.archive.records import Review, Run, Setup
    from samovar.bench.replay_machine import ReplayMachine
    from samovar.core.results.steps import StepResults


def open_archive(archive: str | Path | None) -> Archive:
    """The named archive, else the user's own; what was found interrupted is said."""
    from samovar.archive import Archive

    opened = Archive(archive or Archive.usual_place())
    for name in opened.handed_on:
        print(f"samovar: run {name} was handed on to {opened.where}", file=sys.stderr)
    for name in opened.recovered:
        print(f"samovar: run {name} was interrupted; it is whole up to its last second", file=sys.stderr)
    return opened


def keep_copy(opened: Archive) -> None:
    """The day's copy of an archive that a call has written into, where there is none yet. That it cannot be made is said,
    and is no failure of the call."""
    from datetime import date

    from samovar.archive import ArchiveError
    from samovar.archive.backup import keep_daily

    if opened.place.path is None:
        return
    try:
        keep_daily(opened.place.path, date.today())
    except (ArchiveError, OSError) as problem:
        print(f"samovar: the day's copy could not be made: {problem}", file=sys.stderr)


def run_of(opened: Archive, name: str) -> Run:
    """The run of this name. Raises InputError where there is none."""
    found = opened.runs.run(name)
    if found is None:
        raise InputError(f"{name}: no such run in {opened.where}; see samovar runs")
    return found


def replayed_run(opened: Archive, name: str, speed: float) -> ReplayMachine:
    """A recorded run as a machine. Raises InputError: no such run, one without samples, or no such speed."""
    from samovar.bench.replay_machine import ReplayMachine

    if not 0.1 <= speed <= 1000.0:
        raise InputError(f"--speed {speed:g}: from 0.1 to 1000 times as fast as life; choose one between")
    recording = opened.runs.recording(run_of(opened, name).number)
    if len(recording.time_s) < 2:
        raise InputError(f"{name}: it holds no samples to replay; see samovar runs for one that does")
    return ReplayMachine(recording, speed)


def join_to_run(
    opened: Archive, name: str, recording: Recording, offset_s: float | None, where: str
) -> tuple[int, float]:
    """Lay a log beside a run's own channels, as a new run; the answer is its number and by how much it was moved.

    Raises:
        InputError: no such run, or no offset is given and their loads' edges do not tell one.
    """
    from samovar.core.align import joined, offset_between

    run = run_of(opened, name)
    mine = opened.runs.recording(run.number)
    moved_s = offset_between(mine, recording) if offset_s is None else offset_s
    if moved_s is None:
        raise InputError(f"{where}: no load begins in it, or none in {run.id}; name the --offset in seconds")
    number = opened.runs.add(
        joined(mine, recording, moved_s), run.load, run.started, run.state, reason=run.reason,
        review_id=run.review_id, setup_id=run.setup_id, facts=run.facts,
        hand_readings=opened.runs.hands.of(run.number),
    )  # fmt: skip
    opened.runs.leave_out(run.number, f"joined with {Path(where).name} as r{number:04d}")
    return number, moved_s


def review_of(opened: Archive, name: str, where: str) -> Review:
    """The review of this name; `where` is what the call named it by. Raises InputError where there is none."""
    found = opened.reviews.review(name)
    if found is None:
        names = ", ".join(r.slug for r in opened.reviews.reviews()) or "none yet"
        raise InputError(f"{where}: no such review in {opened.where}; there are: {names}")
    return found


@dataclass(frozen=True)
class ReadLog:
    """A file or a run as read: the recording, what it says, the facts it was read with, and what hands read."""

    recording: Recording
    reading: Reading
    facts: Facts
    by_hand: tuple[HandReading, ...] = ()

    def results(self) -> list[Result]:
        """Every figure of it that can be held against another's."""
        from samovar.core.results.compute import results_of

        load = self.reading.load_phase()
        by_hand = results_by_hand(self.by_hand, load.start_s if load else 0.0)
        return [*results_of(self.recording, self.reading), *by_hand]

    def steps(self) -> list[StepResults]:
        """The results of each of its steps; none where it has but one."""
        from samovar.core.results.steps import results_of_steps, steps_of, with_hands

        steps = steps_of(self.recording, self.reading)
        return with_hands(results_of_steps(self.recording, self.reading, steps), self.by_hand)


def reading_of(log: str, facts: Path | None, map_file: Path | None, archive: str | Path | None) -> ReadLog:
    """A file, or a run of the archive, as read."""
    from samovar.exchange.export import facts_beside
    from samovar.exchange.logs import read_log
    from samovar.exchange.toml_files import RunNotes, read_facts, read_map

    path = Path(log)
    if re.fullmatch(r"r\d+", log) and not path.exists():
        with open_archive(archive) as opened:
            run_entry = run_of(opened, log)
            said = opened.runs.annotations
            recording = without(opened.runs.recording(run_entry.number), said.excluded(run_entry.number))
            by_hand = opened.runs.hands.of(run_entry.number)
            known = read_facts(facts)[0] if facts else with_room(run_entry.facts, by_hand)
            # One run has one answer, here and on every screen; other facts ask for another reading.
            reading = (
                read_recording(recording, known, window_s=said.window(run_entry.number))
                if facts
                else opened.runs.reading(run_entry.number)
            )
            return ReadLog(recording, reading, known, tuple(by_hand))
    result = read_log(path, read_map(map_file) if map_file else None)
    beside = facts_beside(path)
    known, notes = Facts(), RunNotes()
    if beside.exists():
        known, notes = read_facts(beside)
    if facts is not None:
        known = read_facts(facts)[0]
    channels = tuple(
        _with_role(c, notes.roles[c.name]) if c.name in notes.roles else c for c in result.recording.channels
    )
    recording = replace(
        result.recording, channels=channels, stopped_early=notes.stopped_early, marks=notes.marks, changes=notes.changes,
        _cache={},
    )  # fmt: skip
    recording = without(recording, notes.left_out)
    known = with_room(known, notes.by_hand)
    reading = read_recording(
        recording, known, result.warnings, notes.reference_clock_mhz, window_s=notes.window_s
    )
    return ReadLog(recording, reading, known, notes.by_hand)


def _with_role(channel: Channel, role: str) -> Channel:
    return replace(channel, role=role, domain=domain_of(role) if role != "other" else channel.domain)


def cell_of(opened: Archive, review: str | None, setup: str | None) -> tuple[Review | None, Setup | None]:
    """The review and setup of these names; both or neither must be named."""
    if review is None and setup is None:
        return None, None
    if review is None or setup is None:
        raise InputError(
            "command line: --review and --setup go together; name both, or neither for the inbox"
        )
    found = review_of(opened, review, f"--review {review}")
    for candidate in found.setups:
        if candidate.name.lower() == setup.lower():
            return found, candidate
    names = ", ".join(s.name for s in found.setups) or "none yet"
    raise InputError(f"--setup {setup}: {found.name} has no such setup; there are: {names}")
