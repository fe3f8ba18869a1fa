"""Building the demo's archive: every run recorded by the ordinary recorder, as fast as the rig can live."""

from __future__ import annotations

import multiprocessing
import os
import random
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.records import HandReading
from samovar.core.reading_plain import from_plain
from samovar.demo.plan import FACTS, METER, METER_HALF_WIDTH_DB, RUNS, PlannedRun
from samovar.demo.record import RecordedRun, record
from samovar.demo.voice_booth import frame

FIRST_DAY = datetime(2026, 3, 2, 9, 0, tzinfo=UTC)


def build(path: Path, on_progress: Callable[[int, int], None] | None = None) -> None:
    """Make the demo's archive at `path`: the same each time. It appears there only once it is whole.

    Raises:
        ArchiveError: the place cannot be written.
    """
    part = path.with_name(f".{path.name}.part")
    for leftover in (part, part.with_name(part.name + "-wal"), part.with_name(part.name + "-shm")):
        leftover.unlink(missing_ok=True)
    with Archive(part) as archive:
        review = frame(archive)
        setups = {s.name: s for s in review.setups}
        began = FIRST_DAY
        context = multiprocessing.get_context("spawn")
        with ProcessPoolExecutor(max_workers=min(4, os.cpu_count() or 1), mp_context=context) as pool:
            for number, (plan, run) in enumerate(zip(RUNS, pool.map(record, RUNS), strict=True), start=1):
                key = archive.runs.add(
                    run.recording,
                    plan.load,
                    began.isoformat().replace("+00:00", "Z"),
                    run.state,
                    reason=run.reason,
                    review_id=review.id,
                    setup_id=setups[plan.setup].id,
                    facts=FACTS,
                    hand_readings=_noise(plan, run),
                )
                archive.runs.store_reading(key, from_plain(run.reading))
                began += timedelta(seconds=run.recording.duration_s + 900.0)
                if on_progress:
                    on_progress(number, len(RUNS))
    part.replace(path)


def _noise(plan: PlannedRun, run: RecordedRun) -> list[HandReading]:
    """The sound level as a reviewer would have read it towards the end of the load."""
    if run.state != "sealed":
        return []
    read_off = run.noise_dba + random.Random(plan.seed).gauss(0.0, 0.4)
    loads = [m.at_s for m in run.recording.marks if m.text == "load off"]
    at_s = loads[-1] - 40.0 if loads else run.recording.duration_s
    return [HandReading(at_s, "noise", round(read_off, 1), METER_HALF_WIDTH_DB, "dBA", METER)]
