"""What the surfaces' screen shows just now, and how that is drawn and said."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from rich.text import Text

from samovar.archive.surfaces import KeptPicture
from samovar.bench.course_spec import clock_text
from samovar.core.surfaces.picture import difference
from samovar.core.surfaces.plan import Item, Plan
from samovar.core.surfaces.told import Told, at_heat
from samovar.figures.heat_scale import STEP, round_scale
from samovar.figures.palette import Palette
from samovar.tui.surface_data import SurfaceData
from samovar.tui.widgets.surface_list import Beside
from samovar.tui.widgets.surface_map import MapView

NO_PLAN = "No plan of this rig yet: n draws one, to scale, with the spots and areas that are measured."
NO_RIG = "This run belongs to no setup, and so to no rig whose plan could be drawn."
STEP_K = 1.0
REACH = 1.5
"""So many cells from a spot the cursor is still at it."""


@dataclass(frozen=True)
class Shown:
    """What is shown.

    Attributes:
        data: the run's surfaces; None while nothing was read, or the run has no rig.
        plan_at, picture_at: which of the rig's plans, and which of its pictures; None for the plan alone.
        cursor, corner: where the cursor stands, and the first corner of what is being drawn, mm.
        chosen: the spot or area that is chosen, by name.
        heat_w: the heat that surfaces are told for besides, W.
        less: the run whose picture is taken off, and that picture.
    """

    data: SurfaceData | None = None
    plan_at: int = 0
    picture_at: int | None = 0
    cursor: tuple[float, float] = (0.0, 0.0)
    corner: tuple[float, float] | None = None
    chosen: str = ""
    heat_w: float | None = None
    less: tuple[str, KeptPicture] | None = None

    @property
    def plan(self) -> Plan | None:
        """The plan."""
        plans = self.data.plans if self.data is not None else ()
        return plans[self.plan_at % len(plans)] if plans else None

    @property
    def pictures(self) -> list[KeptPicture]:
        """The pictures of this plan."""
        return self.data.pictures_on(self.plan) if self.data is not None and self.plan is not None else []

    @property
    def kept(self) -> KeptPicture | None:
        """The picture."""
        at = self.picture_at
        return self.pictures[at] if at is not None and at < len(self.pictures) else None

    @property
    def told(self) -> list[Told]:
        """What is known of the spots and areas."""
        return [] if self.data is None or self.plan is None else self.data.told(self.plan, self.kept)

    @property
    def names(self) -> list[str]:
        """The spots and areas."""
        return [item.name for item in self.plan.measured] if self.plan is not None else []

    def here(self, step_mm: float) -> Item | None:
        """What the cursor stands at, where a cell is so wide."""
        return self.plan.at(*self.cursor, REACH * step_mm) if self.plan is not None else None


def title_of(shown: Shown, palette: Palette) -> Text:
    """Which run, rig, setup, load and plan this is."""
    title = Text(no_wrap=True, overflow="ellipsis")
    data = shown.data
    if data is not None:
        title.append(data.run.id, f"bold {palette.brass}")
        for part in (data.rig.name, data.setup, data.run.load, *((shown.plan.name,) if shown.plan else ())):
            title.append(" ▸ ", palette.brass)
            title.append(part, palette.text)
    return title


def line_of(shown: Shown) -> str:
    """What is drawn, in a line."""
    plan, kept = shown.plan, shown.kept
    if plan is None:
        return ""
    x, y = shown.cursor
    words = [f"{plan.width_mm:g} x {plan.height_mm:g} mm, cursor at {x:.0f}, {y:.0f}"]
    if shown.corner is not None:
        words.append("go to the corner across, then the same key again")
    if kept is not None:
        when = f" at {clock_text(kept.picture.at_s)}" if kept.picture.at_s is not None else ""
        words.append(
            f"{kept.picture.name}{when}, camera set to {kept.picture.set_to:g}, mirroring {kept.picture.reflected_c:.1f} °C"
        )
    if shown.less is not None:
        words.append(f"less {shown.less[0]}")
    return "; ".join(words)


def view_of(shown: Shown, told: list[Told], beside: Beside) -> MapView:
    """What is drawn."""
    kept = shown.kept
    celsius, unit, step = (kept.picture.celsius if kept is not None else None), "°C", STEP
    values = {
        one.item.name: (one.surface.value, one.surface.text("", finest=0))
        for one in told
        if one.surface is not None
    }
    if shown.less is not None and celsius is not None:
        celsius, unit, step = difference(celsius, shown.less[1].picture.celsius), "K", STEP_K
        values = {name: (value.value, value.text("", finest=0)) for name, value in beside.differences(told)}
    every = [value for value, _ in values.values()]
    if celsius is not None:
        every += [float(np.nanmin(celsius)), float(np.nanmax(celsius))]
    return MapView(
        shown.plan, celsius, values, round_scale(every, step), unit, shown.cursor if shown.plan is not None else None,
        shown.corner, shown.chosen, NO_PLAN if shown.data is not None else NO_RIG,
    )  # fmt: skip


def beside_of(shown: Shown, told: list[Told]) -> Beside:
    """What stands beside the values in the list."""
    data, plan = shown.data, shown.plan
    if data is None or plan is None:
        return Beside()
    heats = None
    if shown.heat_w is not None and data.room is not None and data.heat_w is not None:
        heats = {
            one.item.name: then
            for one in told
            if one.surface is not None
            and (then := at_heat(one.surface, data.room, data.heat_w, shown.heat_w)) is not None
        }
    if shown.less is None:
        return Beside(shown.heat_w, heats)
    others = {
        one.item.name: one.seen.hottest for one in data.told(plan, shown.less[1]) if one.seen is not None
    }
    return Beside(shown.heat_w, heats, shown.less[0], others)
