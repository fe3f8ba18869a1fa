"""What to run next: parts swapped seldom, the reference first and last, every cell as often as wanted."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Proposal:
    """The next run and why it is the next."""

    setup: str
    load: str
    reason: str


def propose(
    setups: Sequence[str],
    loads: Sequence[str],
    reference: str | None,
    done: Mapping[tuple[str, str], int],
    wanted: int,
    fitted: str | None,
) -> Proposal | None:
    """The next cell to record.

    The reference is measured once before anything else, so that drift of the bench can be seen when it
    comes again at the end; then the setup that is fitted goes on until its cells are full; then the
    setup that is furthest behind. None when every cell has the passes wanted.

    Args:
        setups, loads: names in the review's order.
        reference: the reference setup's name.
        done: finished passes by (setup, load).
        wanted: passes wanted in each cell.
        fitted: the setup of the last run, None where nothing was recorded yet.
    """

    def missing(setup: str) -> list[str]:
        return [load for load in loads if done.get((setup, load), 0) < wanted]

    if (
        reference is not None
        and reference in setups
        and not any(done.get((reference, load), 0) for load in loads)
        and loads
    ):
        return Proposal(reference, loads[-1], "the reference first: all others are held against it")
    # The reference keeps its last pass for the end.
    open_setups = [s for s in setups if missing(s) and s != reference]
    if reference is not None and reference in setups:
        early = [load for load in loads if done.get((reference, load), 0) < max(1, wanted - 1)]
        if fitted == reference and early:
            return Proposal(reference, early[0], f"{reference} is fitted and has loads without a pass")
    if fitted in open_setups and fitted is not None:
        load = min(missing(fitted), key=lambda x: done.get((fitted, x), 0))
        return Proposal(fitted, load, f"{fitted} is fitted: no part to swap")
    if open_setups:
        best = min(
            open_setups, key=lambda s: (sum(done.get((s, load), 0) for load in loads), setups.index(s))
        )
        load = min(missing(best), key=lambda x: done.get((best, x), 0))
        return Proposal(best, load, f"{best} has {len(missing(best))} of {len(loads)} loads to go")
    if reference in setups and reference is not None and missing(reference):
        load = missing(reference)[0]
        return Proposal(
            reference, load, "the reference once more at the end: it shows whether the bench has drifted"
        )
    return None
