"""A rig: what is known of a test machine, its sensors' roles, its probe and meter, the room in it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from samovar.core.facts import Facts, GraphicsFacts, ProcessorFacts, RoomFacts
from samovar.core.fields import Field
from samovar.core.fit import CLEARANCES

_CHIP, _PARTS, _FIRMWARE, _METER = "processor", "parts", "firmware and system", "room probe and sound meter"
_RATES = "samples a second"
_MEASURED = "how it is measured"

FACT_FIELDS: tuple[Field, ...] = (
    Field("cpu.name", "processor", section=_CHIP, example="Halden 8"),
    Field("cpu.cores", "cores", "count", section=_CHIP, example="8"),
    Field("cpu.temperature_limit_c", "temperature limit", "temperature", section=_CHIP, example="95 °C"),
    Field("cpu.base_clock_mhz", "base clock", "clock", section=_CHIP),
    Field("cpu.boost_clock_mhz", "boost clock", "clock", section=_CHIP, example="4.9 GHz"),
    Field("cpu.sustained_power_w", "sustained budget", "power", section=_CHIP, example="95 W"),
    Field("cpu.burst_power_w", "burst budget", "power", section=_CHIP, example="142 W"),
    Field("cpu.burst_time_s", "burst time", "time", section=_CHIP, example="28 s"),
    Field("gpu.temperature_limit_c", "graphics limit", "temperature", section=_CHIP, example="90 °C"),
)
"""The facts a reading goes by, under the names of FACTS.toml."""

DETAIL_FIELDS: tuple[Field, ...] = (
    Field("memory", "memory", section=_PARTS, example="2 x 16 GB Quill 6000"),
    Field("graphics", "graphics", section=_PARTS, example="on the processor"),
    Field("storage", "storage", section=_PARTS, example="Silt 1 TB"),
    Field("board", "board", section=_PARTS, example="Ridge M4"),
    Field("case", "case", section=_PARTS, example="Larch C2"),
    Field("supply", "power supply", section=_PARTS, example="Moor 450"),
    Field("system", "operating system", section=_FIRMWARE, example="Linux 6.9"),
    Field("firmware", "firmware version", section=_FIRMWARE, example="1.14"),
    Field("power_plan", "power plan", section=_FIRMWARE, example="performance"),
    Field("fan_profile", "fan profile", section=_FIRMWARE, example="standard"),
    Field("voltage_offset_v", "voltage offset", "voltage", section=_FIRMWARE, example="-50 mV"),
    Field("room_probe", "room probe", section=_METER, example="USB probe, 30 cm before the inlet"),
    Field("room_half_width_k", "its half-width", "difference", section=_METER, example="0.3 K"),
    Field("room_temperature_c", "room, where no probe", "temperature", section=_METER, example="22.5 °C"),
    Field("meter_class", "sound meter class", "choice", ("class 1", "class 2", "phone"), section=_METER),
    Field("meter_distance_m", "distance", "length", section=_METER, example="1 m"),
    Field("background_dba", "background", "level", section=_METER, example="17 dBA"),
    Field("rate_hz", "clocks, power, die", "number", section=_RATES, example="1, at most 20"),
    Field("slow_rate_hz", "slow probes, fans", "number", section=_RATES, example="1, never more than the above"),
    *CLEARANCES,
)  # fmt: skip
"""Everything else of a rig, kept by these keys."""
REACHED_BY, INSTRUMENTS_FILE = "reached_by", "instruments_file"
BENCH_FIELDS: tuple[Field, ...] = (
    Field(REACHED_BY, "machine reached by", section=_MEASURED, example="ssh bench@pebble samovar agent"),
    Field(INSTRUMENTS_FILE, "instruments in", section=_MEASURED, example="~/bench/instruments.toml"),
)
"""How this bench gets at it. No document takes them along: they are no business of readers', and a command out of a
stranger's document must not be run."""
RIG_FIELDS = (*FACT_FIELDS, *DETAIL_FIELDS, *BENCH_FIELDS)

METER_HALF_WIDTH_DB = {"class 1": 1.1, "class 2": 1.4, "phone": 5.0}
"""95 % half-widths of a reading: the tolerance limits of IEC 61672-1:2002 (table 2) at 1 kHz, which hold for the
instrument and the laboratory that tested it together. The edition of 2013 states the two apart (acceptance limits of 0.7
and 1.0 dB, the laboratory's uncertainty beside them); what a reader has to reckon with is their sum. And what phones
were found to differ among each other."""


@dataclass(frozen=True, slots=True)
class Rig:
    """One test machine. `details` by the keys of DETAIL_FIELDS, `sensors` the confirmed role of each channel
    id; `state` is kept, archived or deleted, `revision` counts its changes."""

    id: int
    name: str
    facts: Facts = field(default_factory=Facts)
    details: dict[str, Any] = field(default_factory=dict)
    sensors: dict[str, str] = field(default_factory=dict)
    state: str = "kept"
    revision: int = field(default=0, compare=False)

    @property
    def full_facts(self) -> Facts:
        """The facts with the room as the rig's probe, or the reviewer, knows it."""
        half = self.details.get("room_half_width_k")
        typed = self.details.get("room_temperature_c")
        known = self.facts.room
        room = RoomFacts(
            known.temperature_c if typed is None else float(typed),
            known.standard_uncertainty_k if half is None else float(half) / 2.0,
        )
        return replace(self.facts, room=room)

    def values(self) -> dict[str, Any]:
        """Facts and details in one dictionary, by the keys of RIG_FIELDS."""
        out: dict[str, Any] = dict(self.details)
        for f in FACT_FIELDS:
            part, _, key = f.key.partition(".")
            value = getattr(getattr(self.facts, part), key)
            if value is not None:
                out[f.key] = value
        return out


def split_values(values: Mapping[str, Any], facts: Facts | None = None) -> tuple[Facts, dict[str, Any]]:
    """Facts and details out of values by the keys of RIG_FIELDS; `facts` gives the room's, kept as they are."""
    parts: dict[str, dict[str, Any]] = {"cpu": {}, "gpu": {}}
    for f in FACT_FIELDS:
        part, _, key = f.key.partition(".")
        if values.get(f.key) is not None:
            parts[part][key] = values[f.key]
    found = Facts(ProcessorFacts(**parts["cpu"]), GraphicsFacts(**parts["gpu"]), (facts or Facts()).room)
    return found, {k: v for k, v in values.items() if "." not in k and v is not None}


def without_bench(values: Mapping[str, Any]) -> dict[str, Any]:
    """Values by the keys of RIG_FIELDS without those that are about this bench."""
    ours = {f.key for f in BENCH_FIELDS}
    return {k: v for k, v in values.items() if k not in ours}


def rates_of(rig: Rig | None) -> tuple[float, float]:
    """How often a rig is sampled, Hz: clocks, powers and the chip's temperatures, and everything else. Once a
    second where nothing is set; from 0.1 to 20, and the slow sensors never faster than the fast."""
    details = rig.details if rig else {}
    fast = min(20.0, max(0.1, float(details.get("rate_hz") or 1.0)))
    return fast, min(fast, max(0.1, float(details.get("slow_rate_hz") or min(fast, 1.0))))


def meter_class(rig: Rig | None) -> str:
    """The class of a rig's sound meter; class 2, the usual one, where it is not known."""
    named = rig.details.get("meter_class") if rig else None
    return named if named in METER_HALF_WIDTH_DB else "class 2"
