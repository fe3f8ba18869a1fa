"""A maker's claims beside what was measured: the difference, with its uncertainty."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from samovar.core.compare.rungs import joined
from samovar.core.measured import Measured
from samovar.core.product import Product
from samovar.core.results.figure import RunResult, figure_of
from samovar.core.results.result import Result

SAME_SPEED = 0.05
"""Speeds within this share are one speed: 5 % are 1 dB at 50·lg of the speed, less than a meter of class 2 tells."""
POWER_METER_SHARE = 0.05
"""What a package's own counter of power may be off by, as a share: no maker states it, and it is in every watt that is told by one.
It cancels between setups of one rig, not against a maker's figure."""
EXTRAPOLATED = 0.3
"""Further beyond the measured heat than this share, a headroom is called extrapolated."""


@dataclass(frozen=True, slots=True)
class RatedItem:
    """One claim. `difference` is measured minus claimed; None where nothing was measured. `better` says
    whether a lower or higher measure is to the product's credit."""

    label: str
    unit: str
    claimed: float
    measured: Measured | None
    lower_is_better: bool
    what: str

    @property
    def difference(self) -> Measured | None:
        """Measured minus claimed; the claim is taken as exact, as its maker gives no uncertainty."""
        return (
            None
            if self.measured is None
            else Measured(self.measured.value - self.claimed, self.measured.half_width)
        )

    @property
    def verdict(self) -> str:
        """Better or short of the claim; neither where the interval covers it."""
        gap = self.difference
        if gap is None:
            return "not measured yet"
        if gap.half_width is None:
            return "one reading of unknown uncertainty"
        if abs(gap.value) <= gap.half_width:
            return "agrees within the uncertainty"
        return "better than claimed" if (gap.value < 0) == self.lower_is_better else "short of the claim"


def headroom_of(result: RunResult) -> Measured | None:
    """The heat that would bring a run's die to its limit, W; None where nothing tells."""
    thermal = result.reading.thermal
    if thermal is None or thermal.headroom_w is None:
        return None
    width = None
    if thermal.half_width_95 is not None and thermal.resistance_k_per_w:
        # Headroom is the rise to the limit over the resistance: its relative width is the resistance's.
        width = thermal.headroom_w * thermal.half_width_95 / thermal.resistance_k_per_w
    return Measured(thermal.headroom_w, width)


def _with_its_meter(heat: Measured | None) -> Measured | None:
    """A heat with what its meter may be off by, which no number of passes makes smaller."""
    if heat is None or heat.half_width is None:
        return heat
    return Measured(heat.value, math.hypot(heat.half_width, POWER_METER_SHARE * heat.value), heat.bound)


def _heat_words(results: Sequence[RunResult]) -> str:
    """What the headroom means, and how far beyond what was measured it lies."""
    words = f"heat that would bring this die to its limit in this room, ±{100 * POWER_METER_SHARE:.0f} % of the power meter in it"
    pairs = [
        (t.headroom_w, t.power_w)
        for r in results
        if (t := r.reading.thermal) is not None and t.headroom_w and t.power_w
    ]
    if not pairs:
        return words
    measured = sum(p for _, p in pairs) / len(pairs)
    share = sum(h for h, _ in pairs) / len(pairs) / measured - 1.0
    return (
        f"{words}, extrapolated by {100 * share:.0f} % from {measured:.0f} W"
        if share > EXTRAPOLATED
        else words
    )


def _levels(results: Sequence[RunResult]) -> list[tuple[Measured, float | None]]:
    """Every level that was read with the speed (rpm) the fan had, of runs and of their steps."""
    noise, speed = figure_of("noise"), figure_of("steady:fan:other")
    found = []
    for run in results:
        parts: list[Sequence[Result]] = [one.results for one in run.steps]
        for mine in parts or [run.results]:
            level, turns = noise.among(mine), speed.among(mine)
            if level is not None:
                found.append((level, turns.value if turns is not None else None))
    return found


def _rated_noise(
    product: Product, results: Sequence[RunResult], level_there: Measured | None
) -> tuple[Measured | None, str]:
    """The level at the speed that a maker rates it at, the highest of its fan; never one of another speed. `level_there`: of the
    runs, as a comparison tells it."""
    levels = _levels(results)
    known = [turns for _, turns in levels if turns is not None]
    span = product.specification.get("speed_rpm")
    top = float(span[1]) if isinstance(span, list | tuple) and len(span) == 2 else None
    if not known:
        # Steps are made with unlike speeds, and nothing tells which: only what stayed as it was is one level.
        levels = _levels([r for r in results if not r.steps])
    if top is None or not known:
        words = f"read under load, fan at {sum(known) / len(known):.0f} rpm" if known else "read under load"
        alike = not known or max(known) - min(known) <= SAME_SPEED * max(known)
        return (
            (level_there or joined([level for level, _ in levels]), words)
            if alike
            else (None, "read at several speeds, rated at none")
        )
    there = [level for level, turns in levels if turns is not None and abs(turns - top) <= SAME_SPEED * top]
    if there:
        return joined(there), f"read under load at its rated {top:.0f} rpm"
    return (
        None,
        f"rated at {top:.0f} rpm, read at {min(known):.0f} to {max(known):.0f} rpm only: a step at full speed would tell",
    )


def rated_items(
    product: Product, results: Sequence[RunResult], noise: Measured | None = None
) -> list[RatedItem]:
    """Every rated figure of a product that a run can answer, beside what its finished runs gave.

    Args:
        results: runs of a setup with this product fitted, under the load that asks most of it.
        noise: its level there, as the review's comparison tells it: one thing is printed as one value.
    """
    spec = product.specification
    finished = [r for r in results if r.finished]
    heads = [h for r in finished if (h := headroom_of(r)) is not None]
    items = []
    if spec.get("rated_heat_w") is not None:
        items.append(
            RatedItem(
                "rated heat",
                "W",
                float(spec["rated_heat_w"]),
                _with_its_meter(joined(heads)),
                False,
                _heat_words(finished),
            )
        )
    if spec.get("rated_noise_dba") is not None:
        level, words = _rated_noise(product, finished, noise)
        items.append(
            RatedItem(
                "rated noise",
                "dBA",
                float(spec["rated_noise_dba"]),
                level,
                True,
                words,
            )
        )
    return items
