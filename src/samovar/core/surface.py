"""Surface temperatures taken by hand: a spot thermometer's emissivity put right, a contact probe's tolerance.

Spot thermometers by the fourth-power law (Stefan and Boltzmann): what arrives is ε·T⁴ of the surface and
(1 - ε)·T⁴ of what it mirrors. Tolerances of thermocouples from IEC 60584-1, of platinum sensors from IEC 60751.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from samovar.core.measured import COVERAGE_FACTOR, Measured, combine

ZERO_C = 273.15
EMISSIVITY = {
    "black tape": (0.95, 0.02), "matt paint": (0.94, 0.03), "board": (0.90, 0.05), "plastic": (0.93, 0.03),
    "ceramic": (0.90, 0.05), "anodised metal": (0.80, 0.10), "oxidised metal": (0.60, 0.15), "bare metal": (0.10, 0.07),
}  # fmt: skip
"""What surfaces on a bench have, with the half-width of what is known of it."""
SPOT_HALF_WIDTH_K = 2.0
"""What an ordinary spot thermometer is good for, at best."""

_THERMOCOUPLE = {
    ("K", 1): (1.5, 0.004), ("K", 2): (2.5, 0.0075), ("T", 1): (0.5, 0.004), ("T", 2): (1.0, 0.0075),
    ("J", 1): (1.5, 0.004), ("J", 2): (2.5, 0.0075), ("N", 1): (1.5, 0.004), ("N", 2): (2.5, 0.0075),
}  # fmt: skip
_PLATINUM = {"AA": (0.10, 0.0017), "A": (0.15, 0.002), "B": (0.30, 0.005), "C": (0.60, 0.010)}
SOFTWARE, CONTACT, SPOT = "software", "contact probe", "spot thermometer"
PARTS = ("die", "vrm", "memory", "storage", "chipset", "coolant", "gpu")


@dataclass(frozen=True, slots=True)
class Surface:
    """A surface temperature that a person took, °C: of which part, when (None where nobody said), by which kind of
    instrument, and on which spot of the part, where it is named."""

    part: str
    at_s: float | None
    value: Measured
    by: str
    spot: str = ""


@dataclass(frozen=True, slots=True)
class SurfaceTemperature:
    """A surface's temperature, °C, with the half-width of its 95 % interval, K."""

    value: float
    half_width: float


def spot(
    shown_c: float,
    emissivity: float,
    reflected_c: float,
    set_to: float = 0.95,
    *,
    emissivity_half_width: float = 0.0,
    instrument_half_width_k: float = SPOT_HALF_WIDTH_K,
) -> SurfaceTemperature:
    """What a surface really has when a spot thermometer set to another emissivity shows a temperature.

    Args:
        shown_c: what it shows, °C.
        emissivity: the surface's own, 0 to 1, with its half-width.
        reflected_c: the temperature of what the surface mirrors, mostly the room, °C.
        set_to: the emissivity the instrument reckons with.
        instrument_half_width_k: the instrument's own 95 % half-width, K.

    Raises:
        ValueError: an emissivity that is not above 0 and at most 1, or a reading that no surface of this
            emissivity could give.
    """
    value = _true(shown_c, emissivity, reflected_c, set_to)
    # Numerical slopes: the law is smooth, and both inputs stand on the same footing (GUM 5.1.3).
    step = 1e-4
    by_emissivity = 0.0
    if emissivity_half_width > 0:
        low, high = max(1e-3, emissivity - step), min(1.0, emissivity + step)
        slope = (_true(shown_c, high, reflected_c, set_to) - _true(shown_c, low, reflected_c, set_to)) / (
            high - low
        )
        by_emissivity = abs(slope) * emissivity_half_width
    slope = (_true(shown_c + step, emissivity, reflected_c, set_to) - value) / step
    return SurfaceTemperature(value, combine(by_emissivity, abs(slope) * instrument_half_width_k))


def _true(shown_c: float, emissivity: float, reflected_c: float, set_to: float) -> float:
    for name, share in (("emissivity", emissivity), ("the instrument's emissivity", set_to)):
        if not 0.0 < share <= 1.0:
            raise ValueError(f"{name} is above 0 and at most 1, not {share:g}")
    mirrored = (reflected_c + ZERO_C) ** 4
    arrived = set_to * (shown_c + ZERO_C) ** 4 + (1.0 - set_to) * mirrored
    own = (arrived - (1.0 - emissivity) * mirrored) / emissivity
    if own <= 0:
        raise ValueError(
            f"no surface of emissivity {emissivity:g} shows {shown_c:g} °C before {reflected_c:g} °C"
        )
    return float(own**0.25 - ZERO_C)


def contact_half_width(kind: str, grade: int | str, celsius: float) -> float:
    """The 95 % half-width of a contact probe at a temperature, K: its class's tolerance as a rectangular
    distribution (GUM 4.3.7), k = 2.

    Args:
        kind: a thermocouple's letter (K, T, J, N) or Pt for platinum.
        grade: 1 or 2 for a thermocouple; AA, A, B or C for platinum.

    Raises:
        KeyError: no such kind or class.
    """
    if kind == "Pt":
        fixed, per_degree = _PLATINUM[str(grade)]
        tolerance = fixed + per_degree * abs(celsius)
    else:
        fixed, per_degree = _THERMOCOUPLE[kind, int(grade)]
        tolerance = max(fixed, per_degree * abs(celsius))
    return COVERAGE_FACTOR * tolerance / math.sqrt(3.0)
