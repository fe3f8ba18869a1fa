"""One result against another: what nothing beats, and what has to be given up for what."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from samovar.core.compare.noise_curves import NoiseCurve
from samovar.core.compare.rungs import Ladder
from samovar.core.measured import Measured
from samovar.core.results.figure import Figure


@dataclass(frozen=True, slots=True)
class TradePoint:
    """One setup: both its figures with their half-widths. `unbeaten`: no other setup is better in one and no worse in the
    other; `curve`: the setup's other fan speeds, (across, up), by rising level."""

    name: str
    across: Measured
    up: Measured
    unbeaten: bool
    curve: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class Trade:
    """Setups in the plane of two figures.

    Attributes:
        across, up: the figures.
        points: best in `across` first.
        left_out: setups that have but one of the two, with the reason.
    """

    across: Figure
    up: Figure
    points: tuple[TradePoint, ...]
    left_out: Mapping[str, str]

    @property
    def unbeaten(self) -> tuple[TradePoint, ...]:
        """Those that nothing beats, in the order in which a line joins them."""
        return tuple(sorted((p for p in self.points if p.unbeaten), key=lambda p: p.across.value))


def trade(
    across: Figure, up: Figure, left: Ladder, right: Ladder, curves: Sequence[NoiseCurve] = ()
) -> Trade:
    """Set two ladders of the same setups against each other.

    Args:
        across, up: their figures.
        left, right: their ladders.
        curves: fan speeds of setups, where `across` is the noise.
    """
    names = [r.name for r in left.own if right.rung(r.name) is not None]
    values = {r.name: r.figure for r in left.own}
    others = {r.name: r.figure for r in right.own}
    of = {
        c.name: tuple((p.level.value, p.value.value) for p in c.points) for c in curves if len(c.points) > 1
    }
    points = tuple(
        TradePoint(n, values[n], others[n], _unbeaten(n, names, values, others, across, up), of.get(n, ()))
        for n in names
    )
    missing = {r.name: f"no {up.label}" for r in left.rungs if r.name not in names}
    missing |= {r.name: f"no {across.label}" for r in right.rungs if r.name not in names}
    return Trade(across, up, points, missing)


def _unbeaten(
    name: str,
    names: Sequence[str],
    values: Mapping[str, Measured],
    others: Mapping[str, Measured],
    across: Figure,
    up: Figure,
) -> bool:
    def cost(n: str) -> tuple[float, float]:
        return (
            values[n].value * (1.0 if across.lower_is_better else -1.0),
            others[n].value * (1.0 if up.lower_is_better else -1.0),
        )

    mine = cost(name)
    return not any(
        theirs != mine and theirs[0] <= mine[0] and theirs[1] <= mine[1]
        for n in names
        if n != name
        for theirs in (cost(n),)
    )
