"""A review with its runs read: what Grid, Versus, Write-up and publishing all look at."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from samovar.archive.archive import Archive
from samovar.archive.records import Claim, HandReading, Review, Run, Setup
from samovar.core.claims import Checked, check
from samovar.core.measures import RunResult
from samovar.core.uncertainty import Measured

COUNTED = ("sealed", "stopped", "interrupted", "did-not-finish")


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
        """How many finished passes there are."""
        return sum(r.finished for r in self.results)


@dataclass
class ReviewData:
    """A review and all that its runs say."""

    review: Review
    cells: dict[tuple[int, str], Cell] = field(default_factory=dict)

    def cell(self, setup: Setup, load: str) -> Cell:
        """The cell, empty where nothing was recorded."""
        return self.cells.get((setup.id, load)) or Cell(setup, load)

    def under(self, load: str) -> dict[str, list[RunResult]]:
        """Setup name to its counted runs under a load; only setups that have any."""
        found = {s.name: self.cell(s, load).results for s in self.review.setups}
        return {name: results for name, results in found.items() if results}

    def latest(self, load: str) -> list[tuple[Setup, Run, RunResult]]:
        """The latest finished run of each setup under a load, in the review's order."""
        found = []
        for setup in self.review.setups:
            done = [(run, x) for run, x in self.cell(setup, load).runs if x.finished and run.left_out is None]
            if done:
                found.append((setup, *done[-1]))
        return found

    def measured_cells(self) -> tuple[int, int]:
        """Cells with all passes that are wanted, and cells in all."""
        total = len(self.review.setups) * len(self.review.loads)
        done = sum(
            self.cell(s, load).passes >= self.review.passes_wanted
            for s in self.review.setups
            for load in self.review.loads
        )
        return done, total

    def holding(self, claims: Iterable[Claim]) -> int:
        """How many of these claims hold."""
        return sum(self.check(c).state == "holds" for c in claims)

    def check(self, claim: Claim) -> Checked:
        """Hold a claim against the runs; `stale` where its accepted words are no longer what they say."""
        setup, other = self.review.setup(claim.setup_id), self.review.setup(claim.other_id)
        if setup is None:
            return Checked("open", "The setup of this claim is gone.", ())
        found = check(
            claim.kind,
            setup.name,
            self.cell(setup, claim.load).results,
            other.name if other else None,
            self.cell(other, claim.load).results if other else [],
            claim.load,
            margin_k=self.review.margin_k,
            margin_share=self.review.margin_share,
            noise_limit_dba=self.review.noise_limit_dba,
        )
        if claim.accepted is not None and claim.accepted != found.sentence and found.state != "open":
            return Checked("stale", found.sentence, (*found.evidence, f"you accepted: {claim.accepted}"))
        return found


def noise_of(readings: list[HandReading]) -> Measured | None:
    """The last noise read by hand in a run."""
    noises = [r for r in readings if r.quantity == "noise"]
    return Measured(noises[-1].value, noises[-1].half_width) if noises else None


def result_of(archive: Archive, run: Run) -> RunResult:
    """A run as comparisons see it."""
    return RunResult(
        run.id,
        archive.runs.reading(run.number),
        run.state,
        noise_of(archive.runs.hand_readings(run.number)),
        run.reason,
    )


def load_review(archive: Archive, review: Review) -> ReviewData:
    """Read all runs of a review."""
    data = ReviewData(review)
    setups = {s.id: s for s in review.setups}
    grouped: dict[tuple[int, str], list[tuple[Run, RunResult]]] = {}
    for run in archive.runs.runs(review_id=review.id):
        if run.state in COUNTED and run.setup_id in setups and run.samples > 0:
            grouped.setdefault((run.setup_id, run.load), []).append((run, result_of(archive, run)))
    for (setup_id, load), runs in grouped.items():
        data.cells[setup_id, load] = Cell(setups[setup_id], load, tuple(runs))
    return data
