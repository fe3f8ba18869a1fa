"""The figures setups are ranked by: what each is, in which unit, which way is better, and where from."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from samovar.core.reading import Reading
from samovar.core.uncertainty import Measured

FINISHED = ("sealed", "stopped", "interrupted")
"""States of runs whose settled figures may be compared."""


@dataclass(frozen=True, slots=True)
class RunResult:
    """One run as a comparison sees it: its name, its reading, the noise read by hand, its state."""

    run: str
    reading: Reading
    state: str = "sealed"
    noise: Measured | None = None
    reason: str | None = None

    @property
    def finished(self) -> bool:
        """Whether it ran its course, so that its settled figures may be compared."""
        return self.state in FINISHED


@dataclass(frozen=True, slots=True)
class Measure:
    """A figure to rank by. `quantity` gives its colour, `lower_is_better` its direction; `relative`:
    the review's margin for it is a share, not kelvin or decibel. `finest`: decimals beyond which no
    sensor of this kind goes."""

    key: str
    label: str
    unit: str
    quantity: str
    lower_is_better: bool
    relative: bool
    finest: int
    of: Callable[[RunResult], Measured | None]

    def text(self, figure: Measured, signed: bool = False) -> str:
        """The figure as people read it, with its unit."""
        return figure.text(self.unit, signed, self.finest)


def _rise(result: RunResult) -> Measured | None:
    return result.reading.rise()


def _resistance(result: RunResult) -> Measured | None:
    thermal = result.reading.thermal
    if thermal is None or thermal.resistance_k_per_w is None:
        return None
    return Measured(thermal.resistance_k_per_w, thermal.half_width_95)


def _peak(result: RunResult) -> Measured | None:
    die = result.reading.die
    if die is None or die not in result.reading.peak:
        return None
    return Measured(result.reading.peak[die].value)


def _settle_time(result: RunResult) -> Measured | None:
    window, load = result.reading.window, result.reading.load_phase()
    if window is None or window.start_s is None or load is None:
        return None
    return Measured((window.start_s - load.start_s) / 60.0, 0.5)


def _steady(quantity: str, *roles: str) -> Callable[[RunResult], Measured | None]:
    def of(result: RunResult) -> Measured | None:
        return result.reading.steady_mean(quantity, roles)

    return of


def _clock(result: RunResult) -> Measured | None:
    found = [
        result.reading.steady[c.name]
        for c in result.reading.channels
        if c.quantity == "clock"
        and c.domain == "cpu"
        and c.role == "core"
        and c.name in result.reading.steady
    ]
    if not found:
        return result.reading.steady_mean("clock", ("package", "die", "other"))
    widths = [f.half_width or 0.0 for f in found]
    return Measured(sum(f.mean for f in found) / len(found), sum(widths) / len(widths) or None)


MEASURES: tuple[Measure, ...] = (
    Measure("rise", "rise over the room", "K", "temperature", True, False, 1, _rise),
    Measure("power", "sustained power", "W", "power", False, True, 1, _steady("power", "package", "core")),
    Measure("clock", "sustained clock", "MHz", "clock", False, True, 0, _clock),
    Measure("work", "work done", "1/s", "work", False, True, 0, _steady("work", "other", "package", "core")),
    Measure("resistance", "resistance", "K/W", "temperature", True, True, 3, _resistance),
    Measure("peak", "peak", "°C", "temperature", True, False, 1, _peak),
    Measure("noise", "noise at 1 m", "dBA", "noise", True, False, 1, lambda r: r.noise),
    Measure("settle", "time to settle", "min", "load", True, True, 1, _settle_time),
)


def measure(key: str) -> Measure:
    """The measure of this key.

    Raises:
        KeyError: none of this key.
    """
    for candidate in MEASURES:
        if candidate.key == key:
            return candidate
    raise KeyError(key)
