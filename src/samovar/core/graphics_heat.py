"""The thermal model of a graphics chip: of what it draws alone where that is all that heats, else of what both it and the processor
draw, for two sources of heat in one path warm each other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from samovar.core.despike import despiked
from samovar.core.heading import IDLE_TAIL_S
from samovar.core.measured import Measured
from samovar.core.phases import Phase
from samovar.core.recording import Array, Recording
from samovar.core.thermal import Forecast, FosterNetwork, fit_forecast, main_time_constants
from samovar.core.window import inside

BESIDE_SHARE = 0.3
"""A processor that draws up to this share of what the graphics chip does only feeds it."""
DRAWS_W = 2.0
"""A graphics chip that draws less does nothing, and is warmed by others alone."""
OWN, BOTH = "its own power", "its own power and the processor's"


@dataclass(frozen=True)
class GraphicsHeat:
    """Where a graphics chip is heading, °C, the time constants of its way to the room, s, the network behind them, and of whose
    power that is: OWN or BOTH."""

    heading_c: Measured
    time_constants_s: tuple[float, ...]
    network: FosterNetwork
    power_of: str


def graphics_heat(recording: Recording, phases: list[Phase], load: Phase | None) -> GraphicsHeat | None:
    """The model of the main load; None without the chip's temperature and power, or an idle to start from."""
    hot, power = recording.first("temperature", ["gpu"]), recording.first("power", ["gpu"])
    before = [p for p in phases if load is not None and p.end_s <= load.start_s and p.name == "idle"]
    if hot is None or power is None or load is None or not before:
        return None
    idle = recording.between(max(before[-1].start_s, before[-1].end_s - IDLE_TAIL_S), before[-1].end_s)
    part = inside(recording, load)
    with np.errstate(all="ignore"):
        draws = float(np.nanmedian(recording.values[power][part]))
    if not draws > DRAWS_W:
        return None
    found = [
        (forecast, of)
        for of, watts in _sources(recording, power, part)
        if (forecast := _fitted(recording, hot, watts, idle, part)) is not None
    ]
    if not found:
        return None
    # Whether the package's power counts the graphics' the log does not say: what explains the chip best does.
    best, of = min(found, key=lambda one: one[0].network.residual_k)
    return GraphicsHeat(
        Measured(best.steady_c, best.half_width), main_time_constants(best.network), best.network, of
    )


def _sources(recording: Recording, power: int, part: slice) -> list[tuple[str, Array]]:
    """The heat that may be what warms it, each of shape (n,), W."""
    own, package = recording.values[power], recording.package_power
    if package is None or package == power:
        return [(OWN, own)]
    beside = recording.values[package]
    with np.errstate(all="ignore"):
        alone = np.nanmedian(beside[part]) <= BESIDE_SHARE * np.nanmedian(own[part])
    return [(OWN, own)] if alone else [(BOTH, own + beside), (BOTH, beside)]


def _fitted(recording: Recording, hot: int, watts: Array, idle: slice, part: slice) -> Forecast | None:
    base_c, base_w = recording.values[hot][idle][:-1], watts[idle][:-1]
    if not np.isfinite(base_c).any() or not np.isfinite(base_w).any():
        return None
    return fit_forecast(
        recording.time_s[part], despiked(recording.values[hot][part]), watts[part], float(np.nanmedian(base_c)),
        float(np.nanmedian(base_w)),
    )  # fmt: skip
