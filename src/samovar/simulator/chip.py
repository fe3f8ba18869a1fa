"""The simulated processor: what it draws at a clock, and the clock a power allows."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class ChipSpec:
    """A processor's data sheet and its physics. Clocks GHz, power W, temperatures °C, time s.

    Dynamic power is `dynamic_w` · activity · V² · f over all cores; V rises with f; leakage is
    `leakage_w` · V² · exp((T − 50 °C) / 45 K).
    """

    name: str
    cores: int
    base_ghz: float
    boost_ghz: float
    all_core_ghz: float
    limit_c: float
    sustained_w: float
    burst_w: float
    burst_s: float
    dynamic_w: float = 16.0
    uncore_w: float = 10.0
    leakage_w: float = 5.0
    idle_ghz: float = 0.8
    soft_limit_c: float | None = None
    shared_budget_w: float | None = None
    board: str = "Ridge M4"

    def natural_ghz(self, threads: int) -> float:
        """The clock it reaches when nothing binds: full boost for up to two threads, falling evenly
        to the all-core boost."""
        if threads <= 2:
            return self.boost_ghz
        share = min(1.0, (threads - 2) / max(1, self.cores - 2))
        return self.boost_ghz - share * (self.boost_ghz - self.all_core_ghz)


def voltage(ghz: float) -> float:
    """Core voltage at a clock, V: rising ever more steeply."""
    return 0.62 + 0.09 * ghz + 0.011 * ghz * ghz


_GRID_GHZ = [0.4 + 0.005 * i for i in range(1121)]
_GRID_V2F = [voltage(f) ** 2 * f for f in _GRID_GHZ]


def clock_for(v2f: float) -> float:
    """The clock, GHz, at which V²·f reaches a value: the inverse of the table, linear in between."""
    i = bisect_right(_GRID_V2F, v2f)
    if i == 0:
        return _GRID_GHZ[0]
    if i >= len(_GRID_V2F):
        return _GRID_GHZ[-1]
    low, high = _GRID_V2F[i - 1], _GRID_V2F[i]
    return _GRID_GHZ[i - 1] + 0.005 * (v2f - low) / (high - low)
