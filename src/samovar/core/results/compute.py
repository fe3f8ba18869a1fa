"""All results of a run, for every channel and part, in one place.

Each channel is averaged over a window of its own where it settles later than the die: a regulator warms for minutes
after the chip stands still. What cannot be had costs itself alone: without a room there is no rise, without a steady
stretch no steady value, and the mean, the least, the peak and the totals stand all the same.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from samovar.core.graphics_heat import BESIDE_SHARE
from samovar.core.measured import Measured, difference, quotient
from samovar.core.phases import Phase
from samovar.core.quantity import QUANTITIES
from samovar.core.reading import Reading
from samovar.core.recording import Array, Recording, mean_rows
from samovar.core.results.core_groups import core_groups
from samovar.core.results.drive import gave_way, hot_work
from samovar.core.results.result import Result
from samovar.core.results.series import (
    Series,
    Span,
    power_at_clock,
    results_in,
    series_of,
)
from samovar.core.window import BY_HAND, inside

CLOCK_STEP_MHZ = 50.0
"""Clocks within half of this count as the same one."""
SETTLE_HALF_WIDTH_MIN = 0.5
"""The search for the steady stretch tells its beginning no finer."""


def results_of(recording: Recording, reading: Reading) -> list[Result]:
    """Every result that the recording gives, by channel in its order, then those of groups and of the whole run.

    Args:
        recording: what was measured.
        reading: what was read from it.
    """
    load = reading.load_phase()
    found = results_under(recording, reading, loaded_span(recording, load))
    return [*found, *_of_the_run(reading, load), *_of_the_graphics(found, reading.room)]


def results_under(recording: Recording, reading: Reading, span: Span) -> list[Result]:
    """The results of every channel and group under the load from `span[0]` to `span[1]`, s."""
    found: list[Result] = []
    every = [
        series_of(channel, recording.values[k], channel.name == reading.die)
        for k, channel in enumerate(recording.channels)
        if QUANTITIES[channel.quantity].averaged and np.isfinite(recording.values[k]).any()
    ]
    for series in every:
        found += results_in(recording, reading, series, span)
    for quantity, unit in (("clock", "MHz"), ("temperature", "°C")):
        for group, members in core_groups(recording.channels, quantity).items():
            rows = recording.values[members]
            row = mean_rows(rows) if quantity == "clock" else _highest(rows)
            found += results_in(recording, reading, Series(group, None, quantity, unit, row), span)
    found += _together(recording, every, span)
    return found


def _together(recording: Recording, every: list[Series], span: Span) -> Iterator[Result]:
    """Figures that two series give together."""
    heat = [s for s in every if s.part == "storage" and s.quantity == "temperature"]
    if heat:
        hottest = _highest(np.array([s.row for s in heat]))
        for work in every:
            if work.part == "storage" and work.quantity == "work":
                found = hot_work(recording, work, hottest, span)
                if found is not None:
                    yield found
                warmest = Series("storage", None, "temperature", "°C", hottest)
                where = gave_way(recording, work, heat[0] if len(heat) == 1 else warmest, span)
                if where is not None:
                    yield where
    clock = recording.cpu_clock()
    package = next((s for s in every if s.part == "package" and s.quantity == "power"), None)
    if clock is not None and package is not None:
        at_clock = power_at_clock(recording, package, clock, span, CLOCK_STEP_MHZ)
        if at_clock is not None:
            yield at_clock


def loaded_span(recording: Recording, load: Phase | None) -> Span:
    """The stretch that counts as the load; all of a recording in which no load shows."""
    if load is None:
        return (0.0, recording.duration_s) if len(recording.time_s) else (0.0, 0.0)
    part = inside(recording, load)
    times = recording.time_s[part]
    return (float(times[0]), float(times[-1])) if len(times) else (load.start_s, load.end_s)


def _of_the_graphics(found: list[Result], room: Measured | None) -> Iterator[Result]:
    """A graphics chip's resistance to the room, where it is all that heats: of two sources in one path none has one alone."""

    def steady(part: str, quantity: str) -> Result | None:
        mine = (r for r in found if (r.part, r.quantity, r.statistic) == (part, quantity, "steady"))
        return next(mine, None)

    heat, power, package = steady("gpu", "temperature"), steady("gpu", "power"), steady("package", "power")
    if heat is None or power is None or room is None or power.value <= 0.0:
        return
    if package is not None and package.value > BESIDE_SHARE * power.value:
        return
    rise = difference(heat.measured, room)
    if rise.value <= 0.0:
        return
    found_k_per_w = quotient(rise, power.measured)
    yield Result(
        "gpu", heat.channel, "temperature", "resistance", "K/W", found_k_per_w.value, found_k_per_w.half_width,
        window=heat.window, n=heat.n,
    )  # fmt: skip


def _highest(rows: Array) -> Array:
    with np.errstate(all="ignore"):
        return np.asarray(np.fmax.reduce(rows, axis=0))


def _of_the_run(reading: Reading, load: Phase | None) -> Iterator[Result]:
    """Resistance, time to settle, and the share of the load that was held, by what."""
    thermal, window = reading.thermal, reading.window
    if thermal is not None and thermal.resistance_k_per_w is not None:
        span = window.span if window is not None else None
        yield Result(
            "die", reading.die, "temperature", "resistance", "K/W", thermal.resistance_k_per_w, thermal.half_width_95,
            window=span,
        )  # fmt: skip
    if load is None:
        return
    if window is not None and window.span is not None and window.reason != BY_HAND:
        settled_min = (window.span[0] - load.start_s) / 60.0
        yield Result(
            "die" if reading.die else None,
            reading.die,
            "time",
            "settle",
            "min",
            settled_min,
            SETTLE_HALF_WIDTH_MIN,
            window=window.span,
        )
    length = load.duration_s
    for part, stretches in (("die", reading.held), ("gpu", reading.held_graphics)):
        for by in dict.fromkeys(h.by for h in stretches):
            held_s = sum(h.end_s - h.start_s for h in stretches if h.by == by)
            if length > 0:
                yield Result(
                    part, None, "held", "held_share", "%", min(100.0, 100.0 * held_s / length),
                    window=(load.start_s, load.end_s), by=by,
                )  # fmt: skip
