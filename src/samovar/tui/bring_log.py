"""Bringing in a log of any maker: read, looked at, set right, and kept as a run or joined to one."""

from __future__ import annotations

import asyncio
from dataclasses import replace
from pathlib import Path

from samovar.archive.records import Run, Setup
from samovar.bench.clock import as_started
from samovar.core.align import offset_between
from samovar.core.recording import Recording
from samovar.exchange.export import facts_beside
from samovar.exchange.log_map import key_of_titles
from samovar.exchange.logs import Log, read_log
from samovar.exchange.problems import InputError
from samovar.exchange.toml_files import RunNotes, read_facts
from samovar.lookup import join_to_run
from samovar.recording.live import NO_LOAD
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.log_sheet import LogSheet

INBOX = "the inbox"


async def bring_in(place: Place) -> int | None:
    """Ask for a file and keep it; the answer is the new run's number, None where nothing was kept."""
    typed = await place.app.push_screen_wait(
        Ask("Bring in which log?", hint="bench.csv, meter.txt, run.parquet")
    )
    if not typed:
        return None
    path = Path(typed).expanduser()
    plans = place.session.archive.plans
    try:
        log = await asyncio.to_thread(read_log, path)
        key = key_of_titles([c.title for c in log.columns])
        settled = plans.column_map(key)
        if settled:
            log = await asyncio.to_thread(read_log, path, settled)
    except InputError as problem:
        place.notify(str(problem), severity="error", timeout=12)
        return None
    answer = await place.app.push_screen_wait(LogSheet(path, log, settled, bool(settled)))
    if answer is None:
        return None
    log, column_map = answer
    if column_map["channels"] or column_map["time"]:
        plans.keep_column_map(key, column_map)
    return await _keep(place, path, log)


async def _keep(place: Place, path: Path, log: Log) -> int | None:
    """Ask where it belongs, and keep it there."""
    session, recording = place.session, log.recording
    options = [(INBOX, "a run of its own, in no review")]
    cells: dict[str, tuple[Setup, str]] = {}
    if session.review is not None:
        for setup in session.review.setups:
            for load in session.review.loads:
                name = f"{setup.name}, {load}"
                cells[name] = (setup, load)
                options.append((name, f"a pass of this cell of {session.review.name}"))
    other = session.archive.runs.run(session.trace_run) if session.trace_run else None
    if other is not None:
        options.insert(
            1, (f"joins {other.id}", "the same run by another instrument: its channels beside the run's")
        )
    chosen = await place.app.push_screen_wait(Choose(f"Where does {path.name} belong?", options))
    if chosen is None:
        return None
    runs = session.archive.runs
    if other is not None and chosen == f"joins {other.id}":
        return await _join(place, path, recording, other)
    beside = facts_beside(path)
    cell = cells.get(chosen)
    known, notes = read_facts(beside) if beside.exists() else (None, RunNotes())
    facts = known or (cell[0].facts if cell else None)
    number = runs.add(
        replace(recording, marks=notes.marks, changes=notes.changes, _cache={}),
        cell[1] if cell else NO_LOAD,
        as_started(log.began),
        review_id=session.review.id if cell and session.review else None,
        setup_id=cell[0].id if cell else None,
        facts=facts,
        hand_readings=[replace(r, n=0) for r in notes.by_hand],
    )
    await asyncio.to_thread(runs.reading, number)
    place.notify(
        f"r{number:04d}: {len(recording.time_s)} rows, {len(recording.channels)} channels, in {chosen}."
    )
    return number


async def _join(place: Place, path: Path, recording: Recording, run: Run) -> int | None:
    """Lay the log over a run by their loads' edges, the offset shown and to be set right; a new run holds both."""
    runs = place.session.archive.runs
    mine = await asyncio.to_thread(runs.recording, run.number)
    found = offset_between(mine, recording)
    words = "as both loads begin" if found is not None else "no load's edge was found in both"
    typed = await place.app.push_screen_wait(
        Ask(f"Move {path.name} by how many seconds? ({words})", f"{found or 0.0:.1f}", "-12.5")
    )
    if typed is None:
        return None
    try:
        offset_s = float(typed.replace(",", ".") or 0.0)
    except ValueError:
        place.notify(f"{typed!r} is no number of seconds; type one such as -12.5", severity="error")
        return None
    number, _ = join_to_run(place.session.archive, run.id, recording, offset_s, str(path))
    place.notify(
        f"r{number:04d} holds {run.id} and {path.name}, moved by {offset_s:+.1f} s; {run.id} is left out."
    )
    return number
