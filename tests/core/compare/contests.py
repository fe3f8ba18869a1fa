"""Experiments of which the truth is known: setups, a bench that drifts, passes that scatter, in the planner's order."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from samovar.core.compare.experiment import Experiment, Pass, fit
from samovar.core.compare.pooling import Spread, prior_of
from samovar.core.measured import Measured
from samovar.core.planner import plan

TRUE_K = (50.0, 48.0, 48.0, 45.0, 44.5)
"""The second is 2 K under the reference, the first."""
PASS_K = 0.3
NAMES = tuple("abcde")


@dataclass(frozen=True)
class Contest:
    """One experiment with what came of it: for each setup and each difference whether its interval holds the truth, how wide
    they are, and whether the true 2 K were found."""

    own: list[bool]
    together: bool
    own_half_k: float
    together_half_k: float
    found: bool


def contest(seed: int, drift_k: float, history: int, passes: int = 2) -> Contest:
    """Five setups, each with so many passes; the bench drifts by so much a run and has so many experiments behind it."""
    rng = np.random.default_rng(seed)
    order = [c.setup for c in plan(NAMES, ["load"], "a", passes)]
    values = [TRUE_K[NAMES.index(s)] + drift_k * k + rng.normal(0.0, PASS_K) for k, s in enumerate(order)]
    told = [Spread(PASS_K**2 * float(rng.chisquare(4)) / 4.0, 4.0) for _ in range(history)]
    runs = [Pass(s, k, Measured(v, 0.05)) for k, (s, v) in enumerate(zip(order, values, strict=True))]
    found = fit(runs, prior_of(told))
    assert found is not None
    return _judged(found, drift_k * (len(order) - 1) / 2.0)


def _judged(found: Experiment, middle_k: float) -> Contest:
    truth = dict(zip(NAMES, TRUE_K, strict=True))
    values = {n: found.value(n) for n in NAMES}
    family = found.from_reference("a")
    gaps = {n: found.gap(n, "a", family) for n in NAMES[1:]}
    halves = [v.half_width or 0.0 for v in values.values()]
    return Contest(
        [abs(v.value - truth[n] - middle_k) <= (v.half_width or 0.0) for n, v in values.items()],
        all(abs(g[0] - truth[n] + truth["a"]) <= (g[1] or 0.0) for n, g in gaps.items()),
        float(np.mean(halves)),
        float(np.mean([g[1] or 0.0 for g in gaps.values()])),
        abs(gaps["b"][0]) > (gaps["b"][1] or 0.0),
    )
