"""What each of many runs tells in one figure: that which its review is about. Only the rows it takes are read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from samovar.archive.archive import Archive
from samovar.archive.coverage import coverages
from samovar.archive.records import Review, Run
from samovar.archive.review_plan import ReviewPlan
from samovar.core.by_hand.reading import results_by_hand
from samovar.core.measured import Measured
from samovar.core.results.figure import Figure, figure_of, telling_figure


def told(
    archive: Archive, runs: Sequence[Run], chosen: Mapping[int, str]
) -> dict[int, tuple[Figure, Measured]]:
    """By run the figure and its value; runs that have none, or were not read yet, are left out.

    Args:
        archive: where they are.
        runs: whose figure is wanted.
        chosen: by review the key of the figure that it is about, where one was chosen.
    """
    wanted: dict[str, list[int]] = {}
    for run in runs:
        wanted.setdefault(chosen.get(run.review_id or 0, "rise"), []).append(run.number)
    hands = archive.runs.hands.of_all([run.number for run in runs])
    found: dict[int, tuple[Figure, Measured]] = {}
    for key, numbers in wanted.items():
        figure = figure_of(key)
        measured = archive.runs.findings.results(numbers, figure)
        for number in numbers:
            value = figure.among([*measured.get(number, []), *results_by_hand(hands.get(number, []))])
            if value is not None:
                found[number] = (figure, value)
    # Without a choice and without a die: what the run tells first.
    rest = [r.number for r in runs if r.number not in found and (r.review_id or 0) not in chosen]
    measured = archive.runs.findings.results(rest)
    for number in rest:
        # What was not read yet, or by an older method, is not told by what hands read of it alone.
        if number not in measured:
            continue
        results = [*measured.get(number, []), *results_by_hand(hands.get(number, []))]
        figure = telling_figure(results)
        value = figure.among(results)
        if value is not None:
            found[number] = (figure, value)
    return found


@dataclass(frozen=True)
class LatestRuns:
    """The runs recorded last, with the cell each belongs to, its judgement and what it tells."""

    runs: list[Run]
    names: Mapping[int, str]
    setups: Mapping[int, str]
    judgements: Mapping[int, str | None]
    figures: Mapping[int, tuple[Figure, Measured]]

    def cell_of(self, run: Run) -> tuple[str, str]:
        """Its review's and its setup's name, or words for none."""
        return self.names.get(run.review_id or 0, "inbox"), self.setups.get(run.setup_id or 0, "–")


def latest_runs(archive: Archive, most: int) -> LatestRuns:
    """So many of the runs recorded last."""
    return with_cells(archive, archive.runs.runs(newest=most))


def with_cells(archive: Archive, runs: list[Run]) -> LatestRuns:
    """Runs with all that a list of them shows."""
    names, setups, figures = archive.reviews.names(
        {run.review_id for run in runs if run.review_id is not None}
    )
    return LatestRuns(
        runs,
        names,
        setups,
        archive.runs.findings.judgements([run.number for run in runs]),
        told(archive, runs, figures),
    )


def plans_of(archive: Archive, reviews: Sequence[Review]) -> dict[int, ReviewPlan]:
    """How far each review is, and what is still to do in it, by its key."""
    courses = archive.plans.courses()
    return {
        key: ReviewPlan(coverage, courses)
        for key, coverage in coverages(reviews, archive.runs.counts()).items()
    }
