"""The passes of one rig, load and figure as one experiment: value = setup + drift × order of the run + pass.

Sources: the general linear model by least squares (N. R. Draper and H. Smith, "Applied Regression Analysis", 3rd ed.
(1998), ch. 5 and 14): a mean for each setup, one slope over the order of the runs (analysis of covariance), one variance
of a pass for all setups. B. L. Welch, Biometrika 34 (1947) 28, with Satterthwaite's degrees of freedom, where the setups'
own variances are plainly unequal by M. B. Brown and A. B. Forsythe's test, J. Am. Stat. Assoc. 69 (1974) 364.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from samovar.core.compare.estimates import Gap, family_of
from samovar.core.compare.pooling import Spread, shrunk
from samovar.core.compare.simultaneous import LEVEL, Extremes
from samovar.core.measured import COVERAGE_FACTOR, Measured, combine
from samovar.core.recording import Array

LEAST_DOF_WITH_DRIFT = 2
"""A drift that leaves less than this to tell the scatter by is not fitted."""
LEAST_FOR_UNEQUAL = 3
"""Of fewer passes in a setup its own variance tells too little to be held against another's."""
PLAINLY_UNEQUAL_P = 0.01
"""Variances that chance would spread so far apart in less than one of a hundred experiments are unequal."""
HIDDEN_BY_ORDER = 2.0
"""Where the drift makes a difference's variance more than so many times as large, the order of the runs hides it."""


@dataclass(frozen=True, slots=True)
class Pass:
    """One run's value of one figure.

    Attributes:
        setup: what it is a pass of.
        order: the run's place among those on its rig, from 0.
        value: with its own half-width, all that one run knows of.
        common: the part of the half-width that every run has which shares `common_of`: it cancels in their difference,
            and more passes do not make it smaller.
        common_of: what is shared: an instrument, the room's probe; empty for nothing.
        run: its name.
    """

    setup: str
    order: float
    value: Measured
    common: float = 0.0
    common_of: str = ""
    run: str = ""

    @property
    def own(self) -> float:
        """The standard uncertainty that is this run's alone."""
        half = self.value.half_width or 0.0
        return math.sqrt(max(half * half - self.common * self.common, 0.0)) / COVERAGE_FACTOR


@dataclass(frozen=True)
class Experiment:
    """Passes with what was fitted to them.

    Attributes:
        passes: all that were measured, none a mere bound.
        setups: k names in the order of their first pass.
        values: shape (k,), the setups' values at the middle of the runs' order.
        unit: shape (k, k), the values' covariance where one pass has the variance 1.
        drift: per run of the order, with its half-width; None where it was not fitted.
        spread: the variance of a pass as these passes alone show it; None where none has a second.
        pooled: the same joined with the bench's history; None where nothing tells.
    """

    passes: tuple[Pass, ...]
    setups: tuple[str, ...]
    values: Array
    unit: Array
    drift: Measured | None
    spread: Spread | None
    pooled: Spread | None
    hidden: bool

    @cached_property
    def groups(self) -> dict[str, tuple[Pass, ...]]:
        """The passes by setup."""
        return {name: tuple(p for p in self.passes if p.setup == name) for name in self.setups}

    @cached_property
    def variance(self) -> float | None:
        """Of one pass: pooled, and never less than the runs claim for themselves: passes that agree by luck do not make
        a bench better than its samples. None where nothing tells."""
        if self.pooled is None:
            return None
        return max(self.pooled.variance, sum(p.own**2 for p in self.passes) / len(self.passes))

    @property
    def pass_sd(self) -> float | None:
        """The standard deviation of a pass; None where nothing tells."""
        return None if self.variance is None else math.sqrt(self.variance)

    @cached_property
    def unequal(self) -> bool:
        """Whether the setups scatter plainly unlike each other, so that none can borrow another's scatter."""
        groups = [[p.value.value for p in group] for group in self.groups.values()]
        if len(groups) < 2 or min(len(g) for g in groups) < LEAST_FOR_UNEQUAL:
            return False
        from scipy.special import fdtrc

        away = [np.abs(np.array(g) - np.median(g)) for g in groups]
        every = np.concatenate(away)
        between = sum(len(a) * (a.mean() - every.mean()) ** 2 for a in away) / (len(away) - 1)
        within = sum(float(((a - a.mean()) ** 2).sum()) for a in away) / (len(every) - len(away))
        if within <= 0.0:
            return False
        return float(fdtrc(len(away) - 1, len(every) - len(away), between / within)) < PLAINLY_UNEQUAL_P

    def _at(self, name: str) -> int:
        return self.setups.index(name)

    def _alone(self, name: str) -> Spread:
        values = np.array([p.value.value for p in self.groups[name]])
        return Spread(float(values.var(ddof=1)), len(values) - 1.0)

    def common(self, name: str) -> tuple[float, str]:
        """What all passes of a setup share with others: its half-width, and with whom."""
        group = self.groups[name]
        return max(p.common for p in group), "/".join(sorted({p.common_of for p in group}))

    def value(self, name: str) -> Measured:
        """A setup's value with the half-width of its own 95 % interval; where nothing tells how a pass scatters, what the
        one run claims for itself."""
        from scipy.special import stdtrit

        at, group = self._at(name), self.groups[name]
        value = float(self.values[at])
        if self.variance is None or self.pooled is None:
            return Measured(value, group[0].value.half_width)
        error, dof = math.sqrt(self.variance * self.unit[at, at]), self.pooled.dof
        if self.unequal:
            alone = self._alone(name)
            error, dof = math.sqrt(alone.variance / len(group)), alone.dof
        half = float(stdtrit(dof, 0.5 + 0.5 * LEVEL)) * error
        return Measured(value, combine(half, self.common(name)[0]) or None)

    def gap(self, name: str, other: str, family: Extremes | None) -> Gap:
        """One setup less another: the difference, its half-width, and how likely chance alone would give it (both over
        all of a family at once); None where nothing tells."""
        a, b = self._at(name), self._at(other)
        value = float(self.values[a] - self.values[b])
        if self.variance is None or self.pooled is None or family is None:
            return value, None, None
        shared = self._unshared(name, other)
        if self.unequal:
            return value, *self._welch(name, other, value, family.count, shared)
        error = math.sqrt(
            self.variance * max(float(self.unit[a, a] + self.unit[b, b] - 2.0 * self.unit[a, b]), 0.0)
        )
        half = combine(family.critical * error, shared)
        # Unlike instruments widen the interval: the p that goes with it is that of the gap so much smaller.
        t = abs(value) * family.critical / half if half > 0.0 else math.inf
        return value, half or None, family.p(t)

    def _unshared(self, name: str, other: str) -> float:
        """What two setups' values may be apart since they were not read by the same instrument."""
        (a, of_a), (b, of_b) = self.common(name), self.common(other)
        return 0.0 if of_a == of_b else combine(a, b)

    def _welch(
        self, name: str, other: str, value: float, count: int, shared: float
    ) -> tuple[float | None, float | None]:
        from scipy.special import stdtr, stdtrit

        a, b = self._alone(name), self._alone(other)
        va, vb = a.variance / len(self.groups[name]), b.variance / len(self.groups[other])
        if va + vb <= 0.0:
            return None, None
        dof = (va + vb) ** 2 / (va**2 / a.dof + vb**2 / b.dof)
        # Sidak: so many at once, as if they were independent, which covers more than is asked.
        critical = float(stdtrit(dof, 0.5 + 0.5 * LEVEL ** (1.0 / count)))
        half = combine(critical * math.sqrt(va + vb), shared)
        alone = float(2.0 * stdtr(dof, -abs(value) * critical / half))
        return half, 1.0 - (1.0 - alone) ** count

    def _family(self, contrasts: Sequence[tuple[int, int]]) -> Extremes | None:
        if self.pooled is None:
            return None
        return family_of(contrasts, len(self.setups), self.unit, self.pooled.dof)

    def from_reference(self, reference: str) -> Extremes | None:
        """The family of all differences from one setup (Dunnett)."""
        base = self._at(reference)
        return self._family([(k, base) for k in range(len(self.setups)) if k != base])

    @cached_property
    def all_pairs(self) -> Extremes | None:
        """The family of all differences there are (Tukey)."""
        return self._family(list(itertools.combinations(range(len(self.setups)), 2)))


def fit(passes: Sequence[Pass], prior: Spread | None = None) -> Experiment | None:
    """Fit setups, drift and the variance of a pass.

    Args:
        passes: of one rig, one load and one figure; bounds are left aside.
        prior: what a pass's variance was on this bench before.

    Returns:
        None without a measured pass.
    """
    told = sorted((p for p in passes if p.value.bound is None), key=lambda p: p.order)
    if not told:
        return None
    setups = tuple(dict.fromkeys(p.setup for p in told))
    values = np.array([p.value.value for p in told])
    design = np.array([[float(p.setup == name) for name in setups] for p in told])
    order = np.array([p.order for p in told])
    order = order - order.mean()
    counts = design.sum(axis=0)
    means = design.T @ values / counts
    within = order - design @ (design.T @ order / counts)
    sum_squares = float(within @ within)
    dof = len(told) - len(setups)
    unit = np.diag(1.0 / counts)
    drift = None
    rests = values - design @ means
    fitted = dof - 1 >= LEAST_DOF_WITH_DRIFT and sum_squares > 1e-9
    if fitted:
        # Frisch, Waugh and Lovell: the slope from what is within the setups, then taken off their means.
        slope = float(within @ values) / sum_squares
        lever = design.T @ order / counts
        means = means - slope * lever
        unit = unit + np.outer(lever, lever) / sum_squares
        rests = rests - slope * within
        dof -= 1
    spread = Spread(float(rests @ rests) / dof, float(dof)) if dof > 0 else None
    pooled = shrunk(spread, prior) if spread is not None else prior
    if fitted and pooled is not None:
        from scipy.special import stdtrit

        error = math.sqrt(pooled.variance / sum_squares)
        drift = Measured(slope, float(stdtrit(pooled.dof, 0.975)) * error)
    size = np.diag(unit)
    pairs = size[:, None] + size[None, :] - 2.0 * unit
    plain = 1.0 / counts[:, None] + 1.0 / counts[None, :]
    hidden = bool(fitted and float((pairs / plain).max()) > HIDDEN_BY_ORDER)
    return Experiment(tuple(told), setups, means, unit, drift, spread, pooled, hidden)
