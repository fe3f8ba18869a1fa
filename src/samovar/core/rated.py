"""A maker's claims beside what was measured: the difference, with its uncertainty."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from samovar.core.compare.rungs import joined
from samovar.core.product import Product
from samovar.core.results.figure import RunResult
from samovar.core.uncertainty import Measured

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


def _headroom(result: RunResult) -> Measured | None:
    thermal = result.reading.thermal
    if thermal is None or thermal.headroom_w is None:
        return None
    width = None
    if thermal.half_width_95 is not None and thermal.resistance_k_per_w:
        # Headroom is the rise to the limit over the resistance: its relative width is the resistance's.
        width = thermal.headroom_w * thermal.half_width_95 / thermal.resistance_k_per_w
    return Measured(thermal.headroom_w, width)


def _heat_words(results: Sequence[RunResult]) -> str:
    """What the headroom means, and how far beyond what was measured it lies."""
    words = "heat that would bring this die to its limit in this room"
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


def _speed_words(results: Sequence[RunResult]) -> str:
    """The fan speed that belongs to the noise read, as far as it is known."""
    speeds = [
        f.value
        for r in results
        if r.noise is not None and (f := r.reading.steady_mean("fan", ("other",))) is not None
    ]
    return f"read under load, fan at {sum(speeds) / len(speeds):.0f} rpm" if speeds else "read under load"


def rated_items(product: Product, results: Sequence[RunResult]) -> list[RatedItem]:
    """Every rated figure of a product that a run can answer, beside what its finished runs gave.

    Args:
        results: runs of setups with this product fitted, under the load that asks most of it.
    """
    spec = product.specification
    finished = [r for r in results if r.finished]
    heads = [h for r in finished if (h := _headroom(r)) is not None]
    noises = [r.noise for r in finished if r.noise is not None]
    items = []
    if spec.get("rated_heat_w") is not None:
        items.append(
            RatedItem(
                "rated heat",
                "W",
                float(spec["rated_heat_w"]),
                joined(heads),
                False,
                _heat_words(finished),
            )
        )
    if spec.get("rated_noise_dba") is not None:
        items.append(
            RatedItem(
                "rated noise",
                "dBA",
                float(spec["rated_noise_dba"]),
                joined(noises),
                True,
                _speed_words(finished),
            )
        )
    return items
