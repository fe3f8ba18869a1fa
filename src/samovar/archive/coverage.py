"""How far a review is, from its runs' entries alone: no reading is opened, however many runs there are."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from samovar.archive.records import Entry, Review, Setup
from samovar.archive.review_data import COUNTED
from samovar.core.results.figure import FINISHED


@dataclass
class Coverage:
    """The runs of a review by cell (setup's key and load), in order of recording."""

    review: Review
    runs: dict[tuple[int, str], list[Entry]] = field(default_factory=dict)

    def of(self, setup: Setup, load: str) -> list[Entry]:
        """The runs of a cell, those left out among them."""
        return self.runs.get((setup.id, load), [])

    def passes(self, setup: Setup, load: str) -> int:
        """How many finished passes count in a cell; a run in steps is none where there are others."""
        finished = [r for r in self.of(setup, load) if r.state in FINISHED and r.left_out is None]
        return len([r for r in finished if not r.in_steps] or finished)

    def measured_cells(self) -> tuple[int, int]:
        """Cells with all passes that are wanted, and cells in all."""
        review = self.review
        cells = [(s, load) for s in review.setups for load in review.loads]
        return sum(self.passes(*cell) >= review.passes_wanted for cell in cells), len(cells)

    def latest(self) -> Entry | None:
        """The run recorded last; its setup is the one that is fitted."""
        return max((run for runs in self.runs.values() for run in runs), key=lambda r: r.number, default=None)


def coverages(reviews: Iterable[Review], runs: Iterable[Entry]) -> dict[int, Coverage]:
    """The coverage of each review, by its key, from one list of runs."""
    found = {review.id: Coverage(review) for review in reviews}
    setups = {key: {s.id for s in c.review.setups} for key, c in found.items()}
    for run in runs:
        here = found.get(run.review_id)
        if here is None or run.setup_id not in setups[here.review.id]:
            continue
        if run.state in COUNTED and run.samples > 0:
            here.runs.setdefault((run.setup_id, run.load), []).append(run)
    return found
