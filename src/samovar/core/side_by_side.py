"""Two runs side by side, aligned at the start of their loads: before and after, in curves and in figures."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from samovar.core.measured import Measured, combine
from samovar.core.reading import Reading
from samovar.core.recording import Array, Recording

LONGEST_BRIDGE = 3.0
"""Over more than so many usual intervals of the other run nothing is drawn."""


@dataclass(frozen=True, slots=True)
class Compared:
    """One figure of two runs, in its unit, with 95 % half-widths; None where a run does not know it."""

    name: str
    unit: str
    first: Measured | None
    second: Measured | None

    @property
    def difference(self) -> Measured | None:
        """Second less first; its width joins both as independent."""
        if self.first is None or self.second is None:
            return None
        width = None
        if self.first.half_width is not None and self.second.half_width is not None:
            width = combine(self.first.half_width, self.second.half_width)
        return Measured(self.second.value - self.first.value, width)


@dataclass(frozen=True)
class SideBySide:
    """The other run on the first one's time axis.

    Attributes:
        offset_s: what is added to the other's times so that its load begins with the first one's.
        rows: by quantity, shape (n,): the other run's main channel at the first one's samples, NaN outside it.
        figures: what can be compared.
    """

    offset_s: float
    rows: dict[str, Array]
    figures: tuple[Compared, ...]


def side_by_side(
    recording: Recording, reading: Reading, other: Recording, other_reading: Reading
) -> SideBySide:
    """Put another run beside one. Where one of them has no load both begin together."""
    load, other_load = reading.load_phase(), other_reading.load_phase()
    offset = load.start_s - other_load.start_s if load is not None and other_load is not None else 0.0
    rows: dict[str, Array] = {}
    for quantity in ("temperature", "clock", "power", "fan", "work"):
        if _main(recording, quantity) is None or (row := _main(other, quantity)) is None:
            continue
        rows[quantity] = _at(recording.time_s, other.time_s + offset, row)
    return SideBySide(offset, rows, tuple(_figures(reading, other_reading)))


def _main(recording: Recording, quantity: str) -> Array | None:
    """The series that stands for a quantity in a run, shape (n,)."""
    if quantity == "clock":
        return recording.cpu_clock()
    index = {
        "temperature": recording.die,
        "power": recording.package_power,
        "fan": recording.first("fan", ["other"], "cpu"),
        "work": recording.own_work,
    }[quantity]
    if index is None and quantity == "fan":
        index = recording.first("fan")
    return None if index is None else recording.values[index]


def _at(time_s: Array, own_s: Array, row: Array) -> Array:
    good = np.isfinite(row)
    out = np.full(len(time_s), np.nan)
    if good.sum() < 2:
        return out
    known_s, known = own_s[good], row[good]
    inside = (time_s >= known_s[0]) & (time_s <= known_s[-1])
    out[inside] = np.interp(time_s[inside], known_s, known)
    steps = np.diff(known_s)
    for k in np.flatnonzero(steps > LONGEST_BRIDGE * float(np.median(steps))):
        out[(time_s > known_s[k]) & (time_s < known_s[k + 1])] = np.nan
    return out


def _figures(first: Reading, second: Reading) -> list[Compared]:
    found = [Compared("rise", "K", first.rise(), second.rise())]
    for name, quantity, roles, unit in (
        ("power", "power", ("package", "wall"), "W"),
        ("clock", "clock", ("core", "package", "other"), "MHz"),
        ("fan", "fan", ("other", "case-fan"), "rpm"),
        ("work", "work", ("other",), "1/s"),
        ("vrm", "temperature", ("vrm",), "°C"),
    ):
        found.append(
            Compared(name, unit, first.steady_mean(quantity, roles), second.steady_mean(quantity, roles))
        )
    found.append(Compared("resistance", "K/W", _resistance(first), _resistance(second)))
    return [f for f in found if f.first is not None or f.second is not None]


def _resistance(reading: Reading) -> Measured | None:
    thermal = reading.thermal
    if thermal is None or thermal.resistance_k_per_w is None:
        return None
    return Measured(thermal.resistance_k_per_w, thermal.half_width_95)
