"""What the surfaces of one run are shown from: its rig's plans, its pictures, its readings, read from the archive at once."""

from __future__ import annotations

from dataclasses import dataclass

from samovar.archive.archive import Archive
from samovar.archive.records import Run
from samovar.archive.surfaces import KeptPicture
from samovar.core.by_hand.reading import HandReading
from samovar.core.measured import Measured
from samovar.core.reading import Reading
from samovar.core.rig import Rig
from samovar.core.surfaces.plan import Plan
from samovar.core.surfaces.told import Told, told_of


@dataclass(frozen=True)
class SurfaceData:
    """One run's surfaces."""

    run: Run
    setup: str
    rig: Rig
    plans: tuple[Plan, ...]
    pictures: tuple[KeptPicture, ...]
    readings: tuple[HandReading, ...]
    reading: Reading | None

    @property
    def room(self) -> Measured | None:
        """The room during the run, °C."""
        return self.reading.room if self.reading is not None else None

    @property
    def heat_w(self) -> Measured | None:
        """The processor's power once steady, W."""
        return self.reading.steady_mean("power", ("package",)) if self.reading is not None else None

    def pictures_on(self, plan: Plan) -> list[KeptPicture]:
        """The pictures of a plan."""
        return [one for one in self.pictures if one.plan == plan.name]

    def told(self, plan: Plan, kept: KeptPicture | None) -> list[Told]:
        """What is known of a plan's spots and areas."""
        return told_of(plan, kept.picture if kept is not None else None, self.readings, self.reading)


def surface_data(archive: Archive, number: int) -> SurfaceData | None:
    """Read it. None where the run belongs to no setup, and so to no rig."""
    run = archive.runs.run(number)
    review = archive.reviews.review(run.review_id) if run is not None and run.review_id is not None else None
    setup = review.setup(run.setup_id) if review is not None and run is not None else None
    if run is None or setup is None or setup.rig is None:
        return None
    return SurfaceData(
        run, setup.name, setup.rig, tuple(archive.surfaces.plans_of(setup.rig.id)),
        tuple(archive.surfaces.pictures_of(number)), tuple(archive.runs.hands.of(number)), archive.runs.reading(number),
    )  # fmt: skip


def runs_beside(archive: Archive, data: SurfaceData, plan: Plan) -> list[tuple[Run, KeptPicture]]:
    """Other runs of the same review that have a picture of this plan, each with its last."""
    every = [
        r for r in archive.runs.runs() if r.review_id == data.run.review_id and r.number != data.run.number
    ]
    kept = archive.surfaces.pictures_of_all([r.number for r in every])
    found = []
    for run in every:
        mine = [one for one in kept.get(run.number, ()) if one.plan == plan.name]
        if mine:
            found.append((run, mine[-1]))
    return found
