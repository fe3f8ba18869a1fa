"""Where a die is heading: settled already, regulated where it is, else foreseen by a model or by its own approach."""

from __future__ import annotations

import numpy as np

from samovar.core.approach import fit_approach, way_of
from samovar.core.despike import despiked
from samovar.core.facts import Facts
from samovar.core.held.stretches import HeldStretch
from samovar.core.measured import COVERAGE_FACTOR, Measured, combine
from samovar.core.phases import Phase
from samovar.core.recording import Recording
from samovar.core.regime import regime_start_s
from samovar.core.thermal import Forecast, fit_forecast
from samovar.core.uncertainty import mean_of, resolution_of
from samovar.core.window import inside

IDLE_TAIL_S = 30.0
UNSEEN_SHARE = 0.015
"""Standard uncertainty of a stage slower than what was recorded so far, as a share of the way."""
SAME_START_S = 150.0
"""A fan that comes up to speed as the load warms is no change of it."""


def forecast_of(recording: Recording, phases: list[Phase], load: Phase | None) -> Forecast | None:
    """The thermal model of the main load; None without die, power, or an idle to start from."""
    die, power = recording.die, recording.package_power
    if die is None or power is None or load is None:
        return None
    before = [p for p in phases if p.end_s <= load.start_s and p.name == "idle"]
    if not before:
        return None
    idle = recording.between(max(before[-1].start_s, before[-1].end_s - IDLE_TAIL_S), before[-1].end_s)
    idle_die, idle_power = recording.values[die][idle][:-1], recording.values[power][idle][:-1]
    if not np.isfinite(idle_die).any() or not np.isfinite(idle_power).any():
        return None
    part = inside(recording, load)
    return fit_forecast(
        recording.time_s[part],
        despiked(recording.values[die][part]),
        recording.values[power][part],
        float(np.nanmedian(idle_die)),
        float(np.nanmedian(idle_power)),
    )


def heading_of(
    recording: Recording,
    settled: Measured | None,
    forecast: Forecast | None,
    held: list[HeldStretch],
    load: Phase | None,
    facts: Facts,
) -> Measured | None:
    """Where the die is heading: a regulated die stays where it is, a settled one has arrived, else the
    model's forecast, which a limit cuts off."""
    if settled is not None:
        return settled
    if load is not None and recording.die is not None and held:
        last = held[-1]
        if last.by in ("thermal", "firmware") and load.end_s - last.end_s < 10.0:
            row = recording.values[recording.die][
                recording.between(max(last.start_s, last.end_s - 60.0), last.end_s)
            ]
            if np.isfinite(row).sum() > 2:
                return mean_of(despiked(row))
    found = _foreseen(recording, load, forecast)
    limit = facts.cpu.temperature_limit_c
    if found is not None and limit is not None and found.value > limit:
        return Measured(limit, max(0.5, min(found.half_width or 0.5, 2.0)))
    return found


def _foreseen(recording: Recording, load: Phase | None, forecast: Forecast | None) -> Measured | None:
    """Where the die is heading, by the thermal model, else by its own approach; after a change of fans by the approach
    since then alone, for the model knows of one path only."""
    modelled = None if forecast is None else Measured(forecast.steady_c, forecast.half_width)
    if load is None or recording.die is None:
        return modelled
    part = inside(recording, load)
    since = regime_start_s(recording, load)
    time_s, die = recording.time_s[part], despiked(recording.values[recording.die][part])
    good = np.isfinite(die)
    here = good & (time_s >= since)
    found = None
    if here.sum() > 24:
        found = fit_approach(time_s[here], die[here], None, way_of(die[good]), resolution_of(die[good]))
    if found is None:
        return modelled if since <= load.start_s + SAME_START_S else None
    # Slower stages that the stretch does not show yet are a small part of the way.
    unseen = UNSEEN_SHARE * way_of(die[here])
    by_approach = Measured(found.far, combine(COVERAGE_FACTOR * found.far_error, COVERAGE_FACTOR * unseen))
    return by_approach if modelled is None or since > load.start_s + SAME_START_S else modelled
