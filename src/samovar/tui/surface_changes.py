"""Changes of a rig's plans and a run's pictures, each of which can be undone."""

from __future__ import annotations

from collections.abc import Callable

from samovar.archive.archive import Archive
from samovar.archive.surfaces import KeptPicture
from samovar.core.by_hand.reading import HandReading
from samovar.core.surfaces.picture import Picture
from samovar.core.surfaces.plan import Plan
from samovar.core.surfaces.told import as_readings
from samovar.tui.surface_data import SurfaceData


class SurfaceChanges:
    """What was changed since the screen was opened."""

    def __init__(self, archive: Archive) -> None:
        self._archive = archive
        self._done: list[tuple[str, Callable[[], object]]] = []

    def new_plan(self, data: SurfaceData, plan: Plan) -> None:
        """A further plan."""
        store = self._archive.surfaces
        store.keep_plan(data.rig.id, plan)
        self._done.append((f"plan {plan.name}", lambda: store.drop_plan(data.rig.id, plan.name)))

    def redraw(self, data: SurfaceData, plan: Plan, before: Plan, words: str) -> None:
        """Another thing on a plan, or one less."""
        store = self._archive.surfaces
        store.keep_plan(data.rig.id, plan)
        self._done.append((words, lambda: store.keep_plan(data.rig.id, before)))

    def drop_plan(self, data: SurfaceData, plan: Plan) -> None:
        """A plan less."""
        store = self._archive.surfaces
        store.drop_plan(data.rig.id, plan.name)
        self._done.append((f"plan {plan.name}", lambda: store.keep_plan(data.rig.id, plan)))

    def bring(self, data: SurfaceData, plan: Plan, picture: Picture) -> int:
        """A further picture, with the readings that it gives; the answer counts these."""
        number, hands, store = data.run.number, self._archive.runs.hands, self._archive.surfaces
        key = store.add_picture(number, plan.name, picture)
        found = as_readings(data.told(plan, KeptPicture(key, plan.name, picture)), picture)
        kept = hands.add_all(number, found)

        def back() -> None:
            store.drop_picture(key)
            for one in kept:
                hands.take_back(number, one.n)

        self._done.append((f"picture {picture.name}", back))
        return len(kept)

    def drop_picture(self, data: SurfaceData, kept: KeptPicture) -> None:
        """A picture less; what was read in it stays."""
        number, store = data.run.number, self._archive.surfaces
        store.drop_picture(kept.id)
        self._done.append(
            (
                f"picture {kept.picture.name}",
                lambda: store.add_picture(number, kept.plan, kept.picture, kept.id),
            )
        )

    def read(self, data: SurfaceData, reading: HandReading) -> None:
        """A further reading by hand."""
        number, hands = data.run.number, self._archive.runs.hands
        kept = hands.add(number, reading)
        self._done.append((f"reading at {reading.place}", lambda: hands.take_back(number, kept.n)))

    def undo(self) -> str | None:
        """Undo the last change; the answer names it, None where there is none."""
        if not self._done:
            return None
        words, act = self._done.pop()
        act()
        return words
