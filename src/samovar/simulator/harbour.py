"""The machines of Harbour FM: chips, coolers, cases and loads. All of it is made up."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from samovar.simulator.chip import ChipSpec
from samovar.simulator.graphics import GraphicsSpec
from samovar.simulator.spec import CaseSpec, CoolerSpec, FanSpec, LoadSpec, SimulatedSetup

HALDEN_8 = ChipSpec(
    name="Halden 8",
    cores=8,
    base_ghz=3.4,
    boost_ghz=4.9,
    all_core_ghz=4.55,
    limit_c=95.0,
    sustained_w=95.0,
    burst_w=142.0,
    burst_s=28.0,
)

LARCH_C2 = CaseSpec()

LOADS = {
    "everyday": LoadSpec("everyday", activity=0.62, work_per_ghz=26.0, threads=2, duty=0.4, period_s=10.0),
    "heavy work": LoadSpec("heavy work", activity=0.8, work_per_ghz=31.0),
    "worst case": LoadSpec("worst case", activity=1.0, work_per_ghz=26.8),
    "large transforms": LoadSpec("large transforms", activity=0.72, work_per_ghz=13.5),
    "memory": LoadSpec("memory", activity=0.46, work_per_ghz=190.0),
    "compression": LoadSpec("compression", activity=0.66, work_per_ghz=4.2),
    "game-like": LoadSpec("game-like", activity=0.7, work_per_ghz=21.0, threads=6, duty=0.93, period_s=20.0),
    "storage": LoadSpec("storage", activity=0.3, work_per_ghz=310.0, threads=1, drive="work"),
    "storage read": LoadSpec("storage read", activity=0.15, work_per_ghz=0.0, threads=1, drive="read"),
    "storage write": LoadSpec("storage write", activity=0.15, work_per_ghz=0.0, threads=1, drive="write"),
    "storage random read": LoadSpec(
        "storage random read", activity=0.35, work_per_ghz=0.0, threads=1, drive="random read"
    ),
    "storage random write": LoadSpec(
        "storage random write", activity=0.35, work_per_ghz=0.0, threads=1, drive="random write"
    ),
}
"""What each of the program's loads is to these chips; `idle` is none."""

GRAPHICS_LOADS: dict[str, tuple[float, float]] = {
    "graphics arithmetic": (1.0, 5.5), "graphics memory": (0.75, 22.0), "graphics drawing": (0.9, 1.4),
}  # fmt: skip
"""Loads of the graphics side: the share of its budget that each draws at the full clock, and its work for each MHz."""


def graphics_load(name: str, graphics: GraphicsSpec) -> LoadSpec:
    """A load of the graphics side, as this one feels it; a thread of the processor feeds it."""
    share, per_mhz = GRAPHICS_LOADS[name]
    return LoadSpec(
        name, activity=0.2, work_per_ghz=0.0, threads=1, gpu_w=share * graphics.power_w, gpu_work_per_mhz=per_mhz
    )  # fmt: skip


PEBBLE_GRAPHICS = GraphicsSpec("pebble_gpu", 1100.0, 300.0, 10.0, 95.0, True, 0.9, 2.0)
MERLE_GRAPHICS = GraphicsSpec("merle_gpu", 1950.0, 300.0, 42.0, 87.0, False, 0.42, 14.0)
"""A graphics chip beside the processor, under the same fins."""

PEBBLE_K4 = ChipSpec(
    name="Pebble K4",
    cores=4,
    base_ghz=2.1,
    boost_ghz=3.8,
    all_core_ghz=3.3,
    limit_c=90.0,
    sustained_w=15.0,
    burst_w=25.0,
    burst_s=28.0,
    dynamic_w=6.4,
    uncore_w=2.6,
    leakage_w=1.6,
    idle_ghz=0.7,
    shared_budget_w=20.0,
    board="Pebble K4",
)

PEBBLE_K2 = replace(
    PEBBLE_K4,
    name="Pebble K2",
    cores=2,
    base_ghz=1.8,
    boost_ghz=3.4,
    all_core_ghz=3.1,
    sustained_w=10.0,
    burst_w=12.0,
    shared_budget_w=13.0,
    board="Pebble K2",
)

RIDGE_B7 = ChipSpec(
    name="Ridge B7",
    cores=4,
    base_ghz=1.5,
    boost_ghz=2.4,
    all_core_ghz=2.4,
    limit_c=85.0,
    sustained_w=12.0,
    burst_w=12.0,
    burst_s=10.0,
    dynamic_w=6.0,
    uncore_w=1.8,
    leakage_w=1.0,
    idle_ghz=0.6,
    board="Ridge B7",
)

HALDEN_6U = ChipSpec(
    name="Halden 6U",
    cores=6,
    base_ghz=2.2,
    boost_ghz=4.6,
    all_core_ghz=3.9,
    limit_c=98.0,
    sustained_w=32.0,
    burst_w=54.0,
    burst_s=28.0,
    dynamic_w=9.5,
    uncore_w=3.0,
    leakage_w=2.2,
    idle_ghz=0.5,
    shared_budget_w=62.0,
    board="Wigeon S14",
)

_PEBBLE_COOLER = CoolerSpec(0.9, 0.75, 4.0, 60.0, paste_k_per_w=0.25)
_PEBBLE_FAN = FanSpec(((40, 1800), (60, 2600), (80, 4200)), noise_dba=33.0, noise_rpm=3600.0, lag_s=4.0)
_FLIGHT_CASE = CaseSpec(1.05, 420.0, 0.0, 12.0)
_VENTED_CASE = CaseSpec(0.30, 420.0, 1500.0, 27.0)
_OPEN_CASE, _AGAINST = CaseSpec(0.55, 320.0, 0.0, 12.0), CaseSpec(0.95, 320.0, 1500.0, 27.0)
"""The smaller flight case has slots of its own: a vent kit there blows against the computer's own fan."""
_K2_COOLER = CoolerSpec(1.2, 0.9, 4.0, 45.0, paste_k_per_w=0.3)
_RIDGE_COOLER = CoolerSpec(2.6, 1.2, 3.6, 85.0, paste_k_per_w=0.3)
_SLIM_COOLER = CoolerSpec(0.20, 0.95, 2.4, 190.0, paste_k_per_w=0.16)
_SLIM_FANS = FanSpec(
    ((45, 1900), (60, 3000), (80, 4300), (92, 5200)), noise_dba=37.0, noise_rpm=4300.0, lag_s=5.0
)
_STILL = FanSpec(((0, 0), (1000, 0)))
_DUCT_FAN = FanSpec(((0, 1400), (1000, 1400)), noise_dba=24.0, noise_rpm=1400.0)


def _pebble(name: str, case: CaseSpec, sustained_w: float = PEBBLE_K4.sustained_w) -> SimulatedSetup:
    chip = replace(PEBBLE_K4, sustained_w=sustained_w)
    return SimulatedSetup(
        name, chip, _PEBBLE_COOLER, _PEBBLE_FAN, case, 34.0, board_w=5.0, graphics=PEBBLE_GRAPHICS
    )  # fmt: skip


def _spare(name: str, case: CaseSpec) -> SimulatedSetup:
    return SimulatedSetup(
        name, PEBBLE_K2, _K2_COOLER, _PEBBLE_FAN, case, 34.0, board_w=3.0, graphics=PEBBLE_GRAPHICS
    )  # fmt: skip


def _laptop(name: str, under_it_k_per_w: float) -> SimulatedSetup:
    under = CaseSpec(under_it_k_per_w, 620.0, 0.0, 14.0)
    return SimulatedSetup(
        name, HALDEN_6U, _SLIM_COOLER, _SLIM_FANS, under, 23.0, board_w=7.0, graphics=MERLE_GRAPHICS
    )  # fmt: skip


SETUPS = {
    "Closed": _pebble("Closed", _FLIGHT_CASE),
    "Vent kit": _pebble("Vent kit", _VENTED_CASE),
    "Closed, 22 W": _pebble("Closed, 22 W", _FLIGHT_CASE, 22.0),
    "Vent kit, 22 W": _pebble("Vent kit, 22 W", _VENTED_CASE, 22.0),
    "K2, closed": _spare("K2, closed", _OPEN_CASE),
    "K2, vent kit": _spare("K2, vent kit", _AGAINST),
    "Flat on the desk": _laptop("Flat on the desk", 0.24),
    "On the stand": _laptop("On the stand", 0.13),
    "As delivered": SimulatedSetup(
        "As delivered",
        RIDGE_B7,
        _RIDGE_COOLER,
        _STILL,
        CaseSpec(0.9, 380.0, 0.0, 12.0),
        27.0,
        vrm_k_per_w=34.0,
        vrm_loss=0.11,
        board_w=6.0,
    ),
    "With duct": SimulatedSetup(
        "With duct",
        RIDGE_B7,
        _RIDGE_COOLER,
        _DUCT_FAN,
        CaseSpec(0.55, 380.0, 0.0, 12.0),
        27.0,
        vrm_k_per_w=17.0,
        vrm_loss=0.11,
        board_w=6.0,
    ),
    "Plain 65": SimulatedSetup(
        "Plain 65",
        HALDEN_8,
        CoolerSpec(0.36, 0.60, 1.6, 250.0, paste_k_per_w=0.10),
        FanSpec(((40, 1100), (60, 1700), (80, 2600), (92, 2900)), noise_dba=23.5, noise_rpm=1400.0),
        LARCH_C2,
    ),
    "Tern 47": SimulatedSetup(
        "Tern 47",
        HALDEN_8,
        CoolerSpec(0.26, 0.37, 1.4, 310.0),
        FanSpec(((40, 700), (60, 1200), (85, 1900)), noise_dba=22.0, noise_rpm=1300.0),
        LARCH_C2,
    ),
    "Osprey 161": SimulatedSetup(
        "Osprey 161",
        HALDEN_8,
        CoolerSpec(0.08, 0.13, 0.9, 640.0),
        FanSpec(((40, 500), (60, 800), (75, 1000)), noise_dba=23.5, noise_rpm=1000.0),
        LARCH_C2,
    ),
    "Fjord 280": SimulatedSetup(
        "Fjord 280",
        HALDEN_8,
        CoolerSpec(0.07, 0.095, 0.6, 980.0),
        FanSpec(((40, 600), (60, 900), (75, 1250)), noise_dba=26.5, noise_rpm=1000.0),
        LARCH_C2,
    ),
    "Loam P": SimulatedSetup(
        "Loam P",
        HALDEN_8,
        CoolerSpec(0.10, 0.165, 0.72, 820.0),
        FanSpec(((48, 0), (52, 420), (75, 640), (88, 900)), noise_dba=17.0, noise_rpm=640.0),
        LARCH_C2,
    ),
}


def changed(setup: SimulatedSetup, changes: Mapping[str, Any]) -> SimulatedSetup:
    """A setup with those changes that the simulation knows: fan speed or duty, budgets, panel."""
    fan, chip, case = setup.fan, setup.chip, setup.case
    rpm = changes.get("fan_rpm")
    if rpm is None and changes.get("fan_share") is not None:
        rpm = float(changes["fan_share"]) * fan.top_rpm
    if rpm is not None:
        fan = replace(fan, curve=((0.0, float(rpm)), (1000.0, float(rpm))), most_rpm=fan.top_rpm)
    if changes.get("sustained_power_w") is not None:
        chip = replace(chip, sustained_w=float(changes["sustained_power_w"]))
    if changes.get("burst_power_w") is not None:
        chip = replace(chip, burst_w=float(changes["burst_power_w"]))
    if chip.burst_w < chip.sustained_w:
        chip = replace(chip, burst_w=chip.sustained_w)
    if changes.get("panel") in ("off", "vented"):
        case = replace(case, resistance_k_per_w=0.55 * case.resistance_k_per_w)
    return replace(setup, fan=fan, chip=chip, case=case)


def setup_in_room(name: str, room_c: float, drift_k_per_h: float = 0.0) -> SimulatedSetup:
    """A Harbour FM setup on a day with this room temperature, °C.

    Raises:
        KeyError: no such setup.
    """
    return replace(SETUPS[name], room_c=room_c, room_drift_k_per_h=drift_k_per_h)
