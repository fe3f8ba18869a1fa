"""Everything an archive holds of one figure under one load and course on one rig: the entries of the standing table."""

from __future__ import annotations

from samovar.archive.archive import Archive
from samovar.archive.records import Review, Setup
from samovar.archive.rig_comparison import reference_on
from samovar.core.compare.standing_table import Entry, StandingTable, standing_table
from samovar.core.results.figure import FINISHED, Figure
from samovar.core.setup_changes import change_words


def arrangement_name(setup: Setup) -> str:
    """What an arrangement is called in every review: by what is fitted and changed, not by the setup's own name."""
    return ", ".join(
        [" + ".join(p.name for p in setup.products) or "nothing fitted", *change_words(setup.changes)]
    )


def standing_on(archive: Archive, review: Review, rig: str, load: str, figure: Figure) -> StandingTable:
    """The standing table of a rig under a load, by the course that load has in this review, whose runs come last and whose
    reference the others are held against."""
    course = review.courses.get(load)
    wanted = [r for r in archive.reviews.reviews() if r.id != review.id and r.courses.get(load) == course]
    runs = [
        (one, setup, run)
        for one in (*wanted, review)
        for setup in one.setups
        if setup.rig_name == rig
        for run in archive.runs.runs(review_id=one.id)
        if run.setup_id == setup.id and run.load == load and run.state in FINISHED and run.left_out is None
    ]
    numbers = [run.number for _, _, run in runs]
    results = archive.runs.findings.results(numbers, figure) if numbers else {}
    # A run in steps is no pass of a load that stays as it is.
    stepped = archive.runs.findings.steps(numbers) if numbers else {}
    entries = []
    for one, setup, run in runs:
        value = figure.among(results.get(run.number, ()))
        if value is not None and not stepped.get(run.number):
            entries.append(Entry(arrangement_name(setup), one.name, value))
    base = reference_on(review, rig)
    return standing_table(
        entries, arrangement_name(base) if base is not None else None, figure.lower_is_better
    )
