"""A temperature picture: what a thermal camera saw of a face, and what that says of its spots and areas.

The camera reckons with one emissivity all over; every area has its own, and what it mirrors. That is put right by the fourth-power
law, as for a spot thermometer (Stefan and Boltzmann; see `core.surface.spot`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from samovar.core.measured import Measured, combine
from samovar.core.recording import Array
from samovar.core.surface import EMISSIVITY, spot
from samovar.core.surfaces.plan import SPOT, Item, Plan

CAMERA_HALF_WIDTH_K = 2.0
CAMERA_SHARE = 0.02
"""What a thermal camera is good for: 2 K or 2 % of what it shows, whichever is more, unless its maker says otherwise."""
COLDEST_C, HOTTEST_C = -60.0, 1500.0
LARGEST_PX, SMALLEST_PX = 2048, 2
USUAL_EMISSIVITY = 0.95
SPOT_PIXELS = 3
"""A spot is the middle of so many pixels each way: one alone may be a faulty one."""


@dataclass(frozen=True)
class Picture:
    """One picture, as the camera showed it, of the whole face that a plan draws.

    Attributes:
        celsius: what it showed, °C, shape (rows, columns), the face's upper left corner first; NaN where it showed nothing.
        set_to: the emissivity it reckoned with.
        reflected_c: what the face mirrored, mostly the room, °C.
        at_s: when it was taken, seconds into the run; None where nobody said.
        name: the file it came from.
    """

    celsius: Array
    set_to: float = USUAL_EMISSIVITY
    reflected_c: float = 20.0
    at_s: float | None = None
    name: str = ""


@dataclass(frozen=True, slots=True)
class Seen:
    """What a picture says of a spot or an area: the hottest and the mean surface temperature, °C, each with its half-width,
    and where the hottest is, mm."""

    hottest: Measured
    mean: Measured
    at_mm: tuple[float, float]


def check_picture(celsius: Array) -> Array:
    """The values as they are kept. Raises ValueError: no picture of temperatures, with what to do."""
    found = np.asarray(celsius, np.float64)
    if found.ndim != 2 or min(found.shape) < SMALLEST_PX:
        raise ValueError(
            "it has no rows and columns of temperatures; export the picture as a table of degrees"
        )
    if max(found.shape) > LARGEST_PX:
        raise ValueError(
            f"it has {found.shape[1]} x {found.shape[0]} pixels; scale it to {LARGEST_PX} at most"
        )
    known = found[np.isfinite(found)]
    if len(known) == 0:
        raise ValueError("it holds no temperature")
    if known.min() < COLDEST_C or known.max() > HOTTEST_C:
        raise ValueError(
            f"it runs from {known.min():.0f} to {known.max():.0f} °C, which no bench has; check scale and offset"
        )
    return found


def seen(picture: Picture, plan: Plan, item: Item) -> Seen | None:
    """What a picture says of something on its plan; None where it shows nothing there, or no surface of this emissivity could
    have looked so."""
    rows, columns = _pixels(picture, plan, item)
    part = picture.celsius[rows, columns]
    known = np.isfinite(part)
    if not known.any():
        return None
    share, half = EMISSIVITY[item.made_of]
    at = np.unravel_index(int(np.nanargmax(part)), part.shape)
    showed = float(np.nanmedian(part)) if item.kind == SPOT else float(part[at])
    try:
        hottest = _put_right(picture, showed, share, half)
        mean = _put_right(picture, float(part[known].mean()), share, half)
    except ValueError:
        return None
    y = (rows.start + int(at[0]) + 0.5) / picture.celsius.shape[0] * plan.height_mm
    x = (columns.start + int(at[1]) + 0.5) / picture.celsius.shape[1] * plan.width_mm
    return Seen(hottest, hottest if item.kind == SPOT else mean, item.middle if item.kind == SPOT else (x, y))


def _put_right(picture: Picture, showed_c: float, emissivity: float, half: float) -> Measured:
    instrument = max(CAMERA_HALF_WIDTH_K, CAMERA_SHARE * abs(showed_c))
    found = spot(
        showed_c, emissivity, picture.reflected_c, picture.set_to,
        emissivity_half_width=half, instrument_half_width_k=instrument,
    )  # fmt: skip
    return Measured(found.value, found.half_width)


def _pixels(picture: Picture, plan: Plan, item: Item) -> tuple[slice, slice]:
    """The rows and columns of a picture that something on its plan covers."""
    height, width = picture.celsius.shape

    def cells(at_mm: float, span_mm: float, whole_mm: float, count: int) -> slice:
        if item.kind == SPOT:
            middle = min(count - 1, int(at_mm / whole_mm * count))
            return slice(max(0, middle - SPOT_PIXELS // 2), min(count, middle + SPOT_PIXELS // 2 + 1))
        first = min(count - 1, round(at_mm / whole_mm * count))
        return slice(first, min(count, max(first + 1, round((at_mm + span_mm) / whole_mm * count))))

    return (
        cells(item.y_mm, item.height_mm, plan.height_mm, height),
        cells(item.x_mm, item.width_mm, plan.width_mm, width),
    )


def resampled(celsius: Array, rows: int, columns: int) -> Array:
    """A picture at another size: of every new pixel the mean of those that it covers, or the nearest where it covers none."""
    return _along(_along(celsius, rows, 0), columns, 1)


def _along(values: Array, count: int, axis: int) -> Array:
    have = values.shape[axis]
    if count >= have:
        at = np.minimum(have - 1, ((np.arange(count) + 0.5) / count * have).astype(int))
        return np.asarray(np.take(values, at, axis=axis))
    edges = np.rint(np.arange(count) / count * have).astype(int)
    known = np.isfinite(values)
    sums = np.add.reduceat(np.where(known, values, 0.0), edges, axis=axis)
    counts = np.add.reduceat(known.astype(float), edges, axis=axis)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(np.where(counts > 0.0, sums / counts, math.nan))


def difference(first: Array, second: Array) -> Array:
    """The first picture less the second, K, on the finer of their two grids: of one face, each over all of it."""
    rows, columns = max(first.shape[0], second.shape[0]), max(first.shape[1], second.shape[1])
    return resampled(first, rows, columns) - resampled(second, rows, columns)


def less(first: Measured, second: Measured) -> Measured:
    """The difference of two temperatures that two pictures of one camera showed, K: both widths joined, for neither its
    drift nor where it was held is common to them."""
    return Measured(first.value - second.value, combine(first.half_width or 0.0, second.half_width or 0.0))
