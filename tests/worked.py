"""Six reviews as practitioners make them, with logs as other programs write them: text files with known answers, and what
was read by hand, entered afterwards."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

IDLE_S, LOAD_S, COOL_S = 120, 1500, 180
ROOM_C = 22.0


@dataclass(frozen=True)
class WorkedRun:
    """One log, the setup it is of, and the lines entered afterwards."""

    setup: str
    text: str
    lines: tuple[str, ...] = ()
    ending: str = ".csv"


@dataclass(frozen=True)
class WorkedReview:
    """A review with its runs. `figure` is what the reviewer chose, `answers` what each setup has of it."""

    name: str
    load: str
    figure: str
    runs: tuple[WorkedRun, ...]
    answers: dict[str, float] = field(default_factory=dict)


def warmed(k: float, start_c: float, end_c: float, tau_s: float) -> float:
    """A part that warms from one temperature to another while the load is on, and back again after it; k in seconds."""
    if k < IDLE_S:
        return start_c
    if k < IDLE_S + LOAD_S:
        return end_c - (end_c - start_c) * math.exp(-(k - IDLE_S) / tau_s)
    top = end_c - (end_c - start_c) * math.exp(-LOAD_S / tau_s)
    return start_c + (top - start_c) * math.exp(-(k - IDLE_S - LOAD_S) / tau_s)


def loaded(k: float) -> bool:
    """Whether the load is on."""
    return IDLE_S <= k < IDLE_S + LOAD_S


def ripple(k: int, size: float) -> float:
    """A sensor's restlessness that is the same every time."""
    return size * math.sin(12.9898 * k) * math.cos(78.233 * k)


def clock(k: int, start_s: int = 66_000) -> str:
    """A time of day."""
    at = start_s + k
    return f"{at // 3600:02d}:{at // 60 % 60:02d}:{at % 60:02d}"


def rows(count: int, line: Callable[[int], Sequence[str]], separator: str) -> str:
    """Lines of cells."""
    return "\n".join(separator.join(line(k)) for k in range(count)) + "\n"


ALL_S = IDLE_S + LOAD_S + COOL_S


def memory(end_c: float) -> str:
    """Two memory modules, processor load, a room probe; a date and a time, quoted titles, a blank last column."""
    head = '"Date","Time","CPU Usage [%]","DIMM A2 Temperature [°C]","DIMM B2 Temperature [°C]","Ambient [°C]",\n'

    def line(k: int) -> list[str]:
        a = warmed(k, 33.0, end_c, 160.0) + ripple(k, 0.15)
        return [
            "04.03.2026",
            clock(k),
            "99.0" if loaded(k) else "2.0",
            f"{a:.1f}",
            f"{a - 2.5:.1f}",
            f"{ROOM_C:.1f}",
            "",
        ]

    return head + rows(ALL_S, line, ",")


def drive(end_c: float, hot_mb_s: float) -> str:
    """A drive that is written to, which slows down once it is over 70 °C; semicolons and decimal commas."""
    head = "Zeit;Laufwerkstemperatur [°C];Read Rate [MB/s];Write Rate [MB/s];CPU-Auslastung [%]\n"

    def line(k: int) -> list[str]:
        heat = warmed(k, 35.0, end_c, 120.0)
        rate = 0.0 if not loaded(k) else hot_mb_s if heat > 70.0 else 3200.0
        cells = (
            heat + ripple(k, 0.2),
            0.0,
            rate + (ripple(k, 20.0) if rate else 0.0),
            6.0 if loaded(k) else 3.0,
        )
        return [clock(k), *(f"{c:.1f}".replace(".", ",") for c in cells)]

    return head + rows(ALL_S, line, ";")


STAND_AT_S = 900
STAND_TAU_S = 41.0
"""Nine tenths of the way after 2.303 time constants: 94 s."""


def stand() -> str:
    """A laptop under graphics load that is put on a stand in mid-run; tabs, seconds since the start."""
    head = "Elapsed (s)\tGPU Temperature (°C)\tGPU Hot Spot Temperature (°C)\tGPU Power (W)\tGPU Clock (MHz)\tGPU Load (%)\n"

    def line(k: int) -> list[str]:
        spot = warmed(k, 45.0, 96.0, 60.0)
        if STAND_AT_S <= k < IDLE_S + LOAD_S:
            spot = 68.0 + 28.0 * math.exp(-(k - STAND_AT_S) / STAND_TAU_S)
        if k >= IDLE_S + LOAD_S:
            spot = 45.0 + 23.0 * math.exp(-(k - IDLE_S - LOAD_S) / STAND_TAU_S)
        busy = loaded(k)
        return [
            str(k), f"{spot - 12.0 + ripple(k, 0.1):.1f}", f"{spot + ripple(k + 7, 0.1):.1f}", "80.0" if busy else "12.0",
            "1500" if busy else "300", "98" if busy else "1",
        ]  # fmt: skip

    return head + rows(ALL_S, line, "\t")


def board(vrm_c: float) -> str:
    """A board's regulators by its own sensor; ISO times, units in a row of their own."""
    head = "Timestamp,CPU Package,VR MOS,CPU Package Power,Room\n,°C,°C,W,°C\n"

    def line(k: int) -> list[str]:
        stamp = f"2026-03-04T{clock(k)}"
        die, vrm = warmed(k, 30.0, 70.0, 30.0), warmed(k, 30.0, vrm_c, 240.0)
        return [
            stamp,
            f"{die + ripple(k, 0.1):.2f}",
            f"{vrm + ripple(k, 0.1):.2f}",
            "95.0" if loaded(k) else "10.0",
            f"{ROOM_C}",
        ]

    return head + rows(ALL_S, line, ",")


FAN_STEPS = ((IDLE_S, 870, 800.0, 74.0), (870, IDLE_S + LOAD_S, 1600.0, 62.0))
"""Each step from, to, at so many rpm, and where the die ends in it."""


def fan_steps() -> str:
    """A cooler whose fan was set to 800 and then to 1600 rpm, in one log."""
    head = "Time,CPU (Tdie) [°C],CPU Package Power [W],CPU Fan [RPM],Core Clock [MHz],Room Temp [°C]\n"
    state = {"die": 30.0}

    def line(k: int) -> list[str]:
        rpm, end_c = next(((r, c) for a, b, r, c in FAN_STEPS if a <= k < b), (500.0, 30.0))
        state["die"] += (end_c - state["die"]) / 35.0
        busy = loaded(k)
        return [
            clock(k), f"{state['die'] + ripple(k, 0.1):.1f}", "95.0" if busy else "10.0", f"{rpm + ripple(k, 8.0):.0f}",
            "4000" if busy else "800", f"{ROOM_C}",
        ]  # fmt: skip

    return head + rows(ALL_S, line, ",")


def single_board(end_c: float) -> str:
    """A single-board computer's own log: seconds from 1970, snake case, millidegrees, no power and no room."""
    head = "epoch,soc_temp_mC,arm_clock_mhz,core_volt_mv,cpu_load_pct\n"

    def line(k: int) -> list[str]:
        heat = warmed(k, 41.0, end_c, 100.0)
        fast = 2400 if heat < 82.0 else 1800
        volt = 880 - (60 if loaded(k) else 0) + ripple(k, 3.0)
        return [
            str(1_772_600_000 + k), f"{1000 * (heat + ripple(k, 0.1)):.0f}", str(fast if loaded(k) else 1500), f"{volt:.0f}",
            "100" if loaded(k) else "3",
        ]  # fmt: skip

    return head + rows(ALL_S, line, ",")


REVIEWS: tuple[WorkedReview, ...] = (
    WorkedReview(
        "Memory coolers", "memory", "steady:temperature:memory",
        (
            WorkedRun("Bare", memory(61.0), ("score 8120 points",)),
            WorkedRun("Quill wing", memory(52.0), ("noise 33 to 36 dBA at 3 ft, phone, background 30", "score 8135 points")),
        ),
        {"Bare": 61.0, "Quill wing": 52.0},
    ),
    WorkedReview(
        "Drive heatsinks", "long write", "steady:temperature:storage",
        (
            WorkedRun("Without", drive(84.0, 900.0), ("room 72 °F", "storage write 1.4 GB/s")),
            WorkedRun("Slab heatsink", drive(62.0, 900.0), ("room 22.4", "storage write 3180 MB/s", "surface 58 °C on ssd heatsink, e 0.95, at 20:00")),
        ),
        {"Without": 84.0, "Slab heatsink": 62.0},
    ),
    WorkedReview(
        "Laptop stand", "graphics", "peak:temperature:hotspot",
        (WorkedRun("Desk, then stand", stand(), ("room 22", "noise not above background 34"), ".tsv"),),
        {"Desk, then stand": 96.0},
    ),
    WorkedReview(
        "Board with a duct", "worst case", "rise:temperature:vrm",
        (
            WorkedRun(
                "Plain", board(88.0),
                ("surface 93 °C on vrm back, e 0.95, at 26:00", "contact 85.5 on vrm heatsink, K1, at 26:00"),
            ),
            WorkedRun("Duct", board(71.0), ("surface 74 °C on vrm back, black tape, at 26:00", "contact 69 on vrm heatsink, K1, at 26:00")),
        ),
        {"Plain": 66.0, "Duct": 49.0},
    ),
    WorkedReview(
        "One cooler, two speeds", "worst case", "",
        (WorkedRun("Osprey 161", fan_steps(), ("noise 24.0 dBA, class 2, background 17, at 12:00", "noise 33.5 dBA, class 2, background 17, at 25:00")),),
        {},
    ),
    WorkedReview(
        "Single-board cases", "video job", "time",
        (
            WorkedRun("Open", single_board(84.0), ("time 17:46", "noise no fan", "room 71 to 73 °F")),
            WorkedRun("Fan case", single_board(60.0), ("time 14:02", "noise 38 at 1 ft, whine", "room 22.1")),
        ),
        {"Open": 1066.0, "Fan case": 842.0},
    ),
)  # fmt: skip


def write_logs(review: WorkedReview, folder: Path) -> list[Path]:
    """The review's logs as files."""
    paths = []
    for k, run in enumerate(review.runs):
        path = folder / f"{review.name.lower().replace(' ', '-')}-{k}{run.ending}"
        path.write_text(run.text, encoding="utf-8")
        paths.append(path)
    return paths
