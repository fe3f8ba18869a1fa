"""The figures in which a review's setups are held against each other, load by load and rig by rig."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.before_after import steps_on
from samovar.archive.deciding import demands_of
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_all, compare_on, setups_on
from samovar.archive.versus_views import trade_on
from samovar.core.compare.audit import listed
from samovar.core.compare.ladder_words import ladder_words
from samovar.core.entered import file_stem, free_stem
from samovar.core.held.shares import held_shares, held_words
from samovar.core.measured import Measured
from samovar.core.overlay import Curve, overlay
from samovar.core.results.figure import PRICE, Figure, figure_of
from samovar.core.side_by_side import side_by_side
from samovar.core.sound.kept import KeptSound
from samovar.core.sound.side_by_side import tones_in_words
from samovar.figures.chain_chart import ChainColumn, Link
from samovar.figures.time_chart import Extras
from samovar.publish.figure_jobs import (
    BandsJob,
    ChainJob,
    CurvesJob,
    HeldJob,
    LadderJob,
    RunJob,
    Shown,
    TradeJob,
)
from samovar.publish.figures import draw_all
from samovar.publish.folder import make_folder
from samovar.publish.surface_figures import surface_jobs

CHAIN_FIGURES = 3
"""So many figures are told of a chain of changes."""


@dataclass(frozen=True)
class Comparison:
    """The figures of one load: by rig, and for each the ladders, the trade and the overlay by name, in the order of the
    argument."""

    load: str
    by_rig: dict[str, dict[str, Shown]]

    @property
    def jobs(self) -> list[Shown]:
        """All of them."""
        return [job for of in self.by_rig.values() for job in of.values()]


def comparison(
    archive: Archive, data: ReviewData, load: str, measure_keys: Sequence[str], place: Callable[[str], Path]
) -> Comparison:
    """Ladders of these measures, what is traded for noise, and the overlay under one load, for every rig; `place` gives where a
    figure goes, by its name."""
    rigs = [one.rig for one in compare_all(data, load, figure_of("rise"))]
    by_rig: dict[str, dict[str, Shown]] = {}
    for number, rig in enumerate(rigs):
        where = f", {rig}" if len(rigs) > 1 else ""
        ending = f"-rig-{number + 1}" if number else ""
        found: dict[str, Shown] = {}
        for key in measure_keys:
            one = compare_on(data, load, figure_of(key), rig)
            if len(one.ladder.rungs) < 2:
                # One bar alone is no comparison.
                continue
            finding = ladder_words(one.ladder, one.figure, one.reference)
            found[key] = LadderJob(
                place(file_stem(key) + ending), one.ladder.rungs, one.figure, one.reference,
                f"{one.figure.label.capitalize()}, {load}{where}", finding, _asked(data, one.figure), rig,
            )  # fmt: skip
        for name, across in (("trade", figure_of("noise")), ("price", PRICE)):
            if (
                traded := _trade_job(data, load, rig, where, across, partial(place, f"{name}{ending}"))
            ) is not None:
                found[name] = traded
        if (bands := _bands_job(data, load, rig, where, partial(place, f"sound{ending}"))) is not None:
            found["sound"] = bands
        for number, surface in enumerate(surface_jobs(archive, data, load, rig, where, place, ending)):
            found[f"surface-{number}"] = surface
        if (held := _held_job(data, load, rig, where, partial(place, f"held{ending}"))) is not None:
            found["held"] = held
        if (chain := _chain_job(data, load, rig, where, partial(place, f"chain{ending}"))) is not None:
            found["chain"] = chain
        for number, job in enumerate(_before_after(archive, data, load, rig, where, place, ending)):
            found[f"before-{number}"] = job
        if (
            curves := _curves_job(archive, data, load, rig, where, partial(place, f"curves{ending}"))
        ) is not None:
            found["curves"] = curves
        if found:
            by_rig[rig] = found
    return Comparison(load, by_rig)


def _asked(data: ReviewData, figure: Figure) -> tuple[tuple[float, str], ...]:
    """The review's demands on a figure, as lines."""
    return tuple(
        (d.limit, f"{d.side} {figure.text(Measured(d.limit))}")
        for d in demands_of(data)
        if d.limit is not None and d.figure.key == figure.key and not d.currency
    )


def _trade_job(
    data: ReviewData, load: str, rig: str, where: str, across: Figure, place: Callable[[], Path]
) -> TradeJob | None:
    one = compare_on(data, load, data.subject, rig)
    shown = trade_on(data, one, across) if one.figure.quantity != across.quantity else None
    if shown is None or len(shown.points) < 2:
        return None
    unbeaten = [p.name for p in shown.points if p.unbeaten]
    finding = (
        f"Nothing beats {listed(unbeaten)} in both {one.figure.label} and {across.label}." if unbeaten else ""
    )
    title = f"{one.figure.label.capitalize()} over {across.label}, {load}{where}"
    limit = next(
        (d.limit for d in demands_of(data) if d.figure.key == across.key and d.limit is not None), None
    )
    return TradeJob(place(), shown, limit, title, finding, rig)


def sounds_on(data: ReviewData, load: str, rig: str) -> tuple[tuple[str, KeptSound], ...]:
    """What the setups of a rig sounded like last under a load, in the review's order; those nobody listened to are left out."""
    found = []
    for setup in setups_on(data.review, rig):
        heard = [
            r.sound
            for r in data.cell(setup, load).results
            if r.finished and r.sound is not None and not r.steps
        ]
        if heard:
            found.append((setup.name, heard[-1]))
    return tuple(found)


def _bands_job(
    data: ReviewData, load: str, rig: str, where: str, place: Callable[[], Path]
) -> BandsJob | None:
    sounds = tuple((name, sound) for name, sound in sounds_on(data, load, rig) if sound.bands)
    if not sounds:
        return None
    return BandsJob(
        place(), sounds, f"Third octaves as listened to, {load}{where}", tones_in_words(sounds), rig
    )


def _held_job(data: ReviewData, load: str, rig: str, where: str, place: Callable[[], Path]) -> HeldJob | None:
    shares = tuple(
        (s.name, told)
        for s in setups_on(data.review, rig)
        if (told := held_shares(data.cell(s, load).results)) is not None
    )
    if not any(of for _, of in shares):
        return None
    return HeldJob(place(), shares, f"What held the clock, {load}{where}", held_words(shares), rig)


def _chain_job(
    data: ReviewData, load: str, rig: str, where: str, place: Callable[[], Path]
) -> ChainJob | None:
    steps = [s for s in steps_on(data, load, rig) if s.gains]
    figures = list(
        dict.fromkeys(g.figure for s in steps for g in s.gains if g.figure.quantity not in ("power", "clock"))
    )
    if not steps or not figures:
        return None
    columns = []
    for figure in figures[:CHAIN_FIGURES]:
        ladder = compare_on(data, load, figure, rig).ladder
        links = []
        for step in steps:
            before, after = ladder.rung(step.before), ladder.rung(step.after)
            gain = next((g for g in step.gains if g.figure == figure), None)
            words = gain.words().removeprefix(f"{figure.label} ") if gain is not None else ""
            links.append(Link(before.figure if before else None, after.figure if after else None, words))
        columns.append(ChainColumn(figure, tuple(links)))
    names = tuple(f"{s.before} → {s.after}" for s in steps)
    finding = " ".join(f"{s.after} against {s.before}: {s.gained()}." for s in steps)
    return ChainJob(place(), names, tuple(columns), f"What each change did, {load}{where}", finding, rig)


def _before_after(
    archive: Archive,
    data: ReviewData,
    load: str,
    rig: str,
    where: str,
    place: Callable[[str], Path],
    ending: str,
) -> list[RunJob]:
    """Each step that was measured on both sides: the run after, with the curves of the run before beside its own."""
    latest = {setup.name: (run, result) for setup, run, result in data.latest(load) if setup.rig_name == rig}
    jobs = []
    for number, step in enumerate(steps_on(data, load, rig), 1):
        if step.before not in latest or step.after not in latest:
            continue
        (was, old), (run, new) = latest[step.before], latest[step.after]
        recording, other = archive.runs.recording(run.number), archive.runs.recording(was.number)
        beside = side_by_side(recording, new.reading, other, old.reading)
        extras = Extras(beside=beside.rows, beside_name=step.before)
        title = f"{step.after} ({run.id}) with {step.before} ({was.id}) dashed, {load}{where}"
        words = f"{step.after} against {step.before}: {step.gained()}."
        jobs.append(
            RunJob(
                place(f"before-after-{number}{ending}"),
                recording,
                new.reading,
                run.facts,
                title,
                words,
                extras,
            )
        )
    return jobs


def _curves_job(
    archive: Archive, data: ReviewData, load: str, rig: str, where: str, place: Callable[[], Path]
) -> CurvesJob | None:
    runs = [
        Curve(setup.name, archive.runs.recording(run.number), result.reading, data.curve_channel(result))
        for setup, run, result in data.latest(load)
        if setup.rig_name == rig
    ]
    found = overlay(runs) if runs else None
    if found is None:
        return None
    words = f"{found.label.capitalize()} of {listed(list(found.names))}, their latest runs, aligned at the load's beginning."
    return CurvesJob(place(), found, f"{found.label.capitalize()}, {load}{where}", words, rig)


def load_stems(loads: Sequence[str], taken: set[str]) -> dict[str, str]:
    """What each load's files are called: names that read alike as files are told apart."""
    return {load: free_stem(load, taken, "load") for load in loads}


def comparison_figures(
    archive: Archive, data: ReviewData, load: str, measure_keys: Sequence[str], folder: Path
) -> list[Path]:
    """Ladders of these measures and the overlay under one load, each as SVG and PDF.

    Raises:
        InputError: the folder cannot be written.
    """
    make_folder(folder)
    stem = load_stems(data.review.loads, set()).get(load) or load_stems([load], set())[load]
    found = comparison(archive, data, load, measure_keys, lambda key: folder / f"{stem}-{key}")
    return list(draw_all(found.jobs))
