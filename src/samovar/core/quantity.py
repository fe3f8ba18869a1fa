"""The quantities Samovar measures, their units, and the roles and domains a channel may have."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from samovar.core.shown_text import one_line

UNITS: Final[dict[str, str]] = {
    "temperature": "°C",
    "clock": "MHz",
    "power": "W",
    "fan": "rpm",
    "noise": "dBA",
    "voltage": "V",
    "current": "A",
    "load": "%",
    "work": "1/s",
    "flag": "",
    "humidity": "%",
}
"""The one unit in which each quantity is kept and shown."""

ROLES: Final[tuple[str, ...]] = (
    "die", "core", "hotspot", "gpu", "memory", "storage", "vrm", "chipset", "coolant",
    "inlet", "surface", "package", "wall", "case-fan", "other",
)  # fmt: skip

DOMAINS: Final[tuple[str, ...]] = ("cpu", "gpu", "board", "storage", "memory", "case")

_DOMAIN_OF_ROLE: Final[dict[str, str]] = {
    "die": "cpu", "core": "cpu", "package": "cpu", "gpu": "gpu", "hotspot": "gpu", "memory": "memory",
    "storage": "storage", "vrm": "board", "chipset": "board", "coolant": "case", "inlet": "case",
    "case-fan": "case", "wall": "case", "surface": "board",
}  # fmt: skip


def domain_of(role: str) -> str:
    """The domain a role belongs to; `board` where the role tells nothing."""
    return _DOMAIN_OF_ROLE.get(role, "board")


@dataclass(frozen=True, slots=True)
class Channel:
    """One measured series: what it is, not its values.

    `id` names the same sensor across runs (empty for a log's column), `name` is what people read.
    """

    name: str
    quantity: str
    unit: str
    role: str = "other"
    domain: str = "board"
    id: str = ""

    def __post_init__(self) -> None:
        # Labels and titles come from drivers and strangers' files: what hides in them is shown.
        object.__setattr__(self, "name", one_line(self.name))
        if self.quantity not in UNITS:
            raise ValueError(f"unknown quantity {self.quantity!r}")
        if self.role not in ROLES:
            raise ValueError(f"unknown role {self.role!r}")
        if self.domain not in DOMAINS:
            raise ValueError(f"unknown domain {self.domain!r}")

    @property
    def title(self) -> str:
        """Name and unit as an export's column title carries them, `CPU die (°C)`."""
        return f"{self.name} ({self.unit})" if self.unit else self.name
