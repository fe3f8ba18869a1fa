"""The voice booth playout PC of Harbour FM: its chip, coolers and loads. All of it is made up."""

from __future__ import annotations

from dataclasses import replace

from samovar.simulator.chip import ChipSpec
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
}

SETUPS = {
    "Plain 65": SimulatedSetup(
        "Plain 65",
        HALDEN_8,
        CoolerSpec(0.36, 0.60, 1.6, 250.0, paste_k_per_w=0.10),
        FanSpec(((40, 1100), (60, 1700), (80, 2600), (92, 2900)), noise_dba=23.5, noise_rpm=1400.0),
        LARCH_C2,
    ),
    "Tern L9": SimulatedSetup(
        "Tern L9",
        HALDEN_8,
        CoolerSpec(0.26, 0.37, 1.4, 310.0),
        FanSpec(((40, 700), (60, 1200), (85, 1900)), noise_dba=22.0, noise_rpm=1300.0),
        LARCH_C2,
    ),
    "Osprey D14": SimulatedSetup(
        "Osprey D14",
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


def setup_in_room(name: str, room_c: float, drift_k_per_h: float = 0.0) -> SimulatedSetup:
    """A Harbour FM setup on a day with this room temperature, °C.

    Raises:
        KeyError: no such setup.
    """
    return replace(SETUPS[name], room_c=room_c, room_drift_k_per_h=drift_k_per_h)
