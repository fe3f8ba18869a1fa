"""One word for a run: clear, budget, rides-limit, throttles or stopped."""

from __future__ import annotations

import numpy as np

from samovar.core.facts import Facts
from samovar.core.held.stretches import HeldStretch
from samovar.core.phases import Phase, main_load
from samovar.core.recording import Array

NOTICEABLE_SHARE = 0.02
"""Less of the load than this is not worth a judgement."""

MEANING = {
    "clear": "nothing held it back",
    "budget": "a power budget set the pace",
    "rides-limit": "at its temperature limit, still at or above base clock",
    "throttles": "a temperature limit pushed it below base clock",
    "stopped": "the load ended early",
}


def judge(held: list[HeldStretch], phases: list[Phase], stopped_early: bool | None) -> str | None:
    """The judgement of a run.

    Returns:
        One of the keys of MEANING; None where the recording has no load, or where the clock was held
        and nothing shows by what.
    """
    if stopped_early:
        return "stopped"
    load_s = sum(p.duration_s for p in phases if p.name == "load")
    if load_s <= 0:
        return None

    def share(stretches: list[HeldStretch]) -> float:
        return sum(h.end_s - h.start_s for h in stretches) / load_s

    if share(held) <= NOTICEABLE_SHARE:
        return "clear"
    hot = [h for h in held if h.by in ("thermal", "firmware")]
    if sum(h.deep_s or 0.0 for h in hot) > NOTICEABLE_SHARE * load_s:
        return "throttles"
    budgeted = [h for h in held if h.by in ("power", "shared")]
    # What holds it in the last quarter is what the reader will live with; what came before is how it got there.
    longest = main_load(phases)
    assert longest is not None
    since = longest.end_s - 0.25 * longest.duration_s
    late_hot, late_budget = _time_after(hot, since), _time_after(budgeted, since)
    if late_hot or late_budget:
        return "rides-limit" if late_hot > late_budget else "budget"
    if share(hot) > NOTICEABLE_SHARE and share(hot) > share(budgeted):
        return "rides-limit"
    return "budget" if share(budgeted) > NOTICEABLE_SHARE else None


def _time_after(stretches: list[HeldStretch], since_s: float) -> float:
    return sum(max(0.0, h.end_s - max(h.start_s, since_s)) for h in stretches)


BUDGET_WITHIN = 0.03
"""A power this near to the budget of the facts stands at it."""
BURST_OVER = 0.08
"""A burst is at least so much above the budget that follows it."""
STANDS_STILL = 0.02
"""The middle half of a budgeted power lies within so much of itself."""
LEAST_BURST_S, LEAST_AFTER_S = 5.0, 60.0
"""A step is one where the power stood before it for the first, and after it for the second."""


def steps_to_budget(time_s: Array, power_w: Array, facts: Facts) -> bool:
    """Whether a package's power steps from its burst down to the sustained budget of the facts and stays there: a
    budget set the pace, though no clock was logged to show what it cost.

    Args:
        time_s, power_w: of the load, shape (n,).
        facts: the budget.
    """
    sustained, good = facts.cpu.sustained_power_w, np.isfinite(power_w)
    time_s, power_w = time_s[good], power_w[good]
    if sustained is None or len(power_w) < 8:
        return False
    over = power_w > (1.0 + BURST_OVER) * sustained
    if not over.any():
        return False
    step = int(np.flatnonzero(over)[-1]) + 1
    before, after = power_w[:step], power_w[step:]
    if (
        len(after) < 4
        or time_s[-1] - time_s[step] < LEAST_AFTER_S
        or time_s[step] - time_s[0] < LEAST_BURST_S
    ):
        return False
    low, middle, high = np.percentile(after, (25, 50, 75))
    stands = abs(middle / sustained - 1.0) < BUDGET_WITHIN and high - low < STANDS_STILL * sustained
    return bool(stands and np.median(before) > (1.0 + BURST_OVER) * sustained)
