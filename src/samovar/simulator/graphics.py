"""A simulated graphics side: its clock under its own budget, a shared one and its own limit, and how warm it gets."""

from __future__ import annotations

from dataclasses import dataclass

CLOCK_POWER = 2.4
"""Power grows with so high a power of the clock: voltage rises with it."""
CLOCK_STEP = 0.5
"""A clock goes so far towards its target in each step of 0.05 s."""
FIRMWARE_PER_K_S = 0.02
"""By which share of its range the clock is taken back for each kelvin over its limit, a second."""
FIRST_SHARE = 0.6
"""Of a budget that processor and graphics share the graphics side may take so much, the processor has the rest."""


@dataclass(frozen=True, slots=True)
class GraphicsSpec:
    """A graphics side's data sheet and its physics.

    Attributes:
        driver: what its kernel driver is called.
        boost_mhz, idle_mhz: its clock where nothing is in the way, and with nothing to do.
        power_w: its own budget.
        limit_c: of its hottest place.
        inside: whether it sits in the processor's package, and warms its spreader; else the cooler they share.
        k_per_w: from its die to what it sits on.
        capacity_j_per_k: of its die.
        hotspot_k_per_w, memory_k_per_w: by how much hotspot and memory are warmer than its die, for each watt.
    """

    driver: str
    boost_mhz: float
    idle_mhz: float
    power_w: float
    limit_c: float
    inside: bool
    k_per_w: float
    capacity_j_per_k: float
    hotspot_k_per_w: float = 0.25
    memory_k_per_w: float = 0.12


class Graphics:
    """A graphics side in motion; `step` moves it on by 0.05 s.

    Attributes:
        die_c, clock_mhz, power_w: its state now.
        work_units: what it has done, `energy_j` what that took.
        bound: what held its clock in the last step: none, power, shared, thermal.
    """

    def __init__(self, spec: GraphicsSpec, sits_on_c: float) -> None:
        self.spec = spec
        self.die_c = sits_on_c
        self.clock_mhz = spec.idle_mhz
        self.power_w = 0.0
        self.work_units = 0.0
        self.energy_j = 0.0
        self.bound = "none"
        self.busy = 0.0
        self._cap = 1.0

    @property
    def hotspot_c(self) -> float:
        """Its hottest place, °C."""
        return self.die_c + self.spec.hotspot_k_per_w * self.power_w

    @property
    def memory_c(self) -> float:
        """Its memory, °C."""
        return self.die_c + self.spec.memory_k_per_w * self.power_w

    def step(
        self,
        wanted_w: float,
        budget_w: float | None,
        processor_busy: bool,
        sits_on_c: float,
        dt: float,
        work_per_mhz: float = 0.0,
    ) -> float:
        """Live for `dt` seconds; the heat that flows into what it sits on, W.

        Args:
            wanted_w: what its load would draw at its full clock; 0 with nothing to do.
            budget_w: what it shares with the processor; None where it shares nothing.
            processor_busy: whether the processor wants its part of that.
            sits_on_c: the temperature of what it sits on, °C.
            work_per_mhz: what its load gets done a second for each MHz.
        """
        spec = self.spec
        self.busy = min(1.0, wanted_w / spec.power_w) if wanted_w > 0.0 else 0.0
        self.bound = "none"
        share = 1.0
        if wanted_w > 0.0:
            for allowed_w, why in (
                (spec.power_w, "power"),
                (None if budget_w is None else budget_w * (FIRST_SHARE if processor_busy else 1.0), "shared"),
            ):
                most = 1.0 if allowed_w is None else (allowed_w / wanted_w) ** (1.0 / CLOCK_POWER)
                if most < share:
                    share, self.bound = most, why
            over = self.hotspot_c - (spec.limit_c - 0.5)
            self._cap = min(
                1.0, max(spec.idle_mhz / spec.boost_mhz, self._cap - FIRMWARE_PER_K_S * over * dt)
            )
            if self._cap < share:
                share, self.bound = self._cap, "thermal"
        else:
            self._cap = 1.0
        target = share * spec.boost_mhz if wanted_w > 0.0 else spec.idle_mhz
        self.clock_mhz += (target - self.clock_mhz) * CLOCK_STEP
        self.power_w = wanted_w * (self.clock_mhz / spec.boost_mhz) ** CLOCK_POWER
        self.energy_j += self.power_w * dt
        self.work_units += work_per_mhz * self.clock_mhz * dt if wanted_w > 0.0 else 0.0
        out = (self.die_c - sits_on_c) / spec.k_per_w
        self.die_c += (self.power_w - out) * dt / spec.capacity_j_per_k
        return out
