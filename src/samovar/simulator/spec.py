"""What a simulated rig is made of: cooler, case, fan, and the loads it runs."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, field

from samovar.simulator.chip import ChipSpec
from samovar.simulator.drive import DriveSpec
from samovar.simulator.graphics import GraphicsSpec


@dataclass(frozen=True, slots=True)
class FanSpec:
    """A fan and its controller: points of (°C, rpm), hysteresis in K, lags in s, noise in dBA at 1 m
    at `noise_rpm` (it grows with 50·log10 of the speed). `most_rpm`: what it can do at full speed where its curve does
    not go so far."""

    curve: tuple[tuple[float, float], ...]
    hysteresis_k: float = 3.0
    lag_s: float = 6.0
    spin_s: float = 2.5
    noise_dba: float = 25.0
    noise_rpm: float = 1000.0
    most_rpm: float | None = None

    @property
    def top_rpm(self) -> float:
        """Its full speed, rpm."""
        return self.curve[-1][1] if self.most_rpm is None else self.most_rpm

    def target(self, celsius: float) -> float:
        """The curve's speed at a temperature, rpm."""
        points = self.curve
        if celsius <= points[0][0]:
            return points[0][1]
        for (t0, r0), (t1, r1) in itertools.pairwise(points):
            if celsius <= t1:
                return r0 + (r1 - r0) * (celsius - t0) / (t1 - t0)
        return points[-1][1]


@dataclass(frozen=True, slots=True)
class CoolerSpec:
    """Cooler to case air: resistance `fixed` + `moving`·(1000/rpm)^0.8, bounded by `still` K/W; heat
    capacity in J/K; `paste` K/W from spreader to cooler."""

    fixed_k_per_w: float
    moving_k_per_w: float
    still_k_per_w: float
    capacity_j_per_k: float
    paste_k_per_w: float = 0.07

    def resistance(self, rpm: float) -> float:
        """Resistance to the case air at a fan speed, K/W."""
        if rpm < 50.0:
            return self.still_k_per_w
        return min(self.still_k_per_w, self.fixed_k_per_w + self.moving_k_per_w * (1000.0 / rpm) ** 0.8)


@dataclass(frozen=True, slots=True)
class CaseSpec:
    """Case air to room: K/W; capacity of air and walls, J/K; the case fan's speed and noise."""

    resistance_k_per_w: float = 0.06
    capacity_j_per_k: float = 2200.0
    fan_rpm: float = 620.0
    fan_noise_dba: float = 19.0


@dataclass(frozen=True, slots=True)
class LoadSpec:
    """A load as the chip feels it.

    `activity` scales dynamic power, `work_per_ghz` is work done per second, core and GHz, `duty` the
    busy share of each `period_s`; `gpu_w` what the graphics side would draw at its full clock, from `gpu_from_s` on;
    `gpu_work_per_mhz` what it gets done a second for each MHz; `drive` what the drive does.
    """

    name: str
    activity: float
    work_per_ghz: float
    threads: int = 8
    duty: float = 1.0
    period_s: float = 1.0
    gpu_w: float = 0.0
    gpu_from_s: float = 0.0
    gpu_work_per_mhz: float = 0.0
    drive: str = ""


def together(loads: Sequence[LoadSpec], cores: int) -> LoadSpec:
    """Several loads at once as the chip feels them; the work that is counted is the first one's, which gets
    its share of the cores."""
    if len(loads) == 1:
        return loads[0]
    first = loads[0]
    wanted = sum(load.threads * load.duty for load in loads)
    threads = min(cores, max(1, sum(load.threads for load in loads)))
    felt = sum(load.activity * min(load.threads, cores) * load.duty for load in loads) / cores
    share = min(1.0, cores / wanted) if wanted > 0 else 1.0
    return LoadSpec(
        " + ".join(load.name for load in loads),
        activity=min(1.0, felt) * cores / threads,
        work_per_ghz=first.work_per_ghz * first.threads / threads * share,
        threads=threads,
        gpu_w=sum(load.gpu_w for load in loads),
        gpu_work_per_mhz=next((load.gpu_work_per_mhz for load in loads if load.gpu_work_per_mhz), 0.0),
        drive=next((load.drive for load in loads if load.drive), ""),
    )


@dataclass(frozen=True, slots=True)
class SimulatedSetup:
    """One arrangement: chip, case, cooler, its fan, and the room it stands in. The regulators lose `vrm_loss` of
    the chip's power over `vrm_k_per_w`; the rest of the board draws `board_w`. Without a `graphics` side of its own, what a
    load draws there warms the chip's spreader."""

    name: str
    chip: ChipSpec
    cooler: CoolerSpec
    fan: FanSpec
    case: CaseSpec = field(default_factory=CaseSpec)
    room_c: float = 22.5
    room_drift_k_per_h: float = 0.0
    vrm_k_per_w: float = 5.2
    vrm_loss: float = 0.065
    board_w: float = 14.0
    graphics: GraphicsSpec | None = None
    drive: DriveSpec = field(default_factory=DriveSpec)
