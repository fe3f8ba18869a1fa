"""Surfaces for publication: the faces of setups beside each other as a figure, and their values and pictures as tables."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import setups_on
from samovar.archive.surfaces import KeptPicture
from samovar.core.by_hand.reading import HandReading
from samovar.core.measured import Measured
from samovar.core.reading import Reading
from samovar.core.surfaces.picture import less
from samovar.core.surfaces.plan import Plan
from samovar.core.surfaces.told import Told, told_of
from samovar.figures.surface_chart import Face
from samovar.publish.figure_jobs import SurfaceJob

SETUPS_DRAWN = 4
"""More faces are no picture any more: the rest is in the package."""


def face_of(name: str, plan: Plan, kept: KeptPicture | None, told: Sequence[Told]) -> Face:
    """One face as it is drawn."""
    values = {one.item.name: one.surface for one in told if one.surface is not None}
    return Face(name, plan, kept.picture.celsius if kept is not None else None, values)


def write_one(
    path: Path, name: str, plan: Plan, kept: KeptPicture | None, told: Sequence[Told]
) -> list[Path]:
    """Write one face as SVG and PDF; the answer is the files. Raises InputError: the place cannot be written."""
    from samovar.figures.surface_chart import surface_chart
    from samovar.figures.write import write_figure

    figure = surface_chart([face_of(name, plan, kept, told)], f"{plan.name}, {name}", surface_words(told))
    written = [path.with_suffix(ending) for ending in (".svg", ".pdf")]
    for target in written:
        write_figure(figure, target)
    return written


def surface_words(told: Sequence[Told]) -> str:
    """The warmest of its spots and areas, as a sentence; empty where nothing is known of any."""
    known = [(one.surface, one.item.name) for one in told if one.surface is not None]
    if not known:
        return ""
    warmest, name = max(known, key=lambda found: found[0].value)
    return f"The warmest is {name}, {warmest.text('°C')}."


@dataclass(frozen=True)
class _Pictured:
    """The run of a setup that is drawn: its pictures, and what else is known of it."""

    setup: str
    pictures: list[KeptPicture]
    hands: list[HandReading]
    reading: Reading


def _pictured(archive: Archive, data: ReviewData, load: str, rig: str) -> list[_Pictured]:
    """By setup of a rig the last finished run under a load that has pictures."""
    runs = [
        (setup.name, run, result)
        for setup in setups_on(data.review, rig)
        for run, result in data.cell(setup, load).runs
        if result.finished and not run.left_out
    ]
    kept = archive.surfaces.pictures_of_all([run.number for _, run, _ in runs])
    last = {name: (run.number, result) for name, run, result in runs if run.number in kept}
    hands = archive.runs.hands.of_all([number for number, _ in last.values()])
    return [
        _Pictured(name, kept[number], hands.get(number, []), result.reading)
        for name, (number, result) in last.items()
    ]


def surface_jobs(
    archive: Archive,
    data: ReviewData,
    load: str,
    rig: str,
    where: str,
    place: Callable[[str], Path],
    ending: str,
) -> list[SurfaceJob]:
    """A figure for each plan of a rig of which setups have pictures under a load; `place` gives where one goes, by its name and
    `ending`."""
    shown = _pictured(archive, data, load, rig)[:SETUPS_DRAWN]
    plans = _plans(archive, data, rig)
    jobs: list[SurfaceJob] = []
    for plan in plans:
        told: list[tuple[str, list[Told], Face]] = []
        for one in shown:
            kept = next((k for k in reversed(one.pictures) if k.plan == plan.name), None)
            if kept is not None:
                of_run = told_of(plan, kept.picture, one.hands, one.reading)
                told.append((one.setup, of_run, face_of(one.setup, plan, kept, of_run)))
        if told:
            title = f"Surfaces, {plan.name}, {load}{where}"
            finding = _finding([(name, of_run) for name, of_run, _ in told])
            jobs.append(
                SurfaceJob(
                    place(f"surface-{len(jobs) + 1}{ending}"),
                    tuple(face for _, _, face in told),
                    title,
                    finding,
                    rig,
                )
            )
    return jobs


def _plans(archive: Archive, data: ReviewData, rig: str) -> list[Plan]:
    key = next((s.rig.id for s in setups_on(data.review, rig) if s.rig is not None), None)
    return archive.surfaces.plans_of(key) if key is not None else []


def _finding(by_setup: Sequence[tuple[str, Sequence[Told]]]) -> str:
    """Where each further setup is most plainly warmer or cooler than the first; and the first's warmest place."""
    first, told = by_setup[0]
    here = {one.item.name: one.surface for one in told if one.surface is not None}
    words = []
    for name, others in by_setup[1:]:
        apart = [
            (one.item.name, less(one.surface, here[one.item.name]))
            for one in others
            if one.surface is not None and one.item.name in here
        ]
        shown = [(at, by) for at, by in apart if abs(by.value) > (by.half_width or 0.0)]
        if shown:
            at, by = max(shown, key=lambda found: abs(found[1].value))
            side = "warmer" if by.value > 0.0 else "cooler"
            amount = Measured(abs(by.value), by.half_width).text("K")
            words.append(f"{name} is {amount} {side} than {first} at {at}")
        elif apart:
            words.append(f"{name} is as warm as {first}, as far as the camera tells")
    if here:
        warmest, surface = max(here.items(), key=lambda found: found[1].value)
        words.append(f"The warmest of {first} is {warmest}, {surface.text('°C')}")
    return " ".join(f"{sentence}." for sentence in words)
