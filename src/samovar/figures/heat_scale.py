"""The scale of temperature pictures: from dark to light in even steps of lightness, which every eye sees alike.

Lightness alone tells the order; the hue, from indigo over plum and clay to straw, only helps. The steps are even in OKLab (B. Ottosson,
"A perceptual color space for image processing", 2020).
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

STEPS = 64
_ANCHORS = ("#1c1b4b", "#5b2a72", "#a5405f", "#d9733f", "#eeb65a", "#fbf3c4")
"""Given hues, from cold to hot; their lightness is replaced by an even one."""
_DARKEST, _LIGHTEST = 0.26, 0.95
DARK_INK, LIGHT_INK = "#171310", "#f8f4ec"
MIDDLE_LUMINANCE = 0.182
"""At this one both inks are as far from a colour (contrast of WCAG 2.2: 4.1)."""
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
STEP = 5.0
"""A scale begins and ends at multiples of so many degrees."""
USUAL = (20.0, 80.0)
"""Of a plan of which nothing is known yet."""
UNKNOWN = "#6f6557"
"""Where nothing was seen."""
_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)


def _linear(rgb: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)


def to_oklab(rgb: NDArray[np.float64]) -> NDArray[np.float64]:
    """sRGB from 0 to 1 as OKLab, shape (n, 3)."""
    return np.asarray(np.cbrt(_linear(rgb) @ _TO_LMS.T) @ _TO_LAB.T)


def _to_rgb(lab: NDArray[np.float64]) -> NDArray[np.float64]:
    linear = (lab @ np.linalg.inv(_TO_LAB).T) ** 3 @ np.linalg.inv(_TO_LMS).T
    linear = np.clip(linear, 0.0, 1.0)
    return np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1.0 / 2.4) - 0.055)


@lru_cache(maxsize=1)
def heat_colours() -> NDArray[np.uint8]:
    """The scale's colours from cold to hot, shape (STEPS, 3)."""
    anchors = np.array([[int(a[k : k + 2], 16) / 255.0 for k in (1, 3, 5)] for a in _ANCHORS])
    lab = to_oklab(anchors)
    at = np.linspace(0.0, 1.0, STEPS)
    places = np.linspace(0.0, 1.0, len(anchors))
    even = np.column_stack(
        [np.linspace(_DARKEST, _LIGHTEST, STEPS), *(np.interp(at, places, lab[:, k]) for k in (1, 2))]
    )
    return np.asarray(np.rint(_to_rgb(even) * 255.0), np.uint8)


def round_scale(values: Sequence[float], step: float = STEP) -> tuple[float, float]:
    """The ends of a scale on round values around all that it shows."""
    known = [v for v in values if np.isfinite(v)]
    if not known:
        return USUAL
    low, high = step * np.floor(min(known) / step), step * np.ceil(max(known) / step)
    return float(low), float(max(high, low + step))


def heat_steps(values: NDArray[np.float64], low: float, high: float) -> NDArray[np.int64]:
    """Which step of the scale each value has, -1 where it is not known; any shape."""
    span = max(high - low, 1e-9)
    with np.errstate(invalid="ignore"):
        steps = np.clip(np.floor((values - low) / span * STEPS), 0, STEPS - 1)
    return np.asarray(np.where(np.isfinite(values), steps, -1), np.int64)


def heat_colour(value: float, low: float, high: float) -> str:
    """The colour of one value as `#rrggbb`."""
    step = int(heat_steps(np.array([value]), low, high)[0])
    if step < 0:
        return UNKNOWN
    return "#" + "".join(f"{part:02x}" for part in heat_colours()[step])


@lru_cache(maxsize=256)
def ink_over(colour: str) -> str:
    """What words on a colour are written in."""
    rgb = np.array([[int(colour[k : k + 2], 16) / 255.0 for k in (1, 3, 5)]])
    return DARK_INK if float((_linear(rgb) @ _LUMINANCE)[0]) > MIDDLE_LUMINANCE else LIGHT_INK
