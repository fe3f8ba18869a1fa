"""Runs as comparisons see them: asked of the archive in a few statements, however many they are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from sqlalchemy import Engine

from samovar.archive.damage import Damage, DamagedRun
from samovar.archive.findings import Findings, ReadRun
from samovar.archive.free_clocks import free_clocks
from samovar.archive.hand_readings import readings_among
from samovar.archive.records import Run
from samovar.archive.sums import PARTS, READINGS, parts_of
from samovar.core.by_hand.reading import HandReading, results_by_hand
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.core.results.figure import RunResult
from samovar.core.results.steps import with_hands


def results_of_runs(
    engine: Engine, findings: Findings, damage: Damage, runs: Sequence[Run]
) -> list[tuple[Run, RunResult]]:
    """Every run with what was measured and what hands read of it. One that is damaged says nothing, and is left out."""
    numbers = [run.number for run in runs]
    with engine.connect() as connection:
        parts = parts_of(connection, numbers, *PARTS)
        clocks = free_clocks(connection, sorted({run.review_id for run in runs if run.review_id is not None}))
        damage.look(connection, runs, parts)
    found = []
    for run in runs:
        read_run: ReadRun | None = None
        if run.number not in damage.known:
            try:
                read_run = findings.read(run, parts, clocks)
            except DamagedRun as problem:
                damage.note(run.number, problem.what)
        hands = [] if read_run is None else readings_among(parts.of(READINGS, run.number))
        marked = damage.marked(run)
        found.append((marked, _result(marked, read_run or ReadRun(read(_NOTHING)), hands)))
    return found


_NOTHING = Recording((), np.empty(0), np.empty((0, 0)))
"""What a run whose samples cannot be read says."""


def _result(run: Run, found: ReadRun, hands: list[HandReading]) -> RunResult:
    load = found.reading.load_phase()
    results = (*found.results, *results_by_hand(hands, load.start_s if load else 0.0))
    sound = next((heard for hand in reversed(hands) if (heard := hand.sound) is not None), None)
    return RunResult(
        run.id,
        found.reading,
        results,
        run.state,
        run.reason,
        with_hands(list(found.steps), hands),
        sound=sound,
    )
