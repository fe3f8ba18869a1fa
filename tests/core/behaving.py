"""Processors as they behave, made by other means than the simulator: each story has one thing to be seen or not to be.

A chip of any size under a governor that regulates power, temperature or neither, stepped at five hertz and then
logged the way loggers log: at some interval, rounded, with noise, spikes, gaps and columns that are missing. Every
sample carries what really held the clock, so that a reading can be held against it.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from samovar.core.facts import Facts, ProcessorFacts
from samovar.core.quantity import Channel
from samovar.core.recording import Recording

STEP_S = 0.2


@dataclass
class Chip:
    """What a chip is, and what its governor minds. Clocks MHz, power W, temperatures °C, times s."""

    natural: float
    base: float
    limit: float
    heat_w: float
    room: float = 23.0
    stages: list[tuple[float, float]] = field(default_factory=list)
    budget: float = math.inf
    burst: float = math.inf
    burst_s: float = 0.0
    policy_c: float = math.inf
    skin_c: float = math.inf
    """What a policy lets the case's skin come to: a slow temperature apart from the die's."""
    cap_mhz: float = math.inf
    together_w: float = math.inf
    saw_k: float = 0.0
    gain: float = 0.02
    ripple: float = 0.0
    droop: float = 0.0
    leak: float = 0.08


@dataclass
class Now:
    """The conditions of one moment, which a story changes as it goes on."""

    load: float = 0.0
    share: float = 1.0
    """How much of the chip the load keeps busy: fewer threads are less of it."""
    heavier: float = 1.0
    lower: float = 1.0
    """The natural clock of another kind of load, as a share of the first one's."""
    gpu_w: float = 1.0
    cooling: float = 1.0
    """What the path to the room is multiplied with: over one for a fan that stands still."""
    room_k: float = 0.0


Script = Callable[[float, Chip, Now], None]


@dataclass
class Trace:
    """Rows of one story at STEP_S: what was so, before any logger saw it."""

    time_s: np.ndarray
    die: np.ndarray
    clock: np.ndarray
    power: np.ndarray
    gpu: np.ndarray
    use: np.ndarray
    room: np.ndarray
    skin: np.ndarray
    truth: np.ndarray


def live(chip: Chip, script: Script, seconds: float, seed: int) -> Trace:
    """Let the chip live through a story."""
    rng = random.Random(seed)
    n = round(seconds / STEP_S)
    rows = np.zeros((8, n))
    truth = np.full(n, "none", dtype=object)
    state = [0.0] * len(chip.stages)
    clock, thermal_mhz, sawing, sawn, since = chip.natural, chip.natural, False, False, 0.0
    now, skin_k, given = Now(), 0.0, 1.0
    watts = 0.06 * chip.heat_w
    idle_w = watts
    for k in range(n):
        t = k * STEP_S
        script(t, chip, now)
        room = chip.room + now.room_k
        die = room + now.cooling * sum(state)
        on = now.load > 0
        since = since + STEP_S if on else 0.0
        natural = chip.natural * now.lower * (1.0 - chip.droop * max(0.0, die - 40.0) / 40.0)

        def draws(mhz: float, die_c: float = die) -> float:
            f = mhz / chip.natural
            dynamic = now.heavier * now.share * f * (0.55 + 0.45 * f) ** 2
            return (
                chip.heat_w * ((1 - chip.leak) * dynamic + chip.leak * math.exp((die_c - 60) / 50)) + idle_w
            )

        why, target = "none", natural
        if on:
            # The burst is given up over a few seconds, as an average over time falls through it.
            burst = chip.burst if since < chip.burst_s else chip.budget
            together = max(chip.together_w, burst) if since < chip.burst_s else chip.together_w
            allowed = min(burst, together - now.gpu_w)
            swing = 1.0 + chip.ripple * math.sin(t / 1.7) + rng.gauss(0, 0.3 * chip.ripple)
            if draws(target) > allowed * swing:
                low, high = 0.15 * chip.natural, target
                for _ in range(18):
                    mid = 0.5 * (low + high)
                    low, high = (mid, high) if draws(mid) < allowed * swing else (low, mid)
                target = low
                why = "shared" if together - now.gpu_w < burst and now.gpu_w > 4 else "power"
            if chip.cap_mhz < target:
                why, target = "unexplained", chip.cap_mhz
            level = min(chip.limit, chip.policy_c)
            if chip.skin_c < math.inf:
                over = (
                    room + skin_k - chip.skin_c + 60.0 * (rows[7, k - 1] - rows[7, k - 6] if k > 5 else 0.0)
                )
                given = min(1.1, max(0.2, given - 0.004 * over * STEP_S))
                if given * natural < target:
                    why, target = "firmware", given * natural
            if chip.saw_k:
                sawing = die > level or (sawing and die > level - chip.saw_k)
                thermal_mhz = 0.42 * chip.natural if sawing else chip.natural * 1.2
            else:
                over = die + 6.0 * (die - rows[0, k - 1] if k and rows[5, k - 1] else 0.0) - level
                thermal_mhz -= chip.gain * over * chip.natural * STEP_S
                thermal_mhz = min(max(thermal_mhz, 0.15 * chip.natural), 1.03 * target)
            if thermal_mhz < target:
                why, target = ("firmware" if chip.policy_c < chip.limit else "thermal"), thermal_mhz
            sawn = sawn or sawing
            if sawn and die > level - chip.saw_k - 1.0:
                # Between its teeth the clock is free for a moment: a sawtooth is one stretch all the same.
                why = "firmware" if chip.policy_c < chip.limit else "thermal"
            clock = target
            watts = draws(clock)
            if why != "none" and clock > 0.98 * natural and not chip.saw_k:
                why = "none"
        else:
            clock, watts, thermal_mhz = 0.2 * chip.natural, idle_w * (1 + 0.05 * rng.random()), chip.natural
        skin_k += (0.35 * (chip.limit - chip.room) / chip.heat_w * watts - skin_k) * (
            1 - math.exp(-STEP_S / 90.0)
        )
        for i, (resistance, tau) in enumerate(chip.stages):
            state[i] += (resistance * (watts + 0.3 * (now.gpu_w if i else 0.0)) - state[i]) * (
                1 - math.exp(-STEP_S / tau)
            )
        rows[:, k] = (
            die,
            clock,
            watts,
            now.gpu_w,
            100.0 * now.load * now.share if on else 1.5,
            room,
            t,
            room + skin_k,
        )
        truth[k] = why
    return Trace(rows[6], rows[0], rows[1], rows[2], rows[3], rows[4], rows[5], rows[7], truth)


@dataclass(frozen=True)
class Logged:
    """One story as a log shows it, and the truth at each of its samples."""

    story: str
    recording: Recording
    truth: np.ndarray
    facts: Facts
    judgement: str | None


def logged(
    story: str, chip: Chip, trace: Trace, judgement: str | None, seed: int, known: str, odd: str = ""
) -> Logged:
    """Log a story: at an interval, rounded, with noise, and with what is `odd` about this log."""
    rng = np.random.default_rng(seed)
    every = round(float(rng.choice([0.2, 1.0, 1.0, 2.0])) / STEP_S)
    at = np.arange(0, len(trace.time_s), every)
    n = len(at)
    die = trace.die[at] + rng.normal(0, rng.uniform(0.02, 0.25), n)
    step = float(rng.choice([0.125, 0.5, 1.0]))
    power = trace.power[at] * (1 + rng.normal(0, rng.uniform(0.0005, 0.004), n))
    rows: list[tuple[Channel, np.ndarray]] = [
        (Channel("Die", "temperature", "°C", "die", "cpu"), np.round(die / step) * step),
        (Channel("Package", "power", "W", "package", "cpu"), np.round(power, int(rng.integers(1, 3)))),
        (Channel("Usage", "load", "%", "package", "cpu"), np.round(np.clip(trace.use[at] - abs(rng.normal(0, 0.5, n)), 0, 100), 1)),
        (Channel("Room", "temperature", "°C", "inlet", "case"), np.round(trace.room[at] + rng.normal(0, 0.03, n), 1)),
    ]  # fmt: skip
    cores = int(rng.choice([1, 4, 8]))
    for c in range(cores):
        clock = trace.clock[at] + rng.normal(0, rng.choice([1.0, 6.0, 20.0]), n)
        rows.append((Channel(f"Core {c}", "clock", "MHz", "core", "cpu"), np.round(clock / 5) * 5))
    if "unlike cores" in odd:
        for c in range(4):
            slow = 0.72 * trace.clock[at] + rng.normal(0, 4, n)
            rows.append((Channel(f"Slow core {c}", "clock", "MHz", "core", "cpu"), np.round(slow)))
    if "parked" in odd:
        for c in range(3):
            rows.append(
                (
                    Channel(f"Parked {c}", "clock", "MHz", "core", "cpu"),
                    np.where(rng.random(n) < 0.9, 400.0, 800.0),
                )
            )
    if trace.gpu.max() > 2.0:
        rows.append(
            (
                Channel("Graphics", "power", "W", "gpu", "gpu"),
                np.round(trace.gpu[at] + rng.normal(0, 0.1, n), 1),
            )
        )
    if math.isfinite(chip.skin_c):
        skin = trace.skin[at] + rng.normal(0, 0.05, n)
        rows.append((Channel("Skin", "temperature", "°C", "surface", "case"), np.round(skin, 1)))
    channels, values = tuple(c for c, _ in rows), np.array([v for _, v in rows])
    if "spikes" in odd:
        for row, value in ((0, 127.0), (1, 999.0), (4, 0.0), (0, 0.0)):
            values[row, rng.choice(n, 3, replace=False)] = value
    if "stuck" in odd:
        # A sensor that gives the same number for a while, as many do when their bus is busy.
        a = int(0.5 * n)
        row = int(rng.choice([0, 1]))
        values[row, a : a + n // 8] = values[row, a]
    if "gaps" in odd:
        a = int(0.45 * n)
        values[:, a : a + n // 20] = np.nan
        keep = np.ones(n, dtype=bool)
        keep[int(0.7 * n) : int(0.73 * n)] = False
        values, at = values[:, keep], at[keep]
    kept = [i for i, c in enumerate(channels) if f"no {c.quantity}" not in odd]
    facts = {
        "all": Facts(ProcessorFacts("made", 8, chip.limit, chip.base, 1.04 * chip.natural,
                                    None if math.isinf(chip.budget) else chip.budget,
                                    None if math.isinf(chip.burst) else chip.burst, chip.burst_s or None)),
        "limit": Facts(ProcessorFacts(temperature_limit_c=chip.limit, base_clock_mhz=chip.base)),
        "wrong": Facts(ProcessorFacts(temperature_limit_c=chip.limit + 5.0, base_clock_mhz=chip.base)),
        "nothing": Facts(),
    }[known]  # fmt: skip
    recording = Recording(tuple(channels[i] for i in kept), trace.time_s[at], values[kept])
    return Logged(story, recording, trace.truth[at], facts, judgement)
