"""What a bench showed before: the variance of a pass, shrunk towards it.

Source: G. K. Smyth, "Linear models and empirical Bayes methods for assessing differential expression in microarray
experiments", Stat. Appl. Genet. Mol. Biol. 3 (2004) 3, section 6.2: variances of experiments scatter as a scaled F; the
mean and the variance of their logarithms give the variance s0² they gather around and how firmly, in degrees of freedom.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

LEAST_EXPERIMENTS = 2
"""One experiment more does not tell how much experiments differ."""
LEAST_DOF = 1.0


@dataclass(frozen=True, slots=True)
class Spread:
    """A variance of one pass and the degrees of freedom it is known with."""

    variance: float
    dof: float


def prior_of(history: Sequence[Spread]) -> Spread | None:
    """What the variance of a pass on this bench gathers around, from other experiments; None while there are too few.

    Never firmer than all of them together are.
    """
    from scipy.special import digamma, polygamma

    told = [s for s in history if s.dof >= LEAST_DOF and s.variance > 0.0]
    if len(told) < LEAST_EXPERIMENTS:
        return None
    total = sum(s.dof for s in told)
    logs = [math.log(s.variance) - float(digamma(s.dof / 2.0)) + math.log(s.dof / 2.0) for s in told]
    centre = sum(logs) / len(logs)
    scatter = sum((x - centre) ** 2 for x in logs) / (len(logs) - 1)
    scatter -= sum(float(polygamma(1, s.dof / 2.0)) for s in told) / len(told)
    if scatter <= 0.0:
        # They scatter no more than chance has them do: one variance for all.
        return Spread(sum(s.variance * s.dof for s in told) / total, total)
    dof = min(2.0 * _inverse_trigamma(scatter), total)
    if dof < LEAST_DOF:
        # Experiments so unlike gather around nothing: Student's quantile on a part of a degree knows no bounds.
        return None
    return Spread(math.exp(centre + float(digamma(dof / 2.0)) - math.log(dof / 2.0)), dof)


def shrunk(own: Spread, prior: Spread | None) -> Spread:
    """An experiment's own variance joined with what the bench showed before, each by its degrees of freedom."""
    if prior is None:
        return own
    dof = own.dof + prior.dof
    return Spread((own.variance * own.dof + prior.variance * prior.dof) / dof, dof)


def _inverse_trigamma(value: float) -> float:
    """x with trigamma(x) = value, by Newton's method (Smyth 2004, appendix)."""
    from scipy.special import polygamma

    x = 0.5 + 1.0 / value
    for _ in range(50):
        first = float(polygamma(1, x))
        step = first * (1.0 - first / value) / float(polygamma(2, x))
        x += step
        if -step / x < 1e-8:
            break
    return x
