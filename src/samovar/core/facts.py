"""What is known beforehand about the machine under test: limits, clocks, budgets, the room."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated

from samovar.core.entered import Line, between, strict

Limit = Annotated[float, between(1.0, 200.0, "°C")]
Clock = Annotated[float, between(1.0, 20_000.0, "MHz")]
Power = Annotated[float, between(0.01, 20_000.0, "W")]


@strict
@dataclass(frozen=True, slots=True)
class ProcessorFacts:
    """The processor's data sheet, each value optional. Temperatures °C, clocks MHz, power W, time s."""

    name: Line | None = None
    cores: Annotated[int, between(1, 4096)] | None = None
    temperature_limit_c: Limit | None = None
    base_clock_mhz: Clock | None = None
    boost_clock_mhz: Clock | None = None
    sustained_power_w: Power | None = None
    burst_power_w: Power | None = None
    burst_time_s: Annotated[float, between(0.0, 86400.0, "s")] | None = None


@strict
@dataclass(frozen=True, slots=True)
class GraphicsFacts:
    """The graphics chip's limit, °C."""

    temperature_limit_c: Limit | None = None


@strict
@dataclass(frozen=True, slots=True)
class RoomFacts:
    """The room's temperature as typed in, °C, with its standard uncertainty in K."""

    temperature_c: Annotated[float, between(-40.0, 80.0, "°C")] | None = None
    standard_uncertainty_k: Annotated[float, between(0.0, 100.0, "K")] = 0.15


@strict
@dataclass(frozen=True, slots=True)
class Facts:
    """All facts about one rig and its room."""

    cpu: ProcessorFacts = field(default_factory=ProcessorFacts)
    gpu: GraphicsFacts = field(default_factory=GraphicsFacts)
    room: RoomFacts = field(default_factory=RoomFacts)
