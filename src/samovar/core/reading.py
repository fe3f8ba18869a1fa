"""The reading of a run: all that one recording says, computed in one pass over its parts."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from samovar.core.accuracy import half_width
from samovar.core.approach import way_of
from samovar.core.despike import despiked
from samovar.core.doubts import doubts
from samovar.core.facts import Facts
from samovar.core.graphics_heat import GraphicsHeat, graphics_heat
from samovar.core.heading import forecast_of, heading_of
from samovar.core.held.stretches import HeldStretch, find_held
from samovar.core.idle import idle_load
from samovar.core.judgement import judge, steps_to_budget
from samovar.core.load.signals import working_clock
from samovar.core.measured import COVERAGE_FACTOR, Measured, combine, difference, quotient
from samovar.core.method import METHOD_VERSION
from samovar.core.peaks import Peak, Spike, peaks_of, set_aside
from samovar.core.phases import Phase, find_phases, main_load
from samovar.core.quantity import QUANTITIES, Channel
from samovar.core.recording import Array, Gap, Recording, stride_of
from samovar.core.steady import DRIFT_LIMIT_K_PER_MIN, POWER_DRIFT_PCT_PER_MIN, SteadyWindow, approach_of
from samovar.core.stops import was_stopped
from samovar.core.thermal import Forecast, FosterNetwork, main_time_constants
from samovar.core.uncertainty import mean_of, resolution_of
from samovar.core.window import BY_HAND, find_window, inside, window_by_hand

UNSEEN_SHARE = 0.001
"""Standard uncertainty of a settled value from what its network has beyond the stages that show, as a share of the way."""
AT_LIMIT_K = 1.0
"""A way that would end this near to the die's limit, or over it, ends there: nothing is left to be taken off."""
NOTICED_LEFT = 0.6
"""What was left of the way is taken off a mean where it is more than so many minutes of the tolerated drift: 0.03 K."""
OUTLINE_POINTS = 48
LEVELS_THAT_TELL = 15


GRAPHICS_RIBBON = "graphics"


@dataclass(frozen=True, slots=True)
class SteadyFigures:
    """One channel over the steady window, in its own unit; `half_width` is that of the mean (k = 2)."""

    mean: float
    half_width: float | None
    sd: float
    minimum: float
    maximum: float

    @property
    def measured(self) -> Measured:
        """The mean with its half-width."""
        return Measured(self.mean, self.half_width)


@dataclass(frozen=True, slots=True)
class ThermalFigures:
    """Room and rise, resistance with its half-width, time constants, and the heat (W) that would bring
    the die to its limit in this room. None where a part is not known."""

    room_c: float | None
    rise_k: float | None
    rise_half_width: float | None
    power_w: float | None
    resistance_k_per_w: float | None
    half_width_95: float | None
    time_constants_s: tuple[float, ...]
    headroom_w: float | None
    network: FosterNetwork | None = None


@dataclass(frozen=True)
class Reading:
    """Everything computed from one recording. Times in seconds from the first sample. `valid` counts each channel's
    values, `due` how many it should have at the rate at which it is read. `held` is the processor's, `held_graphics` the
    graphics chip's; where a log knows the clock of that alone, `held` is its."""

    rows: int
    duration_s: float
    interval_s: float | None
    gaps: list[Gap]
    warnings: list[str]
    channels: tuple[Channel, ...]
    valid: list[int]
    due: list[int]
    phases: list[Phase]
    window: SteadyWindow | None
    steady: dict[str, SteadyFigures]
    peak: dict[str, Peak]
    spikes: list[Spike]
    held: list[HeldStretch]
    held_graphics: list[HeldStretch]
    judgement: str | None
    thermal: ThermalFigures | None
    forecast: Measured | None
    die: str | None = None
    power: str | None = None
    free_clock_mhz: float | None = None
    outline: tuple[float | None, ...] = ()
    idle_load_pct: float | None = None
    room: Measured | None = None
    graphics: GraphicsHeat | None = None
    method_version: int = field(default=METHOD_VERSION)

    @property
    def ribbons(self) -> tuple[tuple[str, tuple[HeldStretch, ...]], ...]:
        """What is drawn of what held it, each with its name: the processor's stretches, and the graphics chip's where it has
        any."""
        both = (("held by", tuple(self.held)), (GRAPHICS_RIBBON, tuple(self.held_graphics)))
        return tuple(one for one in both if one[1]) or both[:1]

    def load_phase(self) -> Phase | None:
        """The longest load, the one the steady window is taken from."""
        return main_load(self.phases)

    def rise(self) -> Measured | None:
        """The die's rise over the room, K; None where it never settled or the room is not known."""
        if self.thermal is None or self.thermal.rise_k is None:
            return None
        return Measured(self.thermal.rise_k, self.thermal.rise_half_width)

    def steady_mean(self, quantity: str, roles: tuple[str, ...]) -> Measured | None:
        """The steady mean of the first channel of this quantity and these roles (in their order)."""
        for role in roles:
            for channel in self.channels:
                if channel.quantity == quantity and channel.role == role and channel.name in self.steady:
                    figures = self.steady[channel.name]
                    return figures.measured
        return None


def read(
    recording: Recording,
    facts: Facts | None = None,
    warnings: list[str] | None = None,
    reference_clock_mhz: float | None = None,
    window_s: tuple[float, float] | None = None,
) -> Reading:
    """Read one recording.

    Args:
        recording: what was measured.
        facts: what is known of the machine; nothing where None.
        warnings: what went wrong on the way here, handed through.
        reference_clock_mhz: what this load reached when free in other runs.
        window_s: the averaging window as a person set it, from and to; found by itself where None.
    """
    facts = facts or Facts()
    phases = find_phases(recording)
    held = find_held(recording, phases, facts, reference_clock_mhz)
    graphics = find_held(recording, phases, facts, domain="gpu")
    if recording.cpu_clock() is None:
        held, graphics = graphics, []
    load = main_load(phases)
    window = find_window(recording, load, held) if window_s is None else window_by_hand(recording, window_s)
    aside = set_aside(recording)
    steady = _steady_figures(recording, window, aside)
    _take_off_the_rest(recording, load, window, steady, facts.cpu.temperature_limit_c)
    room = _room(recording, window, facts)
    forecast = forecast_of(recording, phases, load)
    die_name = _name(recording, recording.die)
    at = steady.get(die_name or "")
    die_settled = None if at is None else at.measured
    peaks, lone = peaks_of(recording, load, aside)
    return Reading(
        rows=len(recording.time_s),
        duration_s=recording.duration_s,
        interval_s=recording.interval_s,
        gaps=recording.gaps(),
        warnings=[*(warnings or []), *doubts(recording, load, held, facts)],
        channels=recording.channels,
        valid=[int(v) for v in np.isfinite(recording.values).sum(axis=1)],
        due=[-(-len(recording.time_s) // stride_of(row)) for row in recording.values],
        phases=phases,
        window=window,
        steady=steady,
        peak=peaks,
        spikes=lone,
        held=held,
        held_graphics=graphics,
        judgement=_judgement(recording, held or graphics, phases, facts),
        thermal=_thermal(recording, steady, room, facts, forecast),
        forecast=heading_of(recording, die_settled, forecast, held, load, facts),
        die=die_name,
        power=_name(recording, recording.package_power),
        free_clock_mhz=_free_clock(recording, load, held),
        outline=_outline(recording),
        idle_load_pct=idle_load(recording, phases),
        room=room,
        graphics=graphics_heat(recording, phases, load),
    )


def _judgement(
    recording: Recording, held: list[HeldStretch], phases: list[Phase], facts: Facts
) -> str | None:
    """The judgement; without a clock that could have been held only what the load's end, or its power, tells."""
    stopped = recording.stopped_early
    if stopped is None and was_stopped(recording, phases, facts):
        stopped = True
    if recording.find("clock") or stopped:
        return judge(held, phases, stopped)
    load, power = main_load(phases), recording.package_power
    if load is None or power is None:
        return None
    part = inside(recording, load)
    return "budget" if steps_to_budget(recording.time_s[part], recording.values[power][part], facts) else None


def _name(recording: Recording, index: int | None) -> str | None:
    return None if index is None else recording.channels[index].name


def _steady_figures(
    recording: Recording, window: SteadyWindow | None, aside: NDArray[np.bool_]
) -> dict[str, SteadyFigures]:
    if window is None or window.start_s is None or window.end_s is None:
        return {}
    part = recording.between(window.start_s, window.end_s)
    out: dict[str, SteadyFigures] = {}
    swing_s = window.drift.period_s if window.drift is not None else None
    period = 1 if swing_s is None else max(1, round(swing_s / (recording.interval_s or 1.0)))
    for channel, row, lone in zip(recording.channels, recording.values, aside, strict=True):
        x = row[part]
        x = x[np.isfinite(x) & ~lone[part]]
        if len(x) < 2 or not QUANTITIES[channel.quantity].averaged:
            continue
        # A value that stood still tells nothing of its sensor's digits; the rest of the run does.
        mean = mean_of(x, resolution_of(x) or _digits_of(row), period)
        out[channel.name] = SteadyFigures(
            mean.value, mean.half_width, float(x.std(ddof=1)), float(x.min()), float(x.max())
        )
    return out


def _digits_of(row: Array) -> float:
    """A sensor's step by all of a run, where it gave enough values to tell; else 0."""
    some = row[:: 1 + len(row) // 5000]
    return resolution_of(some) if len(np.unique(some[np.isfinite(some)])) >= LEVELS_THAT_TELL else 0.0


def _take_off_the_rest(
    recording: Recording,
    load: Phase | None,
    window: SteadyWindow | None,
    steady: dict[str, SteadyFigures],
    limit_c: float | None,
) -> None:
    """What was left of the way on average over the window is taken off the means of die and power, and how surely it is
    known joins their uncertainty; of a window that a person set only the uncertainty is."""
    if load is None or window is None or window.span is None:
        return
    part = inside(recording, load)
    end_s = float(recording.time_s[part][-1]) if part.stop > part.start else 0.0
    rows = ((recording.die, DRIFT_LIMIT_K_PER_MIN), (recording.package_power, POWER_DRIFT_PCT_PER_MIN))
    for index, limit in rows:
        name = _name(recording, index)
        if index is None or name not in steady:
            continue
        figures = steady[name]
        scale = figures.mean / 100.0 if index == recording.package_power else 1.0
        row = despiked(recording.values[index][part])
        good = np.isfinite(row)
        if good.sum() < 32 or figures.half_width is None or scale <= 0:
            continue
        found = approach_of(recording.time_s[part][good], row[good], limit * scale)
        if found is None or abs(window.span[1] - end_s) > found.tau_s:
            continue
        left, error = found.mean_left(window.span[1] - max(window.span[0], found.since_s))
        # How far it would yet go, were there a slower stage that hardly shows; and what no network of few stages gets right.
        unseen = COVERAGE_FACTOR * UNSEEN_SHARE * way_of(row[good])
        half_width = combine(figures.half_width, COVERAGE_FACTOR * error, found.far - found.heads_for, unseen)
        if window.reason == BY_HAND or not found.settled(limit * scale):
            steady[name] = replace(figures, half_width=combine(half_width, left))
            continue
        at_limit = (
            index == recording.die and limit_c is not None and figures.mean - left > limit_c - AT_LIMIT_K
        )
        if at_limit or abs(left) < NOTICED_LEFT * limit * scale:
            # Too little to move a mean by that anyone can take from the samples: its width covers it.
            steady[name] = replace(figures, half_width=combine(half_width, left))
        else:
            steady[name] = replace(figures, mean=figures.mean - left, half_width=half_width)


def _room(recording: Recording, window: SteadyWindow | None, facts: Facts) -> Measured | None:
    """The room during the steady window: from its probe, else as typed in."""
    index = recording.first("temperature", ["inlet"])
    if index is not None:
        row = recording.values[index]
        if window is not None and window.start_s is not None and window.end_s is not None:
            row = row[recording.between(window.start_s, window.end_s)]
        if np.isfinite(row).any():
            mean = mean_of(row)
            probe = COVERAGE_FACTOR * facts.room.standard_uncertainty_k
            # What is known of this very probe counts before what rooms' thermometers are mostly good for.
            known = half_width(recording.channels[index].accuracy, "temperature", mean.value)
            probe = known or probe
            return Measured(mean.value, combine(mean.half_width or 0.0, probe))
    if facts.room.temperature_c is None:
        return None
    return Measured(facts.room.temperature_c, COVERAGE_FACTOR * facts.room.standard_uncertainty_k)


def _thermal(
    recording: Recording,
    steady: dict[str, SteadyFigures],
    room: Measured | None,
    facts: Facts,
    forecast: Forecast | None,
) -> ThermalFigures | None:
    die, power = _name(recording, recording.die), _name(recording, recording.package_power)
    constants = main_time_constants(forecast.network) if forecast else ()
    network = forecast.network if forecast else None
    if room is None or die is None or die not in steady:
        if network is None and room is None:
            return None
        return ThermalFigures(
            room.value if room else None, None, None, None, None, None, constants, None, network
        )
    rise = difference(steady[die].measured, room)
    watts = steady[power].measured if power in steady else None
    if watts is None or watts.value <= 0 or rise.value <= 0:
        return ThermalFigures(
            room.value, rise.value, rise.half_width, watts.value if watts else None, None, None, constants, None, network,
        )  # fmt: skip
    resistance = quotient(rise, watts)
    limit = facts.cpu.temperature_limit_c
    headroom = None if limit is None else (limit - room.value) / resistance.value
    return ThermalFigures(
        room.value, rise.value, rise.half_width, watts.value, resistance.value, resistance.half_width, constants, headroom,
        network,
    )  # fmt: skip


def _outline(recording: Recording) -> tuple[float | None, ...]:
    """The die's course in miniature."""
    index = recording.die
    return () if index is None else outline_of(recording.time_s, despiked(recording.values[index]))


def outline_of(time_s: Array, row: Array) -> tuple[float | None, ...]:
    """A series in miniature: the highest value of each of 48 equal stretches of the run; both of shape (n,)."""
    if len(time_s) < 2:
        return ()
    edges = np.linspace(time_s[0], time_s[-1], OUTLINE_POINTS + 1)
    bounds = np.searchsorted(time_s, edges)
    parts = [row[a : max(b, a + 1)] for a, b in itertools.pairwise(bounds)]
    return tuple(round(float(np.nanmax(p)), 2) if np.isfinite(p).any() else None for p in parts)


FREE_PLATEAU_SHARE = 0.015
"""Clocks within this share of the highest are one plateau."""
SUSTAINED_S = 60.0
"""A clock that a limit kept for so long is that limit's; a burst ends sooner, and comes near to what is free."""


def _free_clock(recording: Recording, load: Phase | None, held: list[HeldStretch]) -> float | None:
    """The highest clock the load kept up for three seconds: a reference for other runs of this load. None where something
    held it there for a minute: then it says nothing of what would be free."""
    if recording.cpu_clock() is None or load is None:
        return None
    part = recording.between(load.start_s, load.end_s)
    clock, _ = working_clock(recording, part)
    row = np.sort(clock[np.isfinite(clock)])
    count = max(3, round(3.0 / (recording.interval_s or 1.0)))
    value = float(row[-count]) if len(row) > count else math.nan
    if not math.isfinite(value):
        return None
    time_s = recording.time_s[part]
    under = np.zeros(len(time_s), bool)
    for stretch in held:
        under |= (time_s >= stretch.start_s) & (time_s <= stretch.end_s)
    kept_s = float((under & (clock >= (1.0 - FREE_PLATEAU_SHARE) * value)).sum()) * (
        recording.interval_s or 1.0
    )
    return value if kept_s < SUSTAINED_S else None
