"""Stories for `behaving`: what may happen to a processor under load, and what a reader must make of it."""

from __future__ import annotations

import random
from collections.abc import Callable

from tests.core.behaving import STEP_S, Chip, Logged, Now, Script, Trace, live, logged

IDLE_S, LOAD_S, COOL_S = 90.0, 660.0, 60.0

Told = tuple[Chip, Script, str | None]


def loaded(t: float) -> bool:
    return IDLE_S <= t < IDLE_S + LOAD_S


def plain(t: float, chip: Chip, now: Now) -> None:
    now.load = 1.0 if loaded(t) else 0.0


def a_chip(r: random.Random, reaches_k: float) -> Chip:
    """A chip whose die would settle `reaches_k` from its limit (below it where negative) at its full heat."""
    heat, limit, room = (
        r.choice([12.0, 30.0, 65.0, 110.0, 180.0]),
        r.choice([80.0, 90.0, 95.0, 100.0, 110.0]),
        r.uniform(18, 34),
    )
    whole = (limit + reaches_k - room) / (1.06 * heat)
    quick = r.uniform(0.25, 0.5)
    natural = r.uniform(2600, 5300)
    return Chip(natural, natural * r.uniform(0.5, 0.75), limit, heat, room,
                [(whole * quick, r.uniform(1.5, 6)), (whole * (1 - quick), r.uniform(60, 160))])  # fmt: skip


def nothing(r: random.Random) -> Told:
    return a_chip(r, r.uniform(-45, -8)), plain, "clear"


def slightly_slower_when_hot(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(-30, -8))
    chip.droop = 0.011
    return chip, plain, "clear"


def burst_then_sustained(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(-25, -5))
    chip.budget = chip.heat_w * r.uniform(0.45, 0.85)
    chip.burst, chip.burst_s = chip.heat_w * r.uniform(1.1, 1.4), r.choice([8.0, 28.0, 60.0])
    chip.ripple = r.choice([0.0, 0.004, 0.012])
    return chip, plain, "budget"


def two_budgets(r: random.Random) -> Told:
    """Held by the burst's own level from the first second, then by the sustained one."""
    chip = a_chip(r, r.uniform(-30, -8))
    chip.budget, chip.burst, chip.burst_s = chip.heat_w * 0.6, chip.heat_w * 0.85, 56.0
    return chip, plain, "budget"


def pegged(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(8, 45))
    return chip, plain, "hot"


def pegged_fast(r: random.Random) -> Told:
    """So little cooler that it hits the limit in seconds."""
    chip = a_chip(r, r.uniform(50, 120))
    return chip, plain, "hot"


def sawtooth(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(12, 40))
    chip.saw_k = r.choice([4.0, 8.0, 12.0])
    return chip, plain, "hot"


def until_the_fan_came(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(-25, -12))

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.cooling = 2.2 if t < IDLE_S + 70 else max(1.0, 2.2 - (t - IDLE_S - 70) / 10.0)

    return chip, script, None


def skin(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(0, 25))
    chip.policy_c = chip.limit - r.uniform(12, 30)
    return chip, plain, "hot"


def skin_slow(r: random.Random) -> Told:
    """A policy that gives way only slowly, long after the start."""
    chip = a_chip(r, r.uniform(-15, 0))
    chip.policy_c = chip.limit - r.uniform(20, 30)
    chip.gain = 0.004
    return chip, plain, "hot"


def skin_of_the_case(r: random.Random) -> Told:
    """What is minded is not the die at all, but the case in the hand: power gives way as that warms."""
    chip = a_chip(r, r.uniform(-25, -10))
    chip.skin_c = chip.room + r.uniform(0.18, 0.27) * (chip.limit - chip.room)
    return chip, plain, "hot"


def graphics_join(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(-30, -10))
    chip.together_w = chip.heat_w * r.uniform(1.12, 1.35)
    watts, since = chip.heat_w * r.uniform(0.35, 0.6), IDLE_S + r.uniform(120, 300)

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.gpu_w = watts if since < t < IDLE_S + LOAD_S else 1.0

    return chip, script, "budget"


def graphics_come_and_go(r: random.Random) -> Told:
    chip, _, _ = graphics_join(r)
    chip.budget = chip.together_w = chip.heat_w * 0.9
    chip.burst, chip.burst_s = chip.heat_w * 1.3, 20.0
    watts = chip.heat_w * r.uniform(0.3, 0.5)

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.gpu_w = watts if loaded(t) and (t - IDLE_S) % 240 > 120 else 1.0

    return chip, script, "budget"


def power_then_heat(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(25, 45))
    chip.budget = chip.heat_w * 0.9
    chip.burst, chip.burst_s = chip.heat_w * 1.3, 20.0
    return chip, plain, "hot"


def a_cap_nobody_explains(r: random.Random) -> Told:
    chip = a_chip(r, r.uniform(-40, -15))
    # Only leakage tells a fixed clock from a fixed power: a chip that leaks as hot silicon does.
    chip.leak = r.uniform(0.12, 0.22)
    since, low = IDLE_S + r.uniform(100, 300), r.uniform(0.6, 0.85)

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        chip.cap_mhz = low * chip.natural if t > since else float("inf")

    return chip, script, None


def eases_off(r: random.Random) -> Told:
    chip, share = a_chip(r, r.uniform(-40, -8)), r.uniform(0.2, 0.75)

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.share = share if t > IDLE_S + 300 else 1.0
        now.lower = 0.85 if now.share < 1 else 1.0

    return chip, script, "clear"


def fewer_threads_first(r: random.Random) -> Told:
    """Two threads at their high clock, then all of them at a lower one: the chip's own table, no limit."""
    chip = a_chip(r, r.uniform(-40, -8))

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        few = t < IDLE_S + 240
        now.share, now.lower = (0.25, 1.0) if few else (1.0, 0.9)

    return chip, script, "clear"


def another_kind_of_load(r: random.Random) -> Told:
    """A second load after a pause, whose natural clock is lower and whose power is higher."""
    chip, lower = a_chip(r, r.uniform(-45, -18)), r.uniform(0.8, 0.93)

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        if IDLE_S + 320 < t < IDLE_S + 380:
            now.load = 0.0
        now.lower, now.heavier = (lower, 1.25) if t > IDLE_S + 350 else (1.0, 1.0)

    return chip, script, "clear"


def another_kind_at_once(r: random.Random) -> Told:
    """The same without a pause: more power at a lower clock is another load, not a limit."""
    chip, lower = a_chip(r, r.uniform(-45, -18)), r.uniform(0.85, 0.93)

    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.lower, now.heavier = (lower, 1.6) if t > IDLE_S + 330 else (1.0, 1.0)

    return chip, script, "clear"


def a_room_that_warms(r: random.Random) -> Told:
    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.room_k = 6.0 * t / 800.0

    return a_chip(r, r.uniform(-40, -12)), script, "clear"


def a_hunting_fan(r: random.Random) -> Told:
    def script(t: float, chip: Chip, now: Now) -> None:
        plain(t, chip, now)
        now.cooling = 1.0 + 0.08 * (1 if (t % 40) > 20 else -1)

    return a_chip(r, r.uniform(-40, -15)), script, "clear"


SEEN: list[Callable[[random.Random], Told]] = [
    burst_then_sustained, two_budgets, pegged, pegged_fast, sawtooth, until_the_fan_came, skin, skin_slow, skin_of_the_case,
    graphics_join, graphics_come_and_go, power_then_heat, a_cap_nobody_explains,
]  # fmt: skip
QUIET: list[Callable[[random.Random], Told]] = [
    nothing, slightly_slower_when_hot, eases_off, fewer_threads_first, another_kind_of_load, another_kind_at_once,
    a_room_that_warms, a_hunting_fan,
]  # fmt: skip
ODD = ["", "", "spikes", "gaps", "parked", "unlike cores", "spikes gaps", "stuck"]


def told(seed: int) -> Logged:
    """The story of a seed, lived through and logged."""
    r = random.Random(seed)
    tellers = SEEN + QUIET
    teller = tellers[seed % len(tellers)]
    chip, script, judgement = teller(r)
    known = r.choice(["all", "limit", "nothing", "wrong" if teller in (pegged, power_then_heat) else "all"])
    if teller in (skin, skin_slow) and known == "nothing":
        # Only the facts tell a quiet profile of 85 °C from a chip's own limit of 85 °C.
        chip.policy_c = min(chip.policy_c, 74.0)
    odd = r.choice(ODD)
    return lived(teller.__name__, (chip, script, judgement), seed, known, odd)


def lived(
    name: str, story: Told, seed: int, known: str, odd: str, doubt: Callable[[Trace], None] | None = None
) -> Logged:
    """A story lived through and logged; `doubt` marks in its truth what no log can show."""
    chip, script, judgement = story
    trace = live(chip, script, IDLE_S + LOAD_S + COOL_S, seed)
    if judgement == "hot":
        judgement = hot_judgement(trace, chip, known)
    if doubt is not None:
        doubt(trace)
    words = f"{name} ({known} known{', ' + odd if odd else ''})"
    return logged(words, chip, trace, judgement, seed, known, odd)


def hot_judgement(trace: Trace, chip: Chip, known: str) -> str:
    """Below base for over 2 % of the load: throttles; base unknown: over 10 % under what it reached."""
    hot = (trace.truth == "thermal") | (trace.truth == "firmware")
    floor = 0.9 * chip.natural if known == "nothing" else chip.base
    below = float((hot & (trace.clock < floor)).sum()) * STEP_S
    return "throttles" if below > 0.02 * LOAD_S else "rides-limit"
