"""What a load took and gave: energy, work, work per energy, how clock and temperature were distributed, and how the
core voltage answered."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from samovar.core.phases import Phase
from samovar.core.recording import Array, Recording

SHARES = (5.0, 25.0, 50.0, 75.0, 95.0)
"""The percentiles a distribution is told by."""


BINS = 28


@dataclass(frozen=True, slots=True)
class Distribution:
    """How a value was distributed: the share of the time in each of `BINS` equal steps from `low` to `high`, which
    leave out the outermost half per cent on either side."""

    low: float
    high: float
    shares: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Voltage:
    """A core voltage, V: its mean and standard deviation under load, and by how much it lies under its mean at idle
    (negative: above; None without an idle)."""

    mean_v: float
    sd_v: float
    droop_v: float | None


@dataclass(frozen=True)
class LoadTotals:
    """Over the longest load. Energy in J by the package's power (`wall_j`: at the wall), work in the load's own
    units, `work_per_j` the units for each joule; `clock_mhz` and `die_c` at the percentiles of `SHARES`, and in full in
    `clock_spread` and `die_spread`;
    `w_per_ghz` the package's power for each GHz of clock while steady under load. None where it is not known."""

    duration_s: float
    energy_j: float | None
    wall_j: float | None
    work_units: float | None
    work_per_j: float | None
    clock_mhz: tuple[float, ...] | None
    die_c: tuple[float, ...] | None
    w_per_ghz: float | None
    voltage: Voltage | None
    clock_spread: Distribution | None = None
    die_spread: Distribution | None = None


def totals_of(recording: Recording, phases: list[Phase], load: Phase | None) -> LoadTotals | None:
    """The totals of one load of a recording; None where there is none.

    Integrals are by the trapezoidal rule over the samples that are there, gaps bridged only as far as the samples on
    both sides allow: a stretch of more than a tenth of the load without samples makes an integral not known.
    """
    if load is None:
        return None
    part = recording.between(load.start_s, load.end_s)
    time_s = recording.time_s[part]
    if len(time_s) < 3:
        return None

    def row(index: int | None) -> Array | None:
        return None if index is None else recording.values[index][part]

    power, work = row(recording.package_power), row(recording.own_work)
    wall = row(recording.first("power", ["wall"]))
    clock_all = recording.cpu_clock()
    clock = None if clock_all is None else clock_all[part]
    energy = integral(time_s, power)
    units = integral(time_s, work)
    return LoadTotals(
        load.duration_s,
        energy,
        integral(time_s, wall),
        units,
        units / energy if units is not None and energy else None,
        _percentiles(clock),
        _percentiles(row(recording.die)),
        _power_per_clock(power, clock),
        _voltage(recording, phases, load, part),
        distribution(clock),
        distribution(row(recording.die)),
    )


def distribution(row: Array | None) -> Distribution | None:
    """The distribution of a series, shape (n,), NaN where missing; None for fewer than 30 values, or where all are
    the same."""
    if row is None:
        return None
    known = row[np.isfinite(row)]
    if len(known) < 30:
        return None
    low, high = (float(p) for p in np.percentile(known, [0.5, 99.5]))
    if high <= low:
        return None
    counts, _ = np.histogram(known, bins=BINS, range=(low, high))
    return Distribution(low, high, tuple(float(c) / len(known) for c in counts))


def integral(time_s: Array, row: Array | None) -> float | None:
    """The sum of a series over time, in its unit times seconds, by the trapezoidal rule; None where more than a tenth of
    the stretch has no samples. `time_s` and `row` have shape (n,)."""
    if row is None:
        return None
    good = np.isfinite(row)
    if good.sum() < 3:
        return None
    t, x = time_s[good], row[good]
    steps = np.diff(t)
    missing = float(steps[steps > 5.0 * np.median(steps)].sum()) + float(
        t[0] - time_s[0] + time_s[-1] - t[-1]
    )
    if missing > 0.1 * float(time_s[-1] - time_s[0]):
        return None
    return float(np.trapezoid(x, t))


def _percentiles(row: Array | None) -> tuple[float, ...] | None:
    if row is None or np.isfinite(row).sum() < 5:
        return None
    return tuple(float(p) for p in np.percentile(row[np.isfinite(row)], SHARES))


def _power_per_clock(power: Array | None, clock: Array | None) -> float | None:
    """Over the load's last half, where the burst lies behind."""
    if power is None or clock is None:
        return None
    half = len(power) // 2
    good = np.isfinite(power[half:]) & np.isfinite(clock[half:])
    if good.sum() < 5:
        return None
    ghz = float(clock[half:][good].mean()) / 1e3
    return float(power[half:][good].mean()) / ghz if ghz > 0 else None


def _voltage(recording: Recording, phases: list[Phase], load: Phase, part: slice) -> Voltage | None:
    index = recording.first("voltage", domain="cpu")
    if index is None:
        return None
    # The edges of a load are neither idle nor load.
    edge = max(1, round(2.0 / (recording.interval_s or 1.0)))
    under = recording.values[index][part.start + edge : max(part.start + edge, part.stop - edge)]
    under = under[np.isfinite(under)]
    if len(under) < 5:
        return None
    before = [p for p in phases if p.name == "idle" and p.end_s <= load.start_s]
    idle = (
        recording.values[index][recording.between(before[-1].start_s, before[-1].end_s)]
        if before
        else np.empty(0)
    )
    idle = idle[np.isfinite(idle)]
    droop = float(idle.mean() - under.mean()) if len(idle) >= 5 else None
    return Voltage(float(under.mean()), float(under.std(ddof=1)), droop)
