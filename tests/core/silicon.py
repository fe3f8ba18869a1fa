"""Machines of another make than `behaving` and than the simulator: clocks in whole steps, voltages that rise with them,
a budget kept over a moving average, a ladder of heat capacities, sensors that lag, and meters that average.

Every sample carries what really held the clock and what clock the load would have had, so that a reading can be held
against both.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from samovar.core.facts import Facts
from samovar.core.quantity import Channel
from samovar.core.recording import Recording

TICK_S = 0.5


@dataclass
class Machine:
    """A chip, its governor and what cools it. Clocks MHz, power W, temperatures °C, times s."""

    top: float
    step: float
    full_w: float
    limit: float
    ladder: list[tuple[float, float]] = field(default_factory=list)
    """(heat capacity J/K, resistance to the next K/W) from the die outwards; the last ends in the room."""
    room: float = 22.0
    knee: float = 0.55
    """Below this share of the top clock the voltage stays at its least."""
    leak: float = 0.12
    rest_w: float = 3.0
    """What the package draws besides its cores: memory, interconnect."""
    sustained: float = math.inf
    burst: float = math.inf
    window_s: float = 28.0
    """Over what time the moving average of the power is kept at `sustained`."""
    mind: float = math.inf
    """A die temperature that the firmware minds, under the chip's own limit."""
    palm: float = math.inf
    """The temperature of the outermost node that the firmware minds."""
    cap: float = math.inf
    graphics_inside: bool = False
    """Whether the package's power counts the graphics, and its budget is for both."""
    one_budget: bool = False
    """Whether the graphics take from the processor's budget."""
    gives: float = 0.012
    """How many steps the clock gives way per kelvin over and tick, as a share of all."""


@dataclass
class State:
    """What a script sets for this moment."""

    demand: float = 0.0
    gpu_w: float = 0.4
    draughty: float = 1.0
    """What the outermost resistance is multiplied with."""


Plot = Callable[[float, Machine, State], bool]
"""Called each tick; false ends the run there and then, as a trip does."""


@dataclass
class Course:
    """Rows at TICK_S: what was so."""

    rows: dict[str, np.ndarray]
    truth: np.ndarray
    free: np.ndarray


def run(machine: Machine, plot: Plot, seconds: float) -> Course:
    """Let a machine run through a plot."""
    m = machine
    clocks = np.arange(max(m.step, math.ceil(0.15 * m.top / m.step) * m.step), m.top + 1.0, m.step)
    share = clocks / m.top
    volts = np.maximum(share, m.knee)
    dynamic = (1.0 - m.leak) * m.full_w * share * volts**2
    nodes = [m.room + 0.5] * len(m.ladder)
    average, given, palm_given, owed, state = 0.0, float(m.top), 1.0, 0.0, State()
    names = ("time", "die", "clock", "package", "gpu", "use", "palm")
    kept: dict[str, list[float]] = {name: [] for name in names}
    truth: list[str] = []
    free: list[float] = []
    die_before = palm_before = nodes[0]
    for k in range(round(seconds / TICK_S)):
        t = k * TICK_S
        if not plot(t, m, state):
            break
        die, palm = nodes[0], nodes[-1]
        leak_w = m.leak * m.full_w * max(0.15, 1.0 + 0.011 * (die - 60.0))
        busy = state.demand > 0.5
        shared_w = state.gpu_w if m.one_budget else 0.0
        if busy:
            draws = state.demand * dynamic + leak_w + m.rest_w
            wanted = len(clocks) - 1
            why = "none"
            least = wanted
            # The average still has room at first: that is the burst.
            room_w = max(0.0, m.sustained - average) * (m.window_s / 4.0) + m.sustained
            allowed = min(m.burst, room_w if average < 0.985 * m.sustained else m.sustained)
            by_power = int(np.searchsorted(draws + shared_w, allowed)) - 1
            short = by_power < wanted
            # A governor changes to and fro between two steps, so that their mean keeps the level.
            if short and owed < 0.0:
                by_power += 1
            if by_power < least or short:
                alone = int(np.searchsorted(draws, allowed)) - 1
                least, why = (
                    max(0, by_power),
                    ("shared" if shared_w > 4.0 and alone > by_power + 1 else "power"),
                )
            mind = min(m.limit, m.mind)
            given -= m.gives * m.top * ((die - mind) + 5.0 * (die - die_before)) * TICK_S
            given = min(max(given, clocks[0]), float(clocks[min(len(clocks) - 1, least)]) + 2 * m.step)
            by_heat = int(np.searchsorted(clocks, given, "right")) - 1
            if by_heat < least:
                least, why = max(0, by_heat), ("thermal" if mind == m.limit else "firmware")
            over = palm - m.palm + 40.0 * (palm - palm_before) / TICK_S
            palm_given = min(1.0, max(0.3, palm_given - 0.003 * over * TICK_S)) if m.palm < 900 else 1.0
            by_palm = int(palm_given * (len(clocks) - 1))
            if by_palm < least:
                least, why = by_palm, "firmware"
            by_cap = int(np.searchsorted(clocks, m.cap, "right")) - 1
            if by_cap < least:
                least, why = by_cap, "unexplained"
            clock, watts = float(clocks[least]), float(draws[least])
            owed = min(max(owed + watts + shared_w - allowed, -allowed), allowed) if short else 0.0
        else:
            clock, watts, why, given = float(clocks[0]), 0.25 * leak_w + m.rest_w, "none", m.top
        average += (watts + shared_w - average) * TICK_S / m.window_s
        package = watts + (state.gpu_w if m.graphics_inside else 0.0)
        values = (t, die, clock, package, state.gpu_w, 100.0 * state.demand if busy else 1.0, palm)
        for name, value in zip(names, values, strict=True):
            kept[name].append(value)
        truth.append(why)
        free.append(float(clocks[-1]))
        die_before, palm_before = die, palm
        inflow = watts + (0.7 * state.gpu_w)
        # Small steps keep the smallest capacity stable.
        for _ in range(2):
            flow = inflow
            for i, (capacity, resistance) in enumerate(m.ladder):
                last = i + 1 == len(m.ladder)
                beyond = m.room if last else nodes[i + 1]
                out = (nodes[i] - beyond) / (resistance * (state.draughty if last else 1.0))
                nodes[i] += (flow - out) * (TICK_S / 2) / capacity
                flow = out
    return Course({n: np.array(v) for n, v in kept.items()}, np.array(truth, dtype=object), np.array(free))


@dataclass(frozen=True)
class Log:
    """A course as a log shows it, with what was so at each sample."""

    name: str
    recording: Recording
    truth: np.ndarray
    free: np.ndarray
    clock: np.ndarray
    facts: Facts
    judgement: str | None


def log_of(
    name: str,
    machine: Machine,
    course: Course,
    facts: Facts,
    judgement: str | None,
    seed: int,
    habits: set[str],
) -> Log:
    """Log a course the way some logger would: at an interval, averaged or not, rounded, lagging."""
    rng = np.random.default_rng(seed)
    every = int(rng.choice([2, 2, 4, 10]))
    rows = course.rows
    n = len(rows["time"]) // every
    at = np.arange(n) * every

    def averaged(x: np.ndarray) -> np.ndarray:
        return np.asarray(x[: n * every].reshape(n, every).mean(axis=1))

    die = rows["die"].copy()
    if "slow sensor" in habits:
        for k in range(1, len(die)):
            die[k] = die[k - 1] + (die[k] - die[k - 1]) * TICK_S / 4.0
    step = 1.0 if "coarse" in habits else float(rng.choice([0.1, 0.25, 0.5]))
    noise = float(rng.uniform(0.05, 0.3))
    watts = averaged(rows["package"])
    channels: list[tuple[Channel, np.ndarray]] = [
        (Channel("Hot spot", "temperature", "°C", "die", "cpu"), np.round((die[at] + rng.normal(0, noise, n)) / step) * step),
        (Channel("Socket", "power", "W", "package", "cpu"), np.round(watts * (1 + rng.normal(0, 0.003, n)), 2)),
    ]  # fmt: skip
    if "no use" not in habits:
        channels.append((Channel("Busy", "load", "%", "package", "cpu"), np.clip(np.round(rows["use"][at] - abs(rng.normal(0, 0.4, n))), 0, 100)))  # fmt: skip
    clock = averaged(rows["clock"]) if "mean clocks" in habits else rows["clock"][at]
    wobble = rng.choice([0.0, 2.0, 8.0])
    count = int(rng.choice([1, 4, 6]))
    for c in range(count):
        row = clock + rng.normal(0, wobble, n)
        if "whole steps" in habits:
            row = np.round(row / machine.step) * machine.step
        channels.append((Channel(f"Fast {c}", "clock", "MHz", "core", "cpu"), row))
    if "two groups" in habits:
        for c in range(4):
            channels.append(
                (
                    Channel(f"Small {c}", "clock", "MHz", "core", "cpu"),
                    np.round(0.7 * clock + rng.normal(0, 3, n)),
                )
            )
    if "graphics" in habits:
        gpu = averaged(rows["gpu"])
        channels += [
            (Channel("GT", "power", "W", "gpu", "gpu"), np.round(np.maximum(0.0, gpu + rng.normal(0, 0.05, n)), 2)),
            (Channel("GT clock", "clock", "MHz", "gpu", "gpu"), np.where(gpu > 2.0, 1450.0, rng.choice([300.0, 350.0, 600.0], n))),
            (Channel("GT busy", "load", "%", "gpu", "gpu"), np.where(gpu > 2.0, 97.0, 3.0)),
        ]  # fmt: skip
    if "palm" in habits:
        channels.append((Channel("Palm rest", "temperature", "°C", "surface", "case"), np.round(rows["palm"][at] + rng.normal(0, 0.05, n), 1)))  # fmt: skip
    if "guard" in habits:
        trip = rows["use"][at] < 0
        trip[-max(2, n // 200) :] = True
        channels.append((Channel("Guard tripped", "flag", "", "die", "cpu"), trip.astype(float)))
    kept = slice(0, n)
    if "mid-load" in habits:
        busy = np.flatnonzero(rows["use"][at] > 50)
        kept = slice(int(busy[0] + 0.25 * len(busy)), n)
    values = np.array([row[kept] for _, row in channels])
    time_s = rows["time"][at][kept]
    recording = Recording(tuple(c for c, _ in channels), time_s - time_s[0], values)
    return Log(
        f"{name} ({', '.join(sorted(habits))})", recording, course.truth[at][kept], course.free[at][kept], rows["clock"][at][kept],
        facts, judgement,
    )  # fmt: skip
