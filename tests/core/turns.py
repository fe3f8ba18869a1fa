"""More stories for `behaving`: loads that pause and come back, budgets cut in mid-run, heat that comes from elsewhere."""

from __future__ import annotations

import math
import random
from collections.abc import Callable

import numpy as np

from tests.core.behaving import Chip, Logged, Now, Script, Trace
from tests.core.stories import (
    IDLE_S,
    LOAD_S,
    Told,
    a_chip,
    burst_then_sustained,
    lived,
    loaded,
    pegged,
    plain,
)


def looped(on_s: float, off_s: float) -> Script:
    """One load after another with pauses, as a benchmark in a loop."""

    def script(t: float, chip: Chip, now: Now) -> None:
        now.load = 1.0 if loaded(t) and (t - IDLE_S) % (on_s + off_s) < on_s else 0.0

    return script


def hot_loops(r: random.Random) -> Told:
    return a_chip(r, r.uniform(15, 45)), looped(r.choice([60, 100]), r.choice([5, 15])), "hot"


def loops_under_a_budget(r: random.Random) -> Told:
    """Each loop begins with its burst and ends as warm as the one before: a rhythm, no limit."""
    chip, _, _ = burst_then_sustained(r)
    chip.burst_s = min(chip.burst_s, 28.0)
    return chip, looped(r.choice([60, 100, 150]), r.choice([5, 15])), "budget"


def everyday_bursts(r: random.Random) -> Told:
    chip, period, duty = a_chip(r, r.uniform(-40, -10)), r.choice([4, 8, 14, 30]), r.uniform(0.3, 0.7)

    def script(t: float, chip: Chip, now: Now) -> None:
        now.load = 1.0 if loaded(t) and t % period < duty * period else 0.0

    return chip, script, "clear"


def a_game(r: random.Random) -> Told:
    """Half the chip busy, never the same, beside a graphics chip that is at work."""
    chip, begin = a_chip(r, r.uniform(-30, -8)), r.uniform(0, 6)
    watts = 1.5 * chip.heat_w

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.share = 0.45 + 0.12 * math.sin(t / 23 + begin) + 0.08 * math.sin(t / 5.1)
        now.lower = 1 - 0.05 * (now.share - 0.3)
        now.gpu_w = watts * (0.9 + 0.1 * math.sin(t / 40)) if loaded(t) else 1.0

    return chip, script, "clear"


def threads_come_one_by_one(r: random.Random) -> Told:
    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        step = max(0, int((t - IDLE_S) // 110))
        now.share, now.lower = min(1.0, (step + 1) / 6), 1 - 0.03 * step

    return a_chip(r, r.uniform(-45, -12)), script, "clear"


def graphics_on_their_own(r: random.Random) -> Told:
    """A graphics chip with a budget of its own begins: nothing is taken from the processor."""
    chip = a_chip(r, r.uniform(-40, -15))

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.gpu_w = 0.8 * chip.heat_w if IDLE_S + 200 < t < IDLE_S + LOAD_S else 1.0

    return chip, script, "clear"


def heat_of_the_neighbour(r: random.Random) -> Told:
    """It is the graphics chip's heat that takes the die to its limit."""
    chip, share = a_chip(r, r.uniform(-14, -8)), r.uniform(1.2, 2.0)

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.gpu_w = share * chip.heat_w if IDLE_S + 200 < t < IDLE_S + LOAD_S else 1.0

    return chip, script, None


def a_fan_fails(r: random.Random) -> Told:
    chip, since = a_chip(r, r.uniform(-40, -25)), IDLE_S + r.uniform(200, 350)

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.cooling = min(2.6, 1 + max(0.0, t - since) / 15)

    return chip, script, None


def a_fan_set_slower(r: random.Random) -> Told:
    """Hotter at once, and at no limit."""
    chip, since = a_chip(r, r.uniform(-60, -45)), IDLE_S + r.uniform(200, 350)

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.cooling = 1.25 if t > since else 1.0

    return chip, script, "clear"


def hot_then_eased(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(12, 40))

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.share = 0.35 if t > IDLE_S + 400 else 1.0

    return chip, script, "hot"


def hardly_too_hot(r: random.Random) -> Told:
    return a_chip(r, r.uniform(2, 7)), plain, "hot"


def a_long_burst(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(-25, -5))
    chip.budget, chip.burst, chip.burst_s = (
        chip.heat_w * r.uniform(0.5, 0.8),
        2 * chip.heat_w,
        r.uniform(120, 220),
    )
    return chip, plain, "budget"


def a_budget_cut_in_steps(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(-25, -8))
    levels = [chip.heat_w * share for share in (0.85, 0.7, 0.55)]

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        chip.budget = levels[0 if t < IDLE_S + 200 else 1 if t < IDLE_S + 420 else 2]

    return chip, script, "budget"


def unplugged(r: random.Random) -> Told:
    """On mains one budget, on the battery another, and back on some days."""
    chip = a_chip(r, r.uniform(-25, -8))
    mains, battery = chip.heat_w * r.uniform(0.7, 0.85), chip.heat_w * r.uniform(0.3, 0.55)
    since, back = IDLE_S + r.uniform(200, 450), r.random() < 0.5

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        chip.budget = battery if t > since and not (back and t > since + 150) else mains

    chip.budget = mains
    return chip, script, "budget"


def nothing_but_load(r: random.Random) -> Told:
    """A log that begins and ends under load."""
    chip, _, judgement = r.choice([burst_then_sustained, pegged])(r)

    def script(t: float, chip: Chip, now: Now) -> None:
        now.load = 1.0

    return chip, script, judgement


TURNS: list[Callable[[random.Random], Told]] = [
    hot_loops, loops_under_a_budget, everyday_bursts, a_game, threads_come_one_by_one, graphics_on_their_own,
    heat_of_the_neighbour, a_fan_fails, a_fan_set_slower, hot_then_eased, hardly_too_hot, a_long_burst,
    a_budget_cut_in_steps, unplugged, nothing_but_load,
]  # fmt: skip


def turned(seed: int) -> Logged:
    """The story of a seed, lived through and logged. What no log can show is `either` in its truth: the first level of
    a budget that nothing was ever seen above, and a pause between two held loads."""
    r = random.Random(7 * seed + 3)
    teller = TURNS[seed % len(TURNS)]
    story = teller(r)
    known = r.choice(["all", "limit", "nothing"])
    odd = r.choice(["", "", "", "spikes", "parked", "unlike cores"])

    def doubt(trace: Trace) -> None:
        if teller in (a_budget_cut_in_steps, unplugged):
            trace.truth[(trace.truth == "power") & (trace.clock > 0.94 * trace.clock.max())] = "either"
        if teller in (hot_loops, loops_under_a_budget):
            trace.truth[(trace.use < 50.0) & np.array([loaded(t) for t in trace.time_s])] = "either"

    return lived(teller.__name__, story, seed, known, odd, doubt)
