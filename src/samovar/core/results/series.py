"""The results of one series: each figure costs nothing but itself where it cannot be had."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from samovar.core.accuracy import half_width
from samovar.core.despike import despiked
from samovar.core.heading import IDLE_TAIL_S
from samovar.core.measured import AT_LEAST, COVERAGE_FACTOR, Measured, difference
from samovar.core.quantity import UNITS, Channel
from samovar.core.reading import Reading
from samovar.core.recording import Array, Recording
from samovar.core.results.result import Result
from samovar.core.steady import DRIFT_LIMIT_K_PER_MIN, POWER_DRIFT_PCT_PER_MIN, find_steady
from samovar.core.totals import integral
from samovar.core.uncertainty import mean_of, resolution_of
from samovar.core.window import BY_HAND

Span = tuple[float, float]
LATER_S = 10.0
"""A channel that settles within this of the die shares the die's window: the search has no finer steps."""
LEAST_BURST_S = 3.0
"""A budget that sets in sooner leaves no burst to speak of."""
MINUTES_IN = (1.0, 5.0, 10.0, 20.0, 30.0, 60.0)
"""A load that never settles is held against another's at these moments of it."""
AROUND_S = 5.0
"""A value at a moment is the mean over this much before and behind it: no lone sample, and short beside what warms."""
WITHOUT_MOMENTS = ("core", "other")
"""Roles of which there are many alike: their values at moments say nothing that their groups do not."""
OWN_VALUES = ("steady", "rise", "mean", "peak", "least", "idle", "burst", "at", "level", "gave_way")
"""Statistics that are values as the instrument shows them; of a spread, or a droop, what it is off by cancels."""
INTEGRATED = {
    ("power", "W"): ("energy", "J", 1.0),
    ("work", "1/s"): ("work", "", 1.0),
    ("work", "MB/s"): ("work", "MB", 1.0),
}
"""What the sum over time of a quantity in a unit is: its name, unit and factor."""


@dataclass(frozen=True, slots=True)
class Series:
    """One series of values, shape (n,) on the recording's times: a channel's, or a group's."""

    part: str | None
    channel: str | None
    quantity: str
    unit: str
    row: Array
    direction: str | None = None
    moments: bool = True
    sensor: str = ""
    accuracy: str = ""

    def off_by(self, statistic: str, at: float) -> float | None:
        """What its instrument may be off by in a figure of it, taken at a level; None where nobody said, or where that is no
        value of its own."""
        if not self.accuracy or statistic not in OWN_VALUES:
            return None
        return half_width(self.accuracy, self.quantity, at)


def series_of(channel: Channel, row: Array, is_die: bool) -> Series:
    """A channel as a series; what stands for the die is the die's."""
    part = "die" if is_die else None if channel.role == "other" else channel.role
    found = re.search(r"\b(read|write)", channel.name.lower()) if channel.role == "storage" else None
    direction = found[1] if found is not None and channel.quantity == "work" else None
    moments = channel.role not in WITHOUT_MOMENTS
    return Series(
        part, channel.name, channel.quantity, channel.unit, row, direction, moments, channel.id, channel.accuracy
    )  # fmt: skip


def results_in(recording: Recording, reading: Reading, series: Series, span: Span) -> Iterator[Result]:
    """Every result of a series under the load from `span[0]` to `span[1]`, s."""
    stretch = recording.between(*span)
    loaded = despiked(series.row[stretch]) if series.quantity == "temperature" else series.row[stretch]
    known = loaded[np.isfinite(loaded)]
    n = len(known)
    if n == 0:
        return
    # Over a load that warms up, scatter about the mean says nothing of how well the mean repeats.
    yield one_result(series, "mean", Measured(float(known.mean())), span, n)
    # A single value is known to the step that the sensor counts in (GUM F.2.2.1).
    half = COVERAGE_FACTOR * resolution_of(known) / math.sqrt(12.0) or None
    for statistic, value in (("peak", known.max()), ("least", known.min())):
        yield one_result(series, statistic, Measured(float(value), half), span, n)
    if n > 1:
        yield one_result(series, "spread", Measured(float(known.std(ddof=1))), span, n)
    yield from _total(recording, series, span)
    idle = _idle(recording, reading, series)
    if idle is not None:
        yield idle
    yield from _burst(recording, reading, series, span)
    if series.moments:
        yield from _moments(recording, series, span)
    steady = list(_steady(recording, reading, series, span))
    yield from steady
    if series.quantity == "voltage" and idle is not None and steady:
        yield _droop(series, idle, steady[0])


def one_result(
    series: Series,
    statistic: str,
    value: Measured,
    window: Span,
    n: int,
    unit: str = "",
    at: float | None = None,
) -> Result:
    """One figure; `at` is the level it was taken at, where that is not its value."""
    off_by = series.off_by(statistic, value.value if at is None else at)
    return Result(
        series.part, series.channel, series.quantity, statistic, unit or series.unit, value.value, value.half_width,
        value.bound, window=window, n=n, direction=series.direction, off_by=off_by,
        common_of=series.sensor if off_by is not None else "",
    )  # fmt: skip


def _total(recording: Recording, series: Series, span: Span) -> Iterator[Result]:
    """Energy out of power, work out of its rate."""
    sums = INTEGRATED.get((series.quantity, series.unit))
    if sums is None or series.channel is None:
        return
    part = recording.between(*span)
    total = integral(recording.time_s[part], series.row[part])
    if total is not None:
        quantity, unit, factor = sums
        n = int(np.isfinite(series.row[part]).sum())
        yield Result(
            series.part, series.channel, quantity, "total", unit, factor * total, None, window=span, n=n,
            direction=series.direction,
        )  # fmt: skip


def _idle(recording: Recording, reading: Reading, series: Series) -> Result | None:
    load = reading.load_phase()
    before = [p for p in reading.phases if p.name == "idle" and load is not None and p.end_s <= load.start_s]
    if not before:
        return None
    window = (max(before[-1].start_s, before[-1].end_s - IDLE_TAIL_S), before[-1].end_s)
    return _mean_over(recording, series, "idle", window)


def _burst(recording: Recording, reading: Reading, series: Series, span: Span) -> Iterator[Result]:
    """The mean from the load's beginning to where the first budget set in."""
    budgets = [h.start_s for h in reading.held if h.by in ("power", "shared")]
    if series.quantity not in ("power", "clock", "work") or not budgets:
        return
    if min(budgets) - span[0] >= LEAST_BURST_S and (
        found := _mean_over(recording, series, "burst", (span[0], min(budgets)))
    ):
        yield found


def _mean_over(recording: Recording, series: Series, statistic: str, window: Span) -> Result | None:
    """The mean over a stretch; its last sample may already be of what follows."""
    x = series.row[recording.between(*window)][:-1]
    x = x[np.isfinite(x)]
    return one_result(series, statistic, mean_of(x), window, len(x)) if len(x) else None


def _moments(recording: Recording, series: Series, span: Span) -> Iterator[Result]:
    """Values so many minutes into the load, each the mean around its moment."""
    for minutes in MINUTES_IN:
        at_s = span[0] + 60.0 * minutes
        if at_s + AROUND_S > span[1]:
            return
        window = (at_s - AROUND_S, at_s + AROUND_S)
        x = series.row[recording.between(*window)]
        x = x[np.isfinite(x)]
        if len(x):
            there = one_result(series, "at", Measured(float(x.mean())), window, len(x))
            yield replace(there, at_s=60.0 * minutes)


def _steady(recording: Recording, reading: Reading, series: Series, span: Span) -> Iterator[Result]:
    """The steady value, and of a temperature its rise over the room."""
    window = _window_of(recording, reading, series, span)
    if window is None:
        return
    stretch = recording.between(*window)
    x = despiked(series.row[stretch]) if series.quantity == "temperature" else series.row[stretch]
    x = x[np.isfinite(x)]
    if len(x) < 2:
        return
    figures = reading.steady.get(series.channel) if series.channel is not None else None
    shared = reading.window is not None and window == reading.window.span
    # One run has one answer: what the reading says of this channel stands.
    mean = figures.measured if figures is not None and shared else mean_of(x)
    rides = series.channel is not None and series.channel == reading.die and _rides(reading, window)
    value = Measured(mean.value, mean.half_width, AT_LEAST if rides else None)
    yield one_result(series, "steady", value, window, len(x))
    if series.quantity == "noise" and series.unit == UNITS["noise"]:
        # Levels add as energies: what a meter logged over time has the level of its mean energy.
        level = 10.0 * math.log10(float(np.mean(10.0 ** (0.1 * x))))
        yield one_result(series, "level", Measured(level, mean.half_width), window, len(x))
    room = reading.room
    if series.quantity == "temperature" and room is not None and series.part not in ("inlet", None):
        yield one_result(
            series,
            "rise",
            replace(difference(value, room), bound=value.bound),
            window,
            len(x),
            "K",
            value.value,
        )


def _window_of(recording: Recording, reading: Reading, series: Series, span: Span) -> Span | None:
    """Where a series is averaged: where the die is, later where it settles later itself, nowhere where it does not."""
    common = reading.window.span if reading.window is not None else None
    if common is not None and reading.window is not None and reading.window.reason == BY_HAND:
        return common
    if series.quantity != "temperature" and common is not None:
        return common
    stretch = recording.between(*span)
    time_s, x = recording.time_s[stretch], series.row[stretch]
    if np.isfinite(x).sum() < 8:
        return None
    limit = DRIFT_LIMIT_K_PER_MIN
    if series.quantity != "temperature":
        level = abs(float(np.nanmean(x)))
        if level == 0 or not math.isfinite(level):
            return None
        x, limit = 100.0 * x / level, POWER_DRIFT_PCT_PER_MIN
    else:
        x = despiked(x)
    if common is not None:
        # Most channels stand still where the die does: that one window is looked at before any search.
        here = (time_s >= common[0]) & (time_s <= common[1])
        if find_steady(time_s[here], x[here], limit, windows=1).found:
            return common
    own = find_steady(time_s, x, limit).span
    if own is None:
        return None
    return common if common is not None and own[0] <= common[0] + LATER_S else own


def _rides(reading: Reading, window: Span) -> bool:
    """Whether the die was held at its limit for most of a window: its temperature is then no more than a bound."""
    hot = sum(
        max(0.0, min(h.end_s, window[1]) - max(h.start_s, window[0]))
        for h in reading.held
        if h.by == "thermal"
    )
    return hot > 0.5 * (window[1] - window[0])


def _droop(series: Series, idle: Result, steady: Result) -> Result:
    """By how much a voltage sinks from idle to load."""
    drop = difference(idle.measured, steady.measured)
    return one_result(series, "droop", drop, steady.window or (0.0, 0.0), steady.n)


def power_at_clock(
    recording: Recording, power: Series, clock: Array, span: Span, step_mhz: float
) -> Result | None:
    """What a chip drew at the clock it ran at most under the load, so that two voltages can be held against each other
    though one clocked higher."""
    stretch = recording.between(*span)
    watts, mhz = power.row[stretch], clock[stretch]
    known = np.isfinite(watts) & np.isfinite(mhz)
    if known.sum() < 8:
        return None
    steps = np.round(mhz[known] / step_mhz).astype(int)
    usual = int(np.bincount(steps - steps.min()).argmax() + steps.min())
    at = watts[known][steps == usual]
    if len(at) < 8:
        return None
    mean = mean_of(at)
    return Result(
        power.part, power.channel, "power", "at_clock", "W", mean.value, mean.half_width, window=span, n=len(at),
        by=f"{usual * step_mhz:.0f} MHz",
    )  # fmt: skip
