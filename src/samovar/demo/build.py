"""Building the demo's archive: every run recorded by the ordinary recorder, as fast as the rig can live."""

from __future__ import annotations

import multiprocessing
import os
import random
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.editions import AUTHOR, LICENCE
from samovar.archive.place import files_of
from samovar.core.by_hand.line import Circumstances, read_line
from samovar.core.by_hand.reading import HandReading
from samovar.core.reading_plain import from_plain
from samovar.core.rig import Rig
from samovar.core.sound.levels import joined_levels
from samovar.demo import field_laptop, relay_site, van, voice_booth
from samovar.demo.heard import NAME
from samovar.demo.pictures import PLANS, pictures_of
from samovar.demo.plan import RUNS, PlannedRun
from samovar.demo.record import RecordedRun, record
from samovar.hearing import readings_of

SCATTER_DB = 0.15
"""What a meter's mean over half a minute scatters by from one run to the next."""
FIRST_DAY = datetime(2026, 3, 2, 9, 0, tzinfo=UTC)


def build(path: Path, on_progress: Callable[[int, int], None] | None = None) -> None:
    """Make the demo's archive at `path`: the same each time. It appears there only once it is whole.

    Raises:
        ArchiveError: the place cannot be written.
    """
    part = path.with_name(f".{path.name}.part")
    for leftover in files_of(part):
        leftover.unlink(missing_ok=True)
    with Archive(part) as archive:
        reviews = {
            "voice booth": voice_booth.frame(archive),
            "van": van.frame(archive),
            "relay site": relay_site.frame(archive),
            "field laptop": field_laptop.frame(archive),
        }
        for name, review in reviews.items():
            rig = review.setups[0].rig
            for face in PLANS.get(name, ()):
                if rig is not None:
                    archive.surfaces.keep_plan(rig.id, face)
        archive.runs.bench = "Ada on bench-2"
        archive.editions.set_imprint(AUTHOR, "Harbour FM workshop")
        archive.editions.set_imprint(LICENCE, "CC-BY-4.0")
        setups = {(name, s.name): s for name, review in reviews.items() for s in review.setups}
        facts = [setups[plan.review, plan.setup].facts for plan in RUNS]
        courses = [archive.plans.body_of(p.course or reviews[p.review].courses.get(p.load)) for p in RUNS]
        own = archive.plans.own_loads()
        began = FIRST_DAY
        context = multiprocessing.get_context("spawn")
        with ProcessPoolExecutor(max_workers=min(4, os.cpu_count() or 1), mp_context=context) as pool:
            for number, (plan, run) in enumerate(
                zip(RUNS, pool.map(record, RUNS, facts, courses, [own] * len(RUNS)), strict=True), start=1
            ):
                setup = setups[plan.review, plan.setup]
                key = archive.runs.add(
                    run.recording,
                    plan.load,
                    began.isoformat().replace("+00:00", "Z"),
                    run.state,
                    reason=run.reason,
                    review_id=setup.review_id,
                    setup_id=setup.id,
                    facts=setup.facts,
                    hand_readings=_by_hand(plan, run, setup.rig, archive.clips.keep),
                )
                for name_of_plan, picture in pictures_of(plan, run):
                    archive.surfaces.add_picture(key, name_of_plan, picture)
                archive.runs.findings.store(key, from_plain(run.reading), run.results, steps=run.steps)
                began += timedelta(seconds=run.recording.duration_s + 900.0)
                if on_progress:
                    on_progress(number, len(RUNS))
    part.replace(path)


def _by_hand(
    plan: PlannedRun, run: RecordedRun, rig: Rig | None, keep: Callable[[bytes], str]
) -> list[HandReading]:
    """What a reviewer would have read towards the end of the load: the sound level, as the meter shows it with the
    room's own beneath; on the relay site, where nothing turns, the regulators' surface."""
    if run.state != "sealed":
        return []
    chance = random.Random(plan.seed)
    loads = [m.at_s for m in run.recording.marks if m.text == "load off"]
    at_s = loads[-1] - 40.0 if loads else run.recording.duration_s
    there = Circumstances(rig, room_c=plan.room_c, now_s=at_s)
    if plan.review == "relay site":
        rise_k = run.warmth.regulator_c - plan.room_c
        return [
            read_line(
                f"surface {plan.room_c + share * rise_k + chance.gauss(0.0, 0.6):.1f} on {spot}, black tape",
                there,
            )
            for spot, share in relay_site.SPOTS
        ]
    if run.heard:
        return [
            replace(reading, at_s=then.at_s)
            for then in run.heard
            for reading in readings_of(
                then.heard, NAME, there, "microphone", keep(then.clip) if then.clip else ""
            )
        ]
    background = rig.details.get("background_dba") if rig else None
    if run.step_levels:
        return [
            read_line(
                f"noise {joined_levels([level, background or 0.0]) + chance.gauss(0.0, SCATTER_DB):.1f} dBA",
                replace(there, now_s=step_at_s),
            )
            for step_at_s, level in run.step_levels
        ]
    level = run.noise_dba if background is None else joined_levels([run.noise_dba, background])
    return [read_line(f"noise {level + chance.gauss(0.0, SCATTER_DB):.1f} dBA", there)]
