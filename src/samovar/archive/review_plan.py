"""What is still to do in a review: the next run with its reason, the bench time left, what stands in each cell's way."""

from __future__ import annotations

from typing import TYPE_CHECKING

from samovar.archive.coverage import Coverage
from samovar.archive.plans import NamedCourse
from samovar.archive.records import Setup
from samovar.bench.course_spec import CourseSpec, spec_of
from samovar.core.planner import BenchTime, PlannedCell, Proposal, bench_time, propose, remaining

if TYPE_CHECKING:
    from samovar.archive.review_data import ReviewData
    from samovar.core.results.figure import RunResult


class ReviewPlan:
    """The plan of one review, from how far it is.

    Args:
        coverage: the review's runs by cell.
        courses: the courses that are kept.
    """

    def __init__(self, coverage: Coverage, courses: list[NamedCourse]) -> None:
        self.coverage = coverage
        self._review = review = coverage.review
        self._bodies = {c.name: c.body for c in courses}
        self._setups = [s.name for s in review.setups]
        self._reference = review.reference.name if review.reference else None
        self._done = {
            (s.name, load): coverage.passes(s, load) for s in review.setups for load in review.loads
        }
        fitted = coverage.fitted()
        self.fitted = fitted.name if fitted else None

    def proposal(self) -> Proposal | None:
        """The next run; None when every cell has its passes."""
        review = self._review
        return propose(
            self._setups, review.loads, self._reference, self._done, review.passes_wanted, self.fitted
        )

    def left(self) -> list[PlannedCell]:
        """The runs to go, in order."""
        review = self._review
        return remaining(
            self._setups, review.loads, self._reference, self._done, review.passes_wanted, self.fitted
        )

    def time_left(self) -> BenchTime:
        """How long these take, by what runs of the same load took so far, else by their course."""
        longest = {load: self.spec(load, None).longest_s for load in self._review.loads}
        return bench_time(self.left(), self.fitted, self.coverage.lengths_s, longest)

    def spec(self, load: str, setup: Setup | None) -> CourseSpec:
        """The course of a cell."""
        body = self._bodies.get(self._review.courses.get(load, ""), {})
        return spec_of(load, body, setup.facts.cpu.temperature_limit_c if setup else None)


def stands_in_the_way(data: ReviewData, setup: Setup, load: str) -> list[str]:
    """What keeps a cell from being compared as it stands."""
    from samovar.core.standing import in_the_way

    reference = data.review.reference
    others: list[RunResult] = []
    for other in data.review.setups:
        if other.id != setup.id:
            others += data.cell(other, load).results
    held_against = None
    if reference is not None and reference.id != setup.id:
        held_against = data.cell(reference, load).results
    results = data.cell(setup, load).results
    return in_the_way(results, data.review.passes_wanted, reference=held_against, others=others)
