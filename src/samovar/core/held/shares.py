"""What held a setup, as shares of the load, over its passes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from samovar.core.results.figure import RunResult, as_they_ran

HARDLY = 1.0
"""Less of the load than this, in percent, is not told."""


def held_shares(results: Sequence[RunResult]) -> dict[str, float] | None:
    """By cause the mean share of the load in which it held the clock, in percent; None where no pass tells."""
    told = [r for r in as_they_ran(results) if r.reading.judgement is not None]
    if not told:
        return None
    found: dict[str, float] = {}
    for run in told:
        for one in run.results:
            if one.statistic == "held_share" and one.by:
                found[one.by] = found.get(one.by, 0.0) + one.value / len(told)
    return {by: share for by, share in found.items() if share >= HARDLY}


def held_words(shares: Sequence[tuple[str, Mapping[str, float]]]) -> str:
    """What the shares say, in a sentence: who was held by heat, else by what."""
    hot = [(name, of["thermal"]) for name, of in shares if of.get("thermal")]
    if hot:
        told = ", ".join(f"{name} for {share:.0f} % of the load" for name, share in hot)
        return f"Heat held {told}."
    free = [name for name, of in shares if not of]
    if len(free) == len(shares):
        return "Nothing held any of them."
    budget = [name for name, of in shares if of.get("power")]
    return f"Heat held none of them; a power budget held {', '.join(budget)}." if budget else ""
