"""How far a review is, from how many runs there are of each cell: no reading is opened, however many runs there are."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from samovar.archive.records import CellCount, Review, Setup


@dataclass
class Coverage:
    """The runs of a review, counted by cell (setup's key and load). `lengths_s`: how long finished runs of a load took, as
    far as that was asked for."""

    review: Review
    cells: dict[tuple[int, str], CellCount] = field(default_factory=dict)
    lengths_s: Mapping[str, Sequence[float]] = field(default_factory=dict)

    def passes(self, setup: Setup, load: str) -> int:
        """How many finished passes count in a cell; a run in steps is none where there are others."""
        found = self.cells.get((setup.id, load))
        return (found.plain or found.in_steps) if found is not None else 0

    def measured_cells(self) -> tuple[int, int]:
        """Cells with all passes that are wanted, and cells in all."""
        review = self.review
        cells = [(s, load) for s in review.setups for load in review.loads]
        return sum(self.passes(*cell) >= review.passes_wanted for cell in cells), len(cells)

    def fitted(self) -> Setup | None:
        """The setup of the run recorded last: it is the one that is fitted."""
        newest = max(self.cells.values(), key=lambda c: c.newest, default=None)
        return self.review.setup(newest.setup_id) if newest is not None else None


def coverages(reviews: Iterable[Review], counts: Iterable[CellCount]) -> dict[int, Coverage]:
    """The coverage of each review, by its key, from one list of counted cells."""
    found = {review.id: Coverage(review) for review in reviews}
    setups = {key: {s.id for s in c.review.setups} for key, c in found.items()}
    for count in counts:
        here = found.get(count.review_id)
        if here is not None and count.setup_id in setups[count.review_id]:
            here.cells[count.setup_id, count.load] = count
    return found
