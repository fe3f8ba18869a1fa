"""Plots for `silicon`: laptops on batteries, graphics inside and beside the package, short loads, logs that begin late,
guards and trips; each with the judgement a reader must come to."""

from __future__ import annotations

import math
import random
from collections.abc import Callable

import numpy as np

from samovar.core.facts import Facts, ProcessorFacts
from tests.core.silicon import TICK_S, Log, Machine, Plot, State, log_of, run

BEGIN_S = 60.0
HOT = "hot"
Tale = tuple[Machine, Plot, str | None, set[str]]


def a_machine(r: random.Random, margin_k: float) -> Machine:
    """A machine whose die at full draught would end `margin_k` over its limit (under it, where negative)."""
    full = math.exp(r.uniform(math.log(12), math.log(160)))
    m = Machine(
        top=r.choice([2900.0, 3500.0, 4100.0, 4700.0, 5200.0]), step=r.choice([25.0, 100.0, 100.0]), full_w=full,
        limit=r.choice([90.0, 95.0, 100.0, 105.0]), room=r.uniform(18, 30), leak=r.uniform(0.08, 0.18),
        rest_w=0.04 * full, knee=r.uniform(0.45, 0.7),
    )  # fmt: skip
    whole = (m.limit + margin_k - m.room) / (full * (1 + m.leak * 0.35) + m.rest_w)
    parts = [0.35, 0.25, 0.4]
    taus = [r.uniform(1.5, 3.0), r.uniform(12, 30), r.uniform(60, 150)]
    m.ladder = [(tau / (whole * p), whole * p) for p, tau in zip(parts, taus, strict=True)]
    return m


def on(seconds: float) -> Plot:
    def plot(t: float, m: Machine, s: State) -> bool:
        s.demand = 1.0 if BEGIN_S <= t < BEGIN_S + seconds else 0.0
        return t < BEGIN_S + seconds + 60

    return plot


def length(r: random.Random) -> float:
    return r.choice([600.0, 600.0, 900.0, 1500.0])


def free(r: random.Random) -> Tale:
    return a_machine(r, r.uniform(-45, -12)), on(length(r)), "clear", set()


def free_in_two_groups(r: random.Random) -> Tale:
    return a_machine(r, r.uniform(-45, -12)), on(length(r)), "clear", {"two groups"}


def free_from_the_middle(r: random.Random) -> Tale:
    return a_machine(r, r.uniform(-45, -14)), on(900.0), "clear", {"mid-load"}


def free_beside_idle_graphics(r: random.Random) -> Tale:
    return a_machine(r, r.uniform(-45, -12)), on(length(r)), "clear", {"graphics"}


def with_graphics(watts: float, since: float, till: float, seconds: float) -> Plot:
    plain = on(seconds)

    def plot(t: float, m: Machine, s: State) -> bool:
        s.gpu_w = watts if since <= t < till else 0.4
        return plain(t, m, s)

    return plot


def graphics_with_room_for_both(r: random.Random) -> Tale:
    m = a_machine(r, r.uniform(-60, -40))
    m.graphics_inside = m.one_budget = r.random() < 0.6
    watts = m.full_w * r.uniform(0.25, 0.5)
    return m, with_graphics(watts, BEGIN_S + r.uniform(150, 300), 1e9, length(r)), "clear", {"graphics"}


def _shared(r: random.Random, inside: bool) -> Tale:
    m = a_machine(r, r.uniform(-45, -20))
    m.graphics_inside, m.one_budget = inside, True
    m.sustained = m.full_w * r.uniform(0.75, 1.25)
    m.burst, m.window_s = m.sustained * r.uniform(1.2, 1.5), r.uniform(10, 30)
    watts = m.sustained * r.uniform(0.35, 0.6)
    since = BEGIN_S + r.uniform(150, 300)
    till = r.choice([1e9, since + 200.0])
    return m, with_graphics(watts, since, till, length(r)), "budget", {"graphics"}


def graphics_inside_the_package(r: random.Random) -> Tale:
    return _shared(r, True)


def graphics_beside_the_package(r: random.Random) -> Tale:
    return _shared(r, False)


def graphics_inside_all_along(r: random.Random) -> Tale:
    m, _, judgement, habits = _shared(r, True)
    m.sustained = 0.8 * m.full_w
    m.burst = 1.1 * m.sustained
    return (
        m,
        with_graphics(m.sustained * r.uniform(0.4, 0.6), 0.0, 1e9, length(r)),
        judgement,
        habits | {"knows budget"},
    )


def a_budget(r: random.Random) -> Tale:
    m = a_machine(r, r.uniform(-40, -5))
    m.sustained = m.full_w * r.uniform(0.45, 0.8)
    m.burst, m.window_s = m.sustained * r.uniform(1.25, 1.8), r.uniform(8, 56)
    return m, on(length(r)), "budget", set()


def a_budget_in_two_groups(r: random.Random) -> Tale:
    return (*a_budget(r)[:3], {"two groups"})


def a_budget_from_the_first_second(r: random.Random) -> Tale:
    m = a_machine(r, r.uniform(-25, -5))
    m.sustained = m.burst = m.full_w * r.uniform(0.4, 0.7)
    return m, on(length(r)), "budget", {"knows boost"}


def a_budget_seen_from_the_middle(r: random.Random) -> Tale:
    m, _, _, _ = a_budget(r)
    return m, on(900.0), "budget", {"mid-load", "knows budget"}


def unplugged(r: random.Random) -> Tale:
    m = a_machine(r, r.uniform(-40, -12))
    m.sustained = mains = m.full_w * r.choice([0.7, 0.85, 1.5])
    m.burst, m.window_s = 1.3 * mains, 10.0
    battery, since, seconds = m.full_w * r.uniform(0.25, 0.45), BEGIN_S + r.uniform(200, 400), length(r)
    plain = on(seconds)

    def plot(t: float, m: Machine, s: State) -> bool:
        m.sustained = m.burst = battery if t >= since else 1.3 * mains
        if t < since:
            m.sustained = mains
        return plain(t, m, s)

    return m, plot, "budget", {"knows nothing"} if r.random() < 0.5 else {"no budget in facts"}


def at_its_limit(r: random.Random) -> Tale:
    return a_machine(r, r.uniform(8, 50)), on(length(r)), HOT, set()


def at_its_limit_from_the_middle(r: random.Random) -> Tale:
    return a_machine(r, r.uniform(12, 50)), on(900.0), HOT, {"mid-load", "knows boost"}


def at_its_limit_in_two_groups(r: random.Random) -> Tale:
    return a_machine(r, r.uniform(8, 40)), on(length(r)), HOT, {"two groups"}


def a_quiet_profile(r: random.Random) -> Tale:
    m = a_machine(r, r.uniform(-5, 20))
    m.mind = m.limit - r.uniform(14, 28)
    return m, on(length(r)), HOT, {"knows limit"}


def a_palm_rest(r: random.Random) -> Tale:
    m = a_machine(r, r.uniform(-15, -5))
    # The outermost node ends at about two fifths of the whole rise.
    m.palm = m.room + 0.4 * (m.limit - m.room) * r.uniform(0.6, 0.8)
    return m, on(1500.0), HOT, {"palm", "knows limit"}


def a_cap_in_mid_run(r: random.Random) -> Tale:
    m = a_machine(r, r.uniform(-40, -15))
    since, low, seconds = BEGIN_S + r.uniform(120, 300), r.uniform(0.6, 0.85), length(r)
    plain = on(seconds)

    def plot(t: float, m: Machine, s: State) -> bool:
        m.cap = low * m.top if t >= since else math.inf
        return plain(t, m, s)

    m.leak = r.uniform(0.14, 0.2)
    return m, plot, None, set()


def power_then_heat(r: random.Random) -> Tale:
    m = a_machine(r, r.uniform(30, 50))
    m.sustained = m.full_w * 0.9
    m.burst, m.window_s = m.sustained * 1.3, r.uniform(8, 20)
    return m, on(length(r)), HOT, set()


def tripped(r: random.Random) -> Tale:
    m = a_machine(r, r.uniform(40, 90))
    at = m.limit + r.uniform(4, 9)
    m.limit, stated = 400.0, m.limit
    seen = [m.room]

    def plot(t: float, m: Machine, s: State) -> bool:
        s.demand = 1.0 if t >= BEGIN_S else 0.0
        seen[0] += (0.9 * (stated + 60 - seen[0])) * TICK_S / 90.0 if s.demand else 0.0
        return seen[0] < at

    return m, plot, "stopped", {"trips", f"limit {stated}"}


def guarded(r: random.Random) -> Tale:
    m = a_machine(r, r.uniform(-30, -10))
    seconds = r.uniform(200, 500)
    plain = on(seconds)

    def plot(t: float, m: Machine, s: State) -> bool:
        return plain(t, m, s) and t < BEGIN_S + seconds + 3.0

    return m, plot, "stopped", {"guard"}


TALES: list[Callable[[random.Random], Tale]] = [
    free, free_in_two_groups, free_from_the_middle, free_beside_idle_graphics, graphics_with_room_for_both,
    graphics_inside_the_package, graphics_beside_the_package, graphics_inside_all_along, a_budget, a_budget_in_two_groups,
    a_budget_from_the_first_second, a_budget_seen_from_the_middle, unplugged, at_its_limit, at_its_limit_from_the_middle,
    at_its_limit_in_two_groups, a_quiet_profile, a_palm_rest, a_cap_in_mid_run, power_then_heat, tripped, guarded,
]  # fmt: skip


def habit(seed: int) -> Log:
    """The tale of a seed, run and logged."""
    r = random.Random(31 * seed + 11)
    teller = TALES[seed % len(TALES)]
    m, plot, judgement, habits = teller(r)
    burst_w, sustained_w, limit, base = m.burst, m.sustained, m.limit, round(0.7 * m.top, -2)
    limit = next((float(h.split()[1]) for h in habits if h.startswith("limit ")), limit)
    course = run(m, plot, 2000.0)
    known = next(
        (h[6:] for h in habits if h.startswith("knows ")), r.choice(["budget", "budget", "limit", "nothing"])
    )
    if "no budget in facts" in habits:
        known = "limit"
    if {"trips", "palm"} & habits:
        known = "limit"
    budgets = [w if known == "budget" and math.isfinite(w) else None for w in (sustained_w, burst_w)]
    # The data sheet's boost is one core's: all of them together reach less.
    boost = round(m.top * r.uniform(1.0, 1.06), -1) if known in ("budget", "boost") else None
    cpu = ProcessorFacts("made", 6, limit, base, boost, *budgets)
    facts = Facts() if known == "nothing" else Facts(cpu)
    for odd, chance in (
        ("coarse", 0.35),
        ("slow sensor", 0.25),
        ("whole steps", 0.5),
        ("mean clocks", 0.4),
        ("no use", 0.15),
    ):
        if r.random() < chance and not (
            odd == "no use" and (judgement == "stopped" or "all_along" in teller.__name__)
        ):
            habits = habits | {odd}
    if judgement == HOT:
        hot = (course.truth == "thermal") | (course.truth == "firmware")
        floor = 0.9 * m.top if known == "nothing" else base
        load_s = float((course.rows["use"] > 50).sum()) * TICK_S
        judgement = (
            "throttles"
            if float((hot & (course.rows["clock"] < floor)).sum()) * TICK_S > 0.02 * load_s
            else "rides-limit"
        )
    ticks = round(10.0 / TICK_S)
    loaded = np.where(course.rows["use"] > 50.0, course.rows["clock"], course.free)
    clock = np.convolve(np.pad(loaded, ticks // 2, mode="edge"), np.ones(ticks) / ticks, "valid")
    highest = float(clock[: len(loaded)][course.rows["use"] > 50.0][ticks:].max())
    for k, cause in enumerate(course.truth):
        # What no log can show: a clock hardly lower than the free one, and a burst's budget that nobody stated.
        seen = clock[k] < 0.975 * course.free[k]
        told = cause != "power" or known == "budget" or clock[k] < 0.96 * highest
        if cause != "none" and not (seen and (told or burst_w <= sustained_w)):
            course.truth[k] = "either"
    return log_of(teller.__name__, m, course, facts, judgement, seed, habits)
