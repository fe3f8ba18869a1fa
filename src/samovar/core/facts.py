"""What is known beforehand about the machine under test: limits, clocks, budgets, the room."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class ProcessorFacts:
    """The processor's data sheet, each value optional. Temperatures °C, clocks MHz, power W, time s."""

    name: str | None = None
    cores: int | None = None
    temperature_limit_c: float | None = None
    base_clock_mhz: float | None = None
    boost_clock_mhz: float | None = None
    sustained_power_w: float | None = None
    burst_power_w: float | None = None
    burst_time_s: float | None = None


@dataclass(frozen=True, slots=True)
class GraphicsFacts:
    """The graphics chip's limit, °C."""

    temperature_limit_c: float | None = None


@dataclass(frozen=True, slots=True)
class RoomFacts:
    """The room's temperature as typed in, °C, with its standard uncertainty in K."""

    temperature_c: float | None = None
    standard_uncertainty_k: float = 0.15


@dataclass(frozen=True, slots=True)
class Facts:
    """All facts about one rig and its room."""

    cpu: ProcessorFacts = field(default_factory=ProcessorFacts)
    gpu: GraphicsFacts = field(default_factory=GraphicsFacts)
    room: RoomFacts = field(default_factory=RoomFacts)
