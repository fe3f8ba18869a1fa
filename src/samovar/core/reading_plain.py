"""A reading as plain dictionaries and back, without loss: how findings are kept between sessions."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from samovar.core.graphics_heat import GraphicsHeat
from samovar.core.held.stretches import HeldStretch
from samovar.core.measured import Measured
from samovar.core.peaks import Peak, Spike
from samovar.core.phases import Phase
from samovar.core.quantity import Channel
from samovar.core.reading import Reading, SteadyFigures, ThermalFigures
from samovar.core.recording import Gap
from samovar.core.steady import Drift, SteadyWindow
from samovar.core.thermal import FosterNetwork


def to_plain(reading: Reading) -> dict[str, Any]:
    """Dictionaries, lists, strings and numbers only."""
    return asdict(reading)


def from_plain(plain: dict[str, Any]) -> Reading:
    """The reading again.

    Raises:
        KeyError, TypeError: not what `to_plain` made.
    """
    window, thermal, forecast = plain["window"], plain["thermal"], plain["forecast"]
    if window is not None:
        drift = window["drift"]
        window = SteadyWindow(**{**window, "drift": None if drift is None else Drift(**drift)})
    if thermal is not None:
        network = thermal["network"]
        if network is not None:
            network = _network(network)
        thermal = ThermalFigures(
            **{**thermal, "network": network, "time_constants_s": tuple(thermal["time_constants_s"])}
        )
    return Reading(
        **{
            **plain,
            "gaps": [Gap(**g) for g in plain["gaps"]],
            "channels": tuple(Channel(**c) for c in plain["channels"]),
            "phases": [Phase(**p) for p in plain["phases"]],
            "window": window,
            "steady": {k: SteadyFigures(**v) for k, v in plain["steady"].items()},
            "peak": {k: Peak(**v) for k, v in plain["peak"].items()},
            "spikes": [Spike(**s) for s in plain.get("spikes", [])],
            "held": [HeldStretch(**h) for h in plain["held"]],
            "held_graphics": [HeldStretch(**h) for h in plain["held_graphics"]],
            "thermal": thermal,
            "forecast": None if forecast is None else Measured(**forecast),
            "outline": tuple(plain["outline"]),
            "room": None if plain["room"] is None else Measured(**plain["room"]),
            "graphics": None if plain["graphics"] is None else _graphics(plain["graphics"]),
        }
    )


def _network(plain: dict[str, Any]) -> FosterNetwork:
    return FosterNetwork(
        tuple(plain["resistance_k_per_w"]), tuple(plain["time_constant_s"]), plain["base_c"], plain["base_w"],
        plain["residual_k"],
    )  # fmt: skip


def _graphics(plain: dict[str, Any]) -> GraphicsHeat:
    return GraphicsHeat(
        Measured(**plain["heading_c"]),
        tuple(plain["time_constants_s"]),
        _network(plain["network"]),
        plain["power_of"],
    )
