"""The clocks that a review's runs reached when nothing held them: what each is read against."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import Connection, select

from samovar.archive.records import Run
from samovar.archive.schema import FINDING, RUN, SETUP


@dataclass
class _Known:
    """What counts of one run: its cell, its rig, whether it counts, and its free clock, MHz."""

    review_id: int
    load: str
    setup_id: int
    rig_id: int | None
    counts: bool
    clock_mhz: float | None


class FreeClocks:
    """The free clocks of the runs of some reviews, by run."""

    def __init__(self, known: dict[int, _Known]) -> None:
        self._known = known

    def of(self, run: Run) -> float | None:
        """The highest free clock that other runs of the same load have shown: of the same setup, else on the same rig.
        Another machine's clock says nothing of this one's."""
        mine = self._known.get(run.number)
        if mine is None:
            return None
        clocks = (
            other.clock_mhz
            for number, other in self._known.items()
            if number != run.number
            and other.counts
            and other.clock_mhz is not None
            and (other.review_id, other.load) == (mine.review_id, mine.load)
            and (other.setup_id == mine.setup_id or (mine.rig_id is not None and other.rig_id == mine.rig_id))
        )
        return max(clocks, default=None)

    def note(self, number: int, clock_mhz: float | None) -> None:
        """What a run that was just read has shown."""
        if number in self._known:
            self._known[number].clock_mhz = clock_mhz


def free_clocks(connection: Connection, reviews: Sequence[int | None]) -> FreeClocks:
    """Those of all runs of these reviews; runs in none are read against nobody's."""
    named = [one for one in reviews if one is not None]
    if not named:
        return FreeClocks({})
    query = (
        select(
            RUN.c.id, RUN.c.review_id, RUN.c.load, RUN.c.setup_id, SETUP.c.rig_id, RUN.c.left_out, FINDING.c.free_clock_mhz
        )
        .join(SETUP, SETUP.c.id == RUN.c.setup_id)
        .outerjoin(FINDING, FINDING.c.run_id == RUN.c.id)
        .where(RUN.c.review_id.in_(named))
    )  # fmt: skip
    return FreeClocks(
        {
            key: _Known(review, load, setup, rig, left_out is None, clock)
            for key, review, load, setup, rig, left_out, clock in connection.execute(query)
        }
    )
