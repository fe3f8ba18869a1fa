"""A simulated drive: what it moves, how warm that makes it, and where its firmware takes it back."""

from __future__ import annotations

from dataclasses import dataclass

OVER_CASE_K = 9.0
"""A drive with nothing to do is so much warmer than the air around it."""
BACK_PER_K_S = 0.02
"""The share of its rate that its firmware takes back for each kelvin over its limit, a second."""
LEAST_SHARE = 0.2


@dataclass(frozen=True, slots=True)
class DriveSpec:
    """A drive's data sheet and its physics: rates in MB/s and operations a second, `watts` that each draws beside idle,
    resistance to the air in the case, capacity, and the temperature at which it gives way."""

    rates: tuple[tuple[str, float, float], ...] = (
        ("read", 3400.0, 3.6), ("write", 2600.0, 4.4), ("random read", 310_000.0, 3.0), ("random write", 240_000.0, 4.0),
        ("work", 900.0, 2.4),
    )  # fmt: skip
    k_per_w: float = 10.0
    capacity_j_per_k: float = 9.0
    limit_c: float = 78.0

    def doing(self, what: str) -> tuple[float, float]:
        """The rate of one kind of work, and what it draws, W. Raises KeyError."""
        return {name: (rate, watts) for name, rate, watts in self.rates}[what]


class Drive:
    """A drive in motion. `over_k` is by how much it is warmer than with nothing to do, `work_units` what it has moved."""

    def __init__(self, spec: DriveSpec) -> None:
        self.spec = spec
        self.over_k = 0.0
        self.work_units = 0.0
        self._share = 1.0

    def celsius(self, case_c: float) -> float:
        """Its temperature, °C."""
        return case_c + OVER_CASE_K + self.over_k

    def live(self, what: str, seconds: float, case_c: float) -> None:
        """Live for some seconds, doing one kind of work, or nothing."""
        watts = 0.0
        if what:
            rate, full_w = self.spec.doing(what)
            over = self.celsius(case_c) - self.spec.limit_c
            self._share = min(1.0, max(LEAST_SHARE, self._share - BACK_PER_K_S * over * seconds))
            self.work_units += self._share * rate * seconds
            watts = self._share * full_w
        else:
            self._share = 1.0
        out = self.over_k / self.spec.k_per_w
        self.over_k += (watts - out) * seconds / self.spec.capacity_j_per_k
