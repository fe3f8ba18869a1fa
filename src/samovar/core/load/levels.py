"""What a load's signals keep to: the level a die touches, the levels of power one after another, slopes over the die."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from samovar.core.load.series import Mask, averaged, bridged, greatest, over
from samovar.core.load.signals import LoadSignals
from samovar.core.phases import mask_runs
from samovar.core.recording import Array

BASE_S = 5.0
"""Signals are averaged over this before their ranges are asked for: shorter swings are a governor's, not a regulation."""
UPPER_EDGE_S = 14.0
"""A sawtooth touches its limit again and again: its upper edge over this time is what is regulated."""
LEVEL_STEP, LEVEL_S = 0.03, 4.0
"""Two levels of power differ by this share over twice the time: less is a governor's hunting."""
SURE = 4.0
"""Standard errors from which a slope over the die's temperature counts; four, for the errors are correlated."""
ONE_LEVEL_SHARE, ONE_LEVEL_S = 0.06, 30.0
"""A stretch is of one level where its power stays within the share, and lasts so long."""
KEPT_K, KEPT_LEAST_K, KEPT_RISE_SHARE = 1.2, 0.4, 0.04
"""A kept temperature stays within a share of its rise over idle, within these bounds: sensors' noise, governors' hunting."""
CONSTANT_SHARE = 0.02
"""A power that stays within the share is constant."""


def upper_edge(load: LoadSignals) -> Array:
    """The level that the die touches again and again, shape (n,): as high as it was within the last seconds, and will
    be within the next, whichever is the lower. It follows a rise and a fall, and bridges the teeth of a sawtooth."""
    assert load.die is not None
    width, n = load.samples(UPPER_EDGE_S), len(load.die)
    die = bridged(np.where(load.active, load.die, np.nan))
    both = greatest(np.pad(die, width, mode="edge"), width)
    half = width // 2
    return np.minimum(both[width - half : width - half + n], both[width + half : width + half + n])


@dataclass(frozen=True, slots=True)
class Slope:
    """How a signal, as a share of its mean, goes with the die: 1/K, and its standard error."""

    per_k: float
    error: float

    @property
    def sure(self) -> bool:
        """Whether it is shown not to be nought."""
        return abs(self.per_k) > SURE * self.error


def slope_over_die(load: LoadSignals, x: Array, a: int, b: int, where: Mask | None = None) -> Slope | None:
    """The least-squares slope of a signal over the die's temperature from a to b, or where it is asked for, shape
    (b - a,). Neighbouring samples are no news of each other: one in BASE_S counts. None where too few do, or the die does
    not move."""
    assert load.die is not None
    part = load.active[a:b] if where is None else load.active[a:b] & where
    die, row = load.die[a:b][part], x[a:b][part]
    count = len(die) / load.samples(BASE_S)
    if count < 4 or len(die) < 12:
        return None
    off, mean = die - die.mean(), max(float(row.mean()), 1e-6)
    spread = float((off**2).mean())
    if spread <= 0.0:
        return None
    slope = float((off * row).mean()) / spread / mean
    rest = row / mean - 1.0 - slope * off
    return Slope(slope, float(np.sqrt((rest**2).mean() / (spread * (count - 2.0)))))


def levels_of(load: LoadSignals, a: int, b: int) -> list[tuple[int, int]]:
    """The levels of power from a to b, one after another: a budget that is cut in steps is one budget after another.
    Half-open ranges of samples, touching each other."""
    reach = load.samples(LEVEL_S)
    if load.power is None or b - a < 8 * reach:
        return [(a, b)]
    power = np.log(np.maximum(averaged(load.power[a:b], reach), 0.01))
    steps = np.abs(over(power, reach))
    edges = [a]
    for first, last in mask_runs(steps > LEVEL_STEP):
        at = a + first + int(steps[first:last].argmax())
        if at - edges[-1] > 3 * reach and b - at > 3 * reach:
            edges.append(at)
    return list(itertools.pairwise([*edges, b]))


def kept_within_k(load: LoadSignals) -> float:
    """Within how many kelvin a temperature is kept: a small share of the rise, no less than the sensor's digits."""
    if load.die is None or load.raw_die is None:
        return KEPT_K
    steps = np.abs(np.diff(load.raw_die))
    steps = steps[np.isfinite(steps) & (steps > 0)]
    digit = float(np.percentile(steps, 10)) if len(steps) else 0.0
    cold = load.base_c if load.base_c is not None else 30.0
    share = KEPT_RISE_SHARE * max(0.0, float(np.percentile(load.die, 90)) - cold)
    return max(min(KEPT_K, max(KEPT_LEAST_K, share)), min(1.05 * digit, KEPT_K))


def one_level(load: LoadSignals, a: int, b: int, share: float) -> bool:
    """Whether the power stays within a share of itself from a to b, its beginning apart, for ONE_LEVEL_S at least."""
    assert load.power is not None
    if load.seconds(a, b) < ONE_LEVEL_S:
        return False
    low, high = np.percentile(load.power[a + min(load.samples(10.0), (b - a) // 4) : b], [4, 96])
    return bool(high - low < share * high)


def at_once_there(load: LoadSignals, a: int, b: int) -> bool:
    """Whether the power of a stretch is a few seconds after its beginning what it is to its end."""
    assert load.power is not None
    early = load.power[a + load.samples(12.0) : a + load.samples(20.0)]
    late = load.power[a + 3 * (b - a) // 4 : b]
    if len(early) == 0 or len(late) == 0:
        return True
    return abs(float(np.median(early)) - float(np.median(late))) < CONSTANT_SHARE * float(np.median(late))
