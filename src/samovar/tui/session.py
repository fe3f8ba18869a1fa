"""What the places share: the archive, the machine on the bench, the review in hand, the run under way."""

from __future__ import annotations

from dataclasses import dataclass, field

from samovar.archive import Archive
from samovar.archive.live import LiveRun
from samovar.archive.records import Review, Run, Setup
from samovar.archive.review_data import Cell, ReviewData, load_review
from samovar.bench.machine import Machine
from samovar.core.compare import audit
from samovar.core.measures import measure
from samovar.core.planner import Proposal, propose


@dataclass
class Session:
    """State beyond any one place. Changes of what is stored go through `reload`."""

    archive: Archive
    machine: Machine
    title: str = "Samovar"
    review: Review | None = None
    data: ReviewData | None = None
    live: LiveRun | None = None
    trace_run: int | None = None
    chosen: tuple[str, str] | None = None
    load: str | None = None
    measure_key: str = "rise"
    messages: list[str] = field(default_factory=list)

    def open_review(self, review: Review | None) -> None:
        """Take a review in hand and read its runs."""
        self.review = review
        self.data = load_review(self.archive, review) if review else None
        self.load = review.loads[-1] if review and review.loads else None
        self.chosen = None
        if self.data is not None:
            known = [run.number for cell in self.data.cells.values() for run, _ in cell.runs]
            self.trace_run = max(known) if known else None

    def reload(self) -> None:
        """Read the review again, after something changed."""
        if self.review is not None:
            self.review = self.archive.reviews.review(self.review.id)
            self.data = load_review(self.archive, self.review) if self.review else None

    def proposal(self) -> Proposal | None:
        """The next run to record."""
        if self.review is None or self.data is None:
            return None
        review, data = self.review, self.data
        done = {(s.name, load): data.cell(s, load).passes for s in review.setups for load in review.loads}
        counted = [r for r in self.archive.runs.runs(review_id=review.id) if r.state != "recording"]
        last = review.setup(counted[-1].setup_id) if counted else None
        reference = review.reference.name if review.reference else None
        return propose(
            [s.name for s in review.setups],
            review.loads,
            reference,
            done,
            review.passes_wanted,
            last.name if last else None,
        )

    def next_cell(self) -> tuple[Setup, str, str] | None:
        """Setup, load and reason of the cell to record now: the chosen one, else the proposed one."""
        if self.review is None:
            return None
        by_name = {s.name: s for s in self.review.setups}
        if self.chosen is not None and self.chosen[0] in by_name:
            return by_name[self.chosen[0]], self.chosen[1], "you chose this cell in the Grid"
        proposal = self.proposal()
        return None if proposal is None else (by_name[proposal.setup], proposal.load, proposal.reason)

    def cell(self, setup: Setup, load: str) -> Cell:
        """The cell, empty where nothing is known."""
        return self.data.cell(setup, load) if self.data else Cell(setup, load)

    def estimate_s(self) -> float:
        """Bench time still to go, seconds, by what runs of the same load took so far."""
        if self.review is None or self.data is None:
            return 0.0
        total = 0.0
        lengths = {
            load: [
                run.duration_s
                for (_, x), cell in self.data.cells.items()
                if x == load
                for run, _ in cell.runs
            ]
            for load in self.review.loads
        }
        for setup in self.review.setups:
            for load in self.review.loads:
                missing = max(0, self.review.passes_wanted - self.data.cell(setup, load).passes)
                known = lengths[load] or [1800.0]
                total += missing * sum(known) / len(known)
        return total

    def run(self) -> Run | None:
        """The run that Trace shows."""
        return None if self.trace_run is None else self.archive.runs.run(self.trace_run)

    def holding(self) -> tuple[int, int]:
        """Claims of the review that hold, and claims in all."""
        if self.review is None or self.data is None:
            return 0, 0
        claims = self.archive.reviews.claims(self.review.id)
        return self.data.holding(claims), len(claims)

    def rail(self) -> dict[str, str]:
        """How far each place of the review is, in a few words. Not for the interface's own thread:
        the first time, the statistics have to be loaded."""
        out = {"desk": "", "shelf": "", "grid": "", "bench": "idle", "trace": "", "versus": "", "writeup": ""}
        out["desk"] = "all reviews"
        if self.live is not None and not self.live.sealed.is_set():
            out["bench"] = "● recording"
        if self.review is None or self.data is None:
            return out
        done, total = self.data.measured_cells()
        out["grid"] = f"{done}/{total} cells"
        out["shelf"] = f"{len({p.id for s in self.review.setups for p in s.products})} products"
        odd = sum(
            result.reading.judgement in ("throttles", "stopped") or result.reading.judgement is None
            for cell in self.data.cells.values()
            for run, result in cell.runs
            if run.left_out is None
        )
        out["trace"] = f"{odd} to look at" if odd else "all quiet"
        load = self.load or ""
        reference = self.review.reference
        items = audit(self.data.under(load), reference.name if reference else None, measure(self.measure_key))
        cautions = sum(i.level == "caution" for i in items)
        out["versus"] = f"{cautions} caution{'s' if cautions != 1 else ''}" if cautions else "like for like"
        holding, claims = self.holding()
        out["writeup"] = f"{holding}/{claims} hold" if claims else "no claims"
        return out
