"""The surfaces of a publication's runs as tables of its data package: spots and areas, and the pixels of every picture."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from samovar.archive.archive import Archive
from samovar.core.results.result import BY_HAND
from samovar.core.surfaces.told import BY_PICTURE, BY_SOFTWARE, told_of
from samovar.publish.tables import Cell, Column, DataTable, PublishedRun

SURFACE_COLUMNS = (
    Column("run", "string", "the run"),
    Column("plan", "string", "the face that is drawn"),
    Column("name", "string", "the spot or area on it"),
    Column("kind", "string", "spot or area"),
    Column("x_mm", "number", "from the face's left edge: a spot's place, an area's left edge"),
    Column("y_mm", "number", "from its upper edge"),
    Column("width_mm", "number", "of an area; 0 of a spot"),
    Column("height_mm", "number", "of an area; 0 of a spot"),
    Column("made_of", "string", "its surface, and so its emissivity"),
    Column("source", "string", "picture, by hand, or software: the sensor of the part that it is on"),
    Column("statistic", "string", "hottest, mean, or at: read once"),
    Column("value_c", "number", "temperature of the surface, °C, its emissivity put right"),
    Column(
        "half_width_95_k", "number", "half the width of its 95 % interval, K; empty where it is not known"
    ),
)
PIXEL_COLUMNS = (
    Column("run", "string", "the run"),
    Column("plan", "string", "the face that the picture shows"),
    Column("picture", "integer", "which picture of this face in this run"),
    Column("x_mm", "number", "a pixel's middle from the face's left edge"),
    Column("y_mm", "number", "from its upper edge"),
    Column("shown_c", "number", "what the camera showed there, °C: no emissivity put right"),
)


def surface_tables(archive: Archive, runs: Sequence[PublishedRun]) -> list[DataTable]:
    """Both tables; none where no run has a plan with anything known of it."""
    kept = archive.surfaces.pictures_of_all([one.run.number for one in runs])
    rows: list[tuple[Cell, ...]] = []
    pixels: list[tuple[Cell, ...]] = []
    hands = archive.runs.hands.of_all([one.run.number for one in runs])
    plans = {key: archive.surfaces.plans_of(key) for key in {o.setup.rig.id for o in runs if o.setup.rig}}
    for one in runs:
        readings = hands.get(one.run.number, [])
        for plan in plans[one.setup.rig.id] if one.setup.rig is not None else ():
            pictures = [k.picture for k in kept.get(one.run.number, ()) if k.plan == plan.name]
            for number, picture in enumerate(pictures, 1):
                height, width = picture.celsius.shape
                y, x = np.mgrid[0:height, 0:width]
                for px, py, c in zip(
                    ((x + 0.5) * plan.width_mm / width).ravel().tolist(),
                    ((y + 0.5) * plan.height_mm / height).ravel().tolist(),
                    picture.celsius.ravel().tolist(),
                    strict=True,
                ):
                    shown = round(c, 3) if c == c else None
                    pixels.append((one.run.id, plan.name, number, round(px, 2), round(py, 2), shown))
            told = told_of(plan, pictures[-1] if pictures else None, readings, one.result.reading)
            for spot in told:
                item = spot.item
                of = (
                    one.run.id, plan.name, item.name, item.kind, item.x_mm, item.y_mm, item.width_mm, item.height_mm,
                    item.made_of,
                )  # fmt: skip
                found = [
                    (BY_PICTURE, "hottest", spot.seen.hottest if spot.seen else None),
                    (BY_PICTURE, "mean", spot.seen.mean if spot.seen else None),
                    (BY_HAND, "at", spot.hand.measured if spot.hand else None),
                    (BY_SOFTWARE, "mean", spot.software),
                ]
                rows += [
                    (*of, source, statistic, value.value, value.half_width)
                    for source, statistic, value in found
                    if value is not None
                ]
    tables = [DataTable("surfaces", "Spots and areas", SURFACE_COLUMNS, rows)] if rows else []
    if pixels:
        tables.append(
            DataTable("surface_pictures", "Temperature pictures, pixel by pixel", PIXEL_COLUMNS, pixels)
        )
    return tables
