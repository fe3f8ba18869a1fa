"""All results of a run, for every channel and part, in one place.

Each channel is averaged over a window of its own where it settles later than the die: a regulator warms for minutes
after the chip stands still. What cannot be had costs itself alone: without a room there is no rise, without a steady
stretch no steady value, and the mean, the least, the peak and the totals stand all the same.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from samovar.core.despike import despiked
from samovar.core.phases import Phase
from samovar.core.quantity import UNITS, Channel
from samovar.core.reading import IDLE_TAIL_S, Reading
from samovar.core.recording import Array, Recording, mean_rows
from samovar.core.results.core_groups import core_groups
from samovar.core.results.result import AT_LEAST, Result
from samovar.core.steady import DRIFT_LIMIT_K_PER_MIN, POWER_DRIFT_PCT_PER_MIN, find_steady
from samovar.core.totals import integral
from samovar.core.uncertainty import combine, mean_of
from samovar.core.window import BY_HAND, inside

Span = tuple[float, float]
LATER_S = 10.0
"""A channel that settles within this of the die shares the die's window: the search has no finer steps."""
LEAST_BURST_S = 3.0
"""A budget that sets in sooner leaves no burst to speak of."""
NOT_AVERAGED = ("flag",)
INTEGRATED = {"power": ("energy", "J"), "work": ("work", "")}
"""Quantities whose sum over time is a result of its own: its name and unit."""


def results_of(recording: Recording, reading: Reading) -> list[Result]:
    """Every result that the recording gives, by channel in its order, then those of groups and of the whole run.

    Args:
        recording: what was measured.
        reading: what was read from it.
    """
    load = reading.load_phase()
    span = _loaded(recording, load)
    found: list[Result] = []
    for index, channel in enumerate(recording.channels):
        row = recording.values[index]
        if channel.quantity in NOT_AVERAGED or not np.isfinite(row).any():
            continue
        found += _of_channel(recording, reading, channel, row, span)
    for quantity in ("clock", "temperature"):
        for group, members in core_groups(recording.channels, quantity).items():
            rows = recording.values[members]
            row = mean_rows(rows) if quantity == "clock" else _highest(rows)
            found += _of_row(recording, reading, (group, None, quantity), row, span)
    found += _of_the_run(reading, load)
    return found


def _loaded(recording: Recording, load: Phase | None) -> Span:
    """The stretch that counts as the load; all of a recording in which no load shows."""
    if load is None:
        return (0.0, recording.duration_s) if len(recording.time_s) else (0.0, 0.0)
    part = inside(recording, load)
    times = recording.time_s[part]
    return (float(times[0]), float(times[-1])) if len(times) else (load.start_s, load.end_s)


def _highest(rows: Array) -> Array:
    with np.errstate(all="ignore"):
        return np.asarray(np.fmax.reduce(rows, axis=0))


def _part(channel: Channel) -> str | None:
    return None if channel.role == "other" else channel.role


def _of_channel(
    recording: Recording, reading: Reading, channel: Channel, row: Array, span: Span
) -> Iterator[Result]:
    yield from _of_row(recording, reading, (_part(channel), channel.name, channel.quantity), row, span)
    if channel.quantity in INTEGRATED:
        part = recording.between(*span)
        total = integral(recording.time_s[part], row[part])
        if total is not None:
            quantity, unit = INTEGRATED[channel.quantity]
            known = int(np.isfinite(row[part]).sum())
            yield Result(
                _part(channel), channel.name, quantity, "total", unit, total, None, window=span, n=known
            )


def _of_row(
    recording: Recording, reading: Reading, of: tuple[str | None, str | None, str], row: Array, span: Span
) -> Iterator[Result]:
    """The results of one series, shape (n,): `of` its part, channel and quantity."""
    part, channel, quantity = of
    unit = UNITS[quantity]
    stretch = recording.between(*span)
    loaded = despiked(row[stretch]) if quantity == "temperature" else row[stretch]
    known = loaded[np.isfinite(loaded)]
    if len(known) == 0:
        return
    n = len(known)
    # Over a load that warms up, scatter about the mean says nothing of how well the mean repeats.
    yield Result(part, channel, quantity, "mean", unit, float(known.mean()), None, window=span, n=n)
    yield Result(part, channel, quantity, "peak", unit, float(known.max()), None, window=span, n=n)
    yield Result(part, channel, quantity, "least", unit, float(known.min()), None, window=span, n=n)
    if n > 1:
        yield Result(
            part, channel, quantity, "spread", unit, float(known.std(ddof=1)), None, window=span, n=n
        )
    yield from _idle(recording, reading, of, row)
    yield from _burst(recording, reading, of, row, span)
    yield from _steady(recording, reading, of, row, span)


def _idle(
    recording: Recording, reading: Reading, of: tuple[str | None, str | None, str], row: Array
) -> Iterator[Result]:
    load = reading.load_phase()
    before = [p for p in reading.phases if p.name == "idle" and load is not None and p.end_s <= load.start_s]
    if not before:
        return
    window = (max(before[-1].start_s, before[-1].end_s - IDLE_TAIL_S), before[-1].end_s)
    yield from _mean_over(recording, of, row, "idle", window)


def _burst(
    recording: Recording, reading: Reading, of: tuple[str | None, str | None, str], row: Array, span: Span
) -> Iterator[Result]:
    """The mean from the load's beginning to where the first budget set in."""
    budgets = [h.start_s for h in reading.held if h.by in ("power", "shared")]
    if of[2] not in ("power", "clock", "work") or not budgets or min(budgets) - span[0] < LEAST_BURST_S:
        return
    yield from _mean_over(recording, of, row, "burst", (span[0], min(budgets)))


def _mean_over(
    recording: Recording, of: tuple[str | None, str | None, str], row: Array, statistic: str, window: Span
) -> Iterator[Result]:
    """The mean over a stretch; its last sample may already be of what follows."""
    part, channel, quantity = of
    x = row[recording.between(*window)][:-1]
    x = x[np.isfinite(x)]
    if len(x):
        mean = mean_of(x)
        yield Result(
            part,
            channel,
            quantity,
            statistic,
            UNITS[quantity],
            mean.value,
            mean.half_width,
            window=window,
            n=len(x),
        )


def _steady(
    recording: Recording, reading: Reading, of: tuple[str | None, str | None, str], row: Array, span: Span
) -> Iterator[Result]:
    part, channel, quantity = of
    window = _window_of(recording, reading, quantity, row, span)
    if window is None:
        return
    stretch = recording.between(*window)
    x = despiked(row[stretch]) if quantity == "temperature" else row[stretch]
    x = x[np.isfinite(x)]
    if len(x) < 2:
        return
    figures = reading.steady.get(channel) if channel is not None else None
    shared = reading.window is not None and window == reading.window.span
    if figures is not None and shared:
        # One run has one answer: what the reading says of this channel stands.
        value, half_width = figures.mean, figures.half_width
    else:
        mean = mean_of(x)
        value, half_width = mean.value, mean.half_width
    bound = AT_LEAST if channel is not None and channel == reading.die and _rides(reading, window) else None
    common = {"window": window, "n": len(x), "bound": bound}
    yield Result(part, channel, quantity, "steady", UNITS[quantity], value, half_width, **common)  # type: ignore[arg-type]
    room = reading.room
    if quantity == "temperature" and room is not None and part not in ("inlet", None):
        width = combine(half_width or 0.0, room.half_width or 0.0)
        yield Result(part, channel, quantity, "rise", "K", value - room.value, width, **common)  # type: ignore[arg-type]


def _window_of(recording: Recording, reading: Reading, quantity: str, row: Array, span: Span) -> Span | None:
    """Where a series is averaged: where the die is, later where it settles later itself, nowhere where it does not."""
    common = reading.window.span if reading.window is not None else None
    if common is not None and reading.window is not None and reading.window.reason == BY_HAND:
        return common
    if quantity != "temperature" and common is not None:
        return common
    stretch = recording.between(*span)
    time_s, x = recording.time_s[stretch], row[stretch]
    good = np.isfinite(x)
    if good.sum() < 8:
        return None
    limit = DRIFT_LIMIT_K_PER_MIN
    if quantity != "temperature":
        level = abs(float(np.nanmean(x)))
        if level == 0 or not math.isfinite(level):
            return None
        x, limit = 100.0 * x / level, POWER_DRIFT_PCT_PER_MIN
    else:
        x = despiked(x)
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
        yield Result("die", reading.die, "time", "settle", "min", settled_min, 0.5, window=window.span)
    length = load.duration_s
    for part, stretches in (("die", reading.held), ("gpu", reading.held_graphics)):
        for by in dict.fromkeys(h.by for h in stretches):
            held_s = sum(h.end_s - h.start_s for h in stretches if h.by == by)
            if length > 0:
                yield Result(
                    part, None, "held", "held_share", "%", min(100.0, 100.0 * held_s / length),
                    window=(load.start_s, load.end_s), by=by,
                )  # fmt: skip
