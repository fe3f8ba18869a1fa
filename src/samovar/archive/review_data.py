"""A review with its runs read: what Grid, Versus, Write-up and publishing all look at."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType

from samovar.archive.archive import Archive
from samovar.archive.bench_history import BenchHistory
from samovar.archive.records import Claim, Review, Run, Setup
from samovar.archive.runs import COUNTED
from samovar.core.claims.kinds import CHANGE
from samovar.core.compare.experiment import fit
from samovar.core.compare.pooling import Spread, prior_of
from samovar.core.compare.rungs import passes_of
from samovar.core.effect import Effect, effects
from samovar.core.exclusions import without
from samovar.core.money import Rate
from samovar.core.reading import outline_of
from samovar.core.results.figure import (
    FIGURES,
    Figure,
    RunResult,
    as_they_ran,
    figure_of,
    part_of,
    telling_figure,
)
from samovar.core.results.result import BY_HAND


@dataclass(frozen=True)
class Cell:
    """One setup under one load: its runs in order of recording, those left out among them."""

    setup: Setup
    load: str
    runs: tuple[tuple[Run, RunResult], ...] = ()

    @property
    def results(self) -> list[RunResult]:
        """The runs that count."""
        return [result for run, result in self.runs if run.left_out is None]

    @property
    def passes(self) -> int:
        """How many finished passes there are; a run in steps is none where there are others."""
        return len(as_they_ran(self.results))


def _nothing(rig: str, figure: Figure) -> Sequence[Spread]:
    """Nothing was recorded in other reviews."""
    return ()


@dataclass(frozen=True)
class ReviewData:
    """A review and all that its runs say: handed on from the thread that read it, and never changed. `outlines` are the courses, by run, of what it is about, where that is not
    the die; `effects` what became of the channels that claims on changes name, by claim. `rates` are
    those of exchange, `elsewhere` asks what other reviews'
    experiments on a rig showed of a figure's scatter. `kept`: what was worked out of them once, for as long as they stand, `priors` what
    was asked of the bench's history, by rig, load and figure."""

    review: Review
    cells: Mapping[tuple[int, str], Cell] = field(default_factory=lambda: MappingProxyType({}))
    outlines: Mapping[str, tuple[float | None, ...]] = field(default_factory=lambda: MappingProxyType({}))
    effects: Mapping[int, Effect] = field(default_factory=lambda: MappingProxyType({}))
    rates: tuple[Rate, ...] = ()
    elsewhere: Callable[[str, Figure], Sequence[Spread]] = field(default=_nothing)
    kept: dict[object, object] = field(default_factory=dict, repr=False, compare=False)
    priors: dict[tuple[str, str, str], Spread | None] = field(default_factory=dict, repr=False, compare=False)

    @property
    def subject(self) -> Figure:
        """The figure the review is about: as the reviewer chose, else what its runs tell first."""
        if self.review.figure:
            return figure_of(self.review.figure)
        return telling_figure(r for x in self.every() for r in x.results)

    def every(self) -> list[RunResult]:
        """Every run that counts."""
        return [result for cell in self.cells.values() for result in cell.results]

    def outline(self, result: RunResult) -> tuple[float | None, ...]:
        """The course of what the review is about in one run, in miniature; the die's where that has no course."""
        return self.outlines.get(result.run, result.reading.outline)

    def cell(self, setup: Setup, load: str) -> Cell:
        """The cell, empty where nothing was recorded."""
        return self.cells.get((setup.id, load)) or Cell(setup, load)

    def under(self, load: str) -> dict[str, list[RunResult]]:
        """Setup name to its counted runs under a load; only setups that have any."""
        found = {s.name: self.cell(s, load).results for s in self.review.setups}
        return {name: results for name, results in found.items() if results}

    def prior(self, rig: str, load: str, figure: Figure) -> Spread | None:
        """How much a pass of this figure scattered on a rig before: under the review's other loads, and in other reviews."""
        if (rig, load, figure.key) not in self.priors:
            self.priors[rig, load, figure.key] = self._prior(rig, load, figure)
        return self.priors[rig, load, figure.key]

    def _prior(self, rig: str, load: str, figure: Figure) -> Spread | None:
        told = list(self.elsewhere(rig, figure))
        names = {s.id: s.name for s in self.review.setups if s.rig_name == rig}
        for other in self.review.loads:
            cells = {
                name: self.cells[key, other].results
                for key, name in names.items()
                if (key, other) in self.cells
            }
            experiment = fit(passes_of(cells, figure)) if other != load else None
            if experiment is not None and experiment.spread is not None:
                told.append(experiment.spread)
        return prior_of(told)

    def latest(self, load: str) -> list[tuple[Setup, Run, RunResult]]:
        """The latest finished run of each setup under a load, in the review's order; one in steps where there is no other."""
        found = []
        for setup in self.review.setups:
            done = [(run, x) for run, x in self.cell(setup, load).runs if x.finished and run.left_out is None]
            plain = [(run, x) for run, x in done if not x.steps] or done
            if plain:
                found.append((setup, *plain[-1]))
        return found

    def curve_channel(self, result: RunResult) -> str | None:
        """The channel of a run whose course shows what the review is about; None for the die's."""
        return None if self.subject.parts[0] == "die" else self.subject.channel_among(result.results)

    def measured_cells(self) -> tuple[int, int]:
        """Cells with all passes that are wanted, and cells in all."""
        total = len(self.review.setups) * len(self.review.loads)
        done = sum(
            self.cell(s, load).passes >= self.review.passes_wanted
            for s in self.review.setups
            for load in self.review.loads
        )
        return done, total


def result_of(archive: Archive, run: Run) -> RunResult:
    """A run as comparisons see it. Raises DamagedRun."""
    return archive.runs.results_of([run])[0][1]


def load_review(archive: Archive, review: Review) -> ReviewData:
    """Read all runs of a review. Those that damage has reached are there, left out with that reason."""
    setups = {s.id: s for s in review.setups}
    counted = [
        run
        for run in archive.runs.runs(review_id=review.id)
        if run.state in COUNTED and run.setup_id in setups and run.samples > 0
    ]
    places: dict[str, int] = {}
    order: dict[int, int] = {}
    for run in sorted(counted, key=lambda r: (r.started, r.number)):
        name = setups[run.setup_id or 0].rig_name
        places[name] = places.get(name, -1) + 1
        order[run.number] = places[name]
    grouped: dict[tuple[int, str], list[tuple[Run, RunResult]]] = {}
    for run, plain in archive.runs.results_of(counted):
        result = replace(plain, order=order[run.number])
        grouped.setdefault((run.setup_id or 0, run.load), []).append((run, result))
    cells = {
        (setup_id, load): Cell(setups[setup_id], load, tuple(runs))
        for (setup_id, load), runs in grouped.items()
    }
    effects = {
        claim.id: effect
        for claim in archive.reviews.claims(review.id)
        if claim.kind == CHANGE and (effect := effect_claimed(archive, claim)) is not None
    }
    data = ReviewData(
        review,
        MappingProxyType(cells),
        effects=MappingProxyType(effects),
        rates=tuple(rate for _, rate in archive.shelf.rates()),
        elsewhere=BenchHistory(archive, review.id).spreads,
    )
    return replace(data, outlines=MappingProxyType(_outlines(archive, data)))


def effect_claimed(archive: Archive, claim: Claim) -> Effect | None:
    """What became of the channel that a claim on a change names; None where its run or channel is gone, or left out."""
    about = claim.about or {}
    run = archive.runs.run(str(about.get("run", "")))
    if run is None or run.left_out is not None:
        return None
    channels = archive.runs.channels(run.number)
    position = next((k for k, c in enumerate(channels) if c.name == about.get("channel")), None)
    from_s, to_s = about.get("from_s"), about.get("to_s")
    if position is None or not isinstance(from_s, int | float) or not isinstance(to_s, int | float):
        return None
    recording = without(
        archive.runs.recording(run.number, [position]), archive.runs.annotations.excluded(run.number)
    )
    return next(iter(effects(recording, from_s, to_s, around=bool(about.get("around")))), None)


def _outlines(archive: Archive, data: ReviewData) -> dict[str, tuple[float | None, ...]]:
    """The courses of what the review is about: of the channel that its figure is taken from."""
    subject = data.subject
    if subject.parts[0] == "die":
        return {}
    named = {
        run.number: name
        for cell in data.cells.values()
        for run, result in cell.runs
        if (name := subject.channel_among(result.results)) is not None
    }
    return {
        f"r{number:04d}": outline_of(time_s, values)
        for number, (time_s, values) in archive.runs.courses_of(named).items()
    }


MOST_SHOWN = 14
"""More figures than this beside each other nobody reads."""
_TOLD_OF_PARTS = ("hotspot", "gpu", "memory", "vrm", "storage", "chipset", "coolant", "surface")


def shown_figures(data: ReviewData) -> list[Figure]:
    """The figures in which a review's setups are shown beside each other: what it is about, those that reviews ask for
    most, then each other part that its runs tell of, and the spots that hands measured."""
    results = [r for x in data.every() for r in x.results]
    subject = data.subject
    parts = {part_of(r) for r in results}
    spots = sorted(
        {
            r.part
            for r in results
            if r.source == BY_HAND and r.quantity == "temperature" and r.part and " " in r.part
        }
    )
    wanted = [subject, *FIGURES]
    for part in _TOLD_OF_PARTS:
        if part in parts:
            wanted += [Figure("rise", "temperature", (part,)), Figure("at", "temperature", (part,))]
    wanted += [Figure("at", "temperature", (spot,)) for spot in spots]
    for part in sorted(p for p in parts if p and p.startswith("storage ")):
        wanted += [Figure(s, "work", (part,)) for s in ("steady", "hot", "mean")]
    wanted += [Figure("steady", "clock", (part,)) for part in ("fast cores", "slow cores") if part in parts]
    wanted += [Figure("steady", "power", ("wall",)), Figure("steady", "work", ("gpu",))]
    found: dict[str, Figure] = {}
    for figure in wanted:
        same = figure_of(figure.key)
        if same.key in found:
            continue
        # A drive that was only written to read nothing: a column of noughts tells that once too often.
        told = [v for x in data.every() if (v := same.of(x)) is not None]
        if told and (same.quantity != "work" or any(v.value for v in told)):
            found[same.key] = same
    return list(found.values())[:MOST_SHOWN] or [subject]
