"""Rigs unlike the demo's, drawn at random from a seed: other chips, budgets, coolers, policies and facts."""

from __future__ import annotations

import random
from dataclasses import dataclass, replace

from samovar.core.facts import Facts, ProcessorFacts
from samovar.simulator.chip import ChipSpec, voltage
from samovar.simulator.spec import CaseSpec, CoolerSpec, FanSpec, LoadSpec, SimulatedSetup

KINDS = ("power", "thermal", "firmware", "shared", "clear")


@dataclass(frozen=True, slots=True)
class VariedRig:
    """A rig made so that `kind` is likely to bind, with more or less known about it."""

    kind: str
    setup: SimulatedSetup
    load: LoadSpec
    facts: Facts
    known: str


def varied_rig(seed: int) -> VariedRig:
    """The rig of a seed."""
    r = random.Random(seed)
    kind = KINDS[seed % len(KINDS)]
    cores, limit = r.choice([4, 6, 8, 12, 16]), r.choice([85.0, 90.0, 95.0, 100.0, 105.0])
    sustained = r.choice([15.0, 28.0, 45.0, 65.0, 95.0, 125.0])
    boost = r.uniform(3.6, 5.4)
    all_core = boost * r.uniform(0.85, 0.97)
    base = all_core * r.uniform(0.55, 0.8)
    wanted = sustained * {
        "power": r.uniform(1.15, 2.0), "thermal": r.uniform(0.8, 1.6), "firmware": r.uniform(0.7, 1.3),
        "shared": r.uniform(0.9, 1.3), "clear": r.uniform(0.4, 0.85),
    }[kind]  # fmt: skip
    uncore = max(2.0, 0.08 * sustained)
    soft = limit - r.uniform(12, 30) if kind == "firmware" else None
    chip = ChipSpec(
        "varied", cores, base, boost, all_core, limit, sustained, sustained * r.uniform(1.1, 1.9), r.choice([10.0, 28.0, 56.0]),
        max(1.0, (wanted - uncore) / (voltage(all_core) ** 2 * all_core)), uncore, 0.05 * sustained,
        soft_limit_c=soft, shared_budget_w=sustained * r.uniform(0.95, 1.1) if kind == "shared" else None,
    )  # fmt: skip
    heat = sustained if kind == "shared" else min(wanted, sustained)
    room_for = ((soft or limit) - 25.0) / heat
    resistance = room_for * {
        "power": r.uniform(0.4, 0.8), "thermal": r.uniform(1.1, 1.8), "firmware": r.uniform(1.15, 1.8),
        "shared": r.uniform(0.3, 0.6), "clear": r.uniform(0.3, 0.8),
    }[kind]  # fmt: skip
    cooler = max(0.03, resistance - 0.29)
    rpm = r.choice([600, 900, 1500])
    setup = SimulatedSetup(
        "varied",
        chip,
        CoolerSpec(0.5 * cooler, 0.5 * cooler * r.uniform(1.0, 1.3), 2.5 * cooler, r.uniform(120, 700)),
        FanSpec(((40, 0.6 * rpm), (60, 0.8 * rpm), (85, 1.4 * rpm))),
        CaseSpec(capacity_j_per_k=r.uniform(800, 2400)),
        room_c=r.uniform(18, 30),
    )
    # The graphics side joins later: with both there from the first second, a log cannot tell what was taken.
    load = LoadSpec(
        "varied",
        1.0,
        20.0,
        cores,
        gpu_w=sustained * r.uniform(0.35, 0.6) if kind == "shared" else 0.0,
        gpu_from_s=200.0,
    )
    known = r.choice(["all", "limit", "nothing"])
    if soft is not None and known == "nothing":
        # Only the facts tell a quiet profile of 85 °C from a chip's own limit of 85 °C.
        setup = replace(setup, chip=replace(chip, soft_limit_c=min(soft, 72.0)))
    whole = ProcessorFacts(
        "varied", cores, limit, 1000 * base, 1000 * boost, sustained, chip.burst_w, chip.burst_s
    )
    facts = {
        "all": Facts(whole),
        "limit": Facts(ProcessorFacts(temperature_limit_c=limit)),
        "nothing": Facts(),
    }[known]
    return VariedRig(kind, setup, load, facts, known)
