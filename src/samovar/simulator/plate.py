"""A face of something warm, as a thermal camera would show it: heat spreads in a plate and leaves it to the air.

In steady state the rise T of a thin plate over the air follows L²·∇²T - T + q = 0, L² = conductance of the sheet over what its faces
pass on (the fin equation: F. P. Incropera et al., "Fundamentals of Heat and Mass Transfer", on extended surfaces). With edges that
pass no heat on it is solved exactly in cosines.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from samovar.core.recording import Array
from samovar.core.surface import EMISSIVITY, ZERO_C
from samovar.core.surfaces.picture import Picture
from samovar.core.surfaces.plan import Item, Plan

CAMERA_NOISE_K = 0.12
CAMERA_STEP_K = 0.05
"""What a camera's pixels scatter by, and the steps in which it exports them."""


@dataclass(frozen=True, slots=True)
class Warm:
    """Something warm under a face: where, mm, and how warm the face is above it, °C."""

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    celsius: float


def face_c(plan: Plan, warm: Sequence[Warm], air_c: float, spread_mm: float, pixel_mm: float) -> Array:
    """The face's temperatures, °C, shape (rows, columns): as warm above each warm thing as that says.

    Args:
        plan: how large the face is.
        warm: what is under it.
        air_c: the air around.
        spread_mm: how far heat spreads in it before it has left (L).
        pixel_mm: how large a pixel is.
    """
    from scipy.fft import dctn, idctn

    rows, columns = round(plan.height_mm / pixel_mm), round(plan.width_mm / pixel_mm)
    waves = (np.pi * np.arange(rows) / plan.height_mm)[:, None] ** 2 + (
        np.pi * np.arange(columns) / plan.width_mm
    ) ** 2
    y = (np.arange(rows) + 0.5)[:, None] * plan.height_mm / rows
    x = (np.arange(columns) + 0.5)[None] * plan.width_mm / columns
    fields, places = [], []
    for one in warm:
        inside = (
            (x >= one.x_mm)
            & (x <= one.x_mm + one.width_mm)
            & (y >= one.y_mm)
            & (y <= one.y_mm + one.height_mm)
        )
        fields.append(
            idctn(dctn(inside.astype(float), norm="ortho") / (1.0 + spread_mm**2 * waves), norm="ortho")
        )
        places.append(
            (
                min(rows - 1, int((one.y_mm + 0.5 * one.height_mm) / plan.height_mm * rows)),
                min(columns - 1, int((one.x_mm + 0.5 * one.width_mm) / plan.width_mm * columns)),
            )
        )
    # Each warms the others' places too: all of them together are as warm as they are.
    there = np.array([[field[place] for field in fields] for place in places])
    shares = np.linalg.solve(there, np.array([one.celsius - air_c for one in warm]))
    return np.asarray(air_c + sum(share * field for share, field in zip(shares, fields, strict=True)))


def photographed(
    celsius: Array, plan: Plan, room_c: float, at_s: float, name: str, seed: int, set_to: float = 0.95
) -> Picture:
    """What a thermal camera makes of a face: every area shines as its surface does, and mirrors the room."""
    share = np.full(celsius.shape, EMISSIVITY["board"][0])
    for item in plan.measured:
        rows, columns = _pixels_of(item, plan, celsius.shape)
        share[rows, columns] = EMISSIVITY[item.made_of][0]
    mirrored = (room_c + ZERO_C) ** 4
    arrived = share * (celsius + ZERO_C) ** 4 + (1.0 - share) * mirrored
    shown = ((arrived - (1.0 - set_to) * mirrored) / set_to) ** 0.25 - ZERO_C
    shown = shown + np.random.default_rng(seed).normal(0.0, CAMERA_NOISE_K, celsius.shape)
    return Picture(np.rint(shown / CAMERA_STEP_K) * CAMERA_STEP_K, set_to, room_c, at_s, name)


def _pixels_of(item: Item, plan: Plan, shape: tuple[int, ...]) -> tuple[slice, slice]:
    """The pixels of an area; around a spot, as a piece of tape has, 8 mm each way."""
    room = 4.0 if not item.width_mm else 0.0

    def cells(at_mm: float, span_mm: float, whole_mm: float, count: int) -> slice:
        return slice(
            max(0, int((at_mm - room) / whole_mm * count)),
            max(1, round((at_mm + span_mm + room) / whole_mm * count)),
        )

    return (
        cells(item.y_mm, item.height_mm, plan.height_mm, shape[0]),
        cells(item.x_mm, item.width_mm, plan.width_mm, shape[1]),
    )
