"""How well differences are told: two thousand experiments of which the truth is known."""

from __future__ import annotations

import statistics
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from functools import partial

import numpy as np
from tests.core.compare.contests import Contest, contest

from bench.table import Row

EXPERIMENTS = 2_000
FIRST_SEED = 50_000
CASES = ((0.0, 0), (0.2, 0), (0.0, 8), (0.2, 8))
"""Drift, K a run, and how many experiments the bench has behind it."""
SETUPS, PASSES = 40, 5


def measure() -> Iterator[Row]:
    """Two passes of five setups, one pass scattering 0.3 K; and how long forty setups take."""
    with ProcessPoolExecutor() as pool:
        for drift_k, history in CASES:
            seeds = range(FIRST_SEED, FIRST_SEED + EXPERIMENTS)
            found = list(pool.map(partial(_one, drift_k, history), seeds, chunksize=50))
            case = f"drift {drift_k:g} K a run, {'a history' if history else 'no history'}"
            covered = 100.0 * float(np.mean([c.together for c in found]))
            own = 100.0 * float(np.mean([x for c in found for x in c.own]))
            print(f"{case}: all differences covered {covered:.1f} %, each value {own:.1f} %", file=sys.stderr)
            yield Row(
                f"{case}: all differences outside at once, over 1 % and under", 100.0 - covered, 6.0, "%"
            )
            yield Row(
                f"{case}: half-width of a value", float(np.mean([c.own_half_k for c in found])), 0.8, "K"
            )
            most = 0.8 if history else 1.2
            width = float(np.mean([c.together_half_k for c in found]))
            yield Row(f"{case}: half-width of a difference, all at once", width, most, "K")
            missed = 100.0 - 100.0 * float(np.mean([c.found for c in found]))
            yield Row(f"{case}: a true 2 K not found", missed, 5.0, "%")
    yield Row(f"comparing {SETUPS} setups × {PASSES} passes, all pairs", _forty(), 0.3, "s")


def _one(drift_k: float, history: int, seed: int) -> Contest:
    return contest(seed, drift_k, history)


def _forty() -> float:
    from samovar.core.compare.experiment import Pass, fit
    from samovar.core.measured import Measured

    rng = np.random.default_rng(1)
    took = []
    for _ in range(5):
        passes = [
            Pass(f"s{k}", n * SETUPS + k, Measured(50.0 + 0.2 * k + float(rng.normal(0.0, 0.3)), 0.1))
            for n in range(PASSES)
            for k in range(SETUPS)
        ]
        started = time.perf_counter()
        found = fit(passes)
        assert found is not None
        family = found.all_pairs
        for name in found.setups[1:]:
            found.gap(name, "s0", found.from_reference("s0") if name == "s1" else family)
        took.append(time.perf_counter() - started)
    return statistics.median(took)
