"""A value with its uncertainty: joining of contributions, and figures cut to their digits.

Source: JCGM 100:2008 (the GUM), 5.1 (combination), 6.2 (expanded, k = 2), 7.2.6 (digits).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

COVERAGE_FACTOR = 2.0
AT_MOST, AT_LEAST = "at most", "at least"
"""What a value is that is no more than a bound: a level hidden by its background, a rise at the temperature limit."""


@dataclass(frozen=True, slots=True)
class Measured:
    """A value with the half-width of its 95 % interval (k = 2); None where no width could be had. `bound` is AT_MOST or
    AT_LEAST where it is no more than that."""

    value: float
    half_width: float | None = None
    bound: str | None = None

    def text(self, unit: str = "", signed: bool = False, finest: int = 3) -> str:
        """`78.4 ±0.2 °C`: value and half-width with no more digits than the width allows, and never
        more than `finest` decimals, since no width makes a sensor finer than it is."""
        width_shown = None if not self.half_width else max(self.half_width, 10.0**-finest)
        body = rounded(self.value, width_shown, signed, finest)
        width = f" ±{rounded_width(width_shown, finest)}" if width_shown else ""
        said = f"{self.bound} " if self.bound else ""
        return f"{said}{body}{width}{' ' + unit if unit else ''}"


def _digits(half_width: float) -> int:
    """Decimals for a half-width: one significant digit, two where it begins with 1 (GUM 7.2.6)."""
    exponent = math.floor(math.log10(half_width) + 1e-9)
    leading = half_width / 10**exponent
    if abs(leading - 1.0) < 1e-6:
        return max(0, -exponent)
    return max(0, -exponent + (1 if leading < 1.95 and exponent <= 0 else 0))


def rounded(value: float, half_width: float | None, signed: bool = False, finest: int = 6) -> str:
    """The value as text with the digits its half-width supports; three significant without a width."""
    if not math.isfinite(value):
        return "–"
    if half_width and math.isfinite(half_width):
        decimals = _digits(half_width)
    else:
        decimals = 0 if abs(value) >= 100 else 1 if abs(value) >= 10 else 2
    decimals = min(decimals, finest)
    if round(value, decimals) == 0:
        value = 0.0
    text = f"{value:+.{decimals}f}" if signed and value else f"{value:.{decimals}f}"
    return text.replace("-", "−")


def rounded_width(half_width: float | None, finest: int = 6) -> str:
    """The half-width as text, never rounded to nothing."""
    if half_width is None or not math.isfinite(half_width):
        return "–"
    return f"{half_width:.{min(_digits(half_width), finest)}f}" if half_width > 0 else "0"


def combine(*standard: float) -> float:
    """The combined standard uncertainty of independent contributions: root of the sum of squares."""
    return math.sqrt(sum(u * u for u in standard))


def difference(one: Measured, other: Measured) -> Measured:
    """One less the other, both independent (GUM 5.1.3)."""
    return Measured(one.value - other.value, combine(one.half_width or 0.0, other.half_width or 0.0))


def quotient(one: Measured, other: Measured) -> Measured:
    """One over the other, both independent and over nothing: relative half-widths add as squares (GUM 5.1.6)."""
    value = one.value / other.value
    share = combine((one.half_width or 0.0) / one.value, (other.half_width or 0.0) / other.value)
    return Measured(value, value * share)
