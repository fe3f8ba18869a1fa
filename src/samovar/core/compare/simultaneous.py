"""Intervals that hold all at once: how far the largest of many correlated t-values strays by chance.

Sources: C. W. Dunnett, "A multiple comparison procedure for comparing several treatments with a control", J. Am. Stat.
Assoc. 50 (1955) 1096, for the differences from one reference; J. W. Tukey and C. Y. Kramer for all pairs (Kramer,
Biometrics 12 (1956) 307); both are the multivariate t distribution of the differences at hand (A. Genz and F. Bretz,
"Computation of Multivariate Normal and t Probabilities" (2009), 1.1). Its quantile is taken from a fixed sample of
that distribution, so that unequal numbers of passes and a fitted drift are in it as they are.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from samovar.core.recording import Array

LEVEL = 0.95
"""What intervals cover."""
DRAWS, DRAWS_OF_MANY, MANY = 20_000, 6_000, 60
"""So many draws tell the quantile to 0.7 %; of more than sixty differences at once fewer do, to 1 %."""
_SEED = 20_26


@dataclass(frozen=True)
class Extremes:
    """The largest |t| of a family of differences, drawn often. `maxima`: shape (draws,), rising; `dof`: of one t."""

    maxima: Array
    dof: float
    count: int

    @property
    def critical(self) -> float:
        """What the largest |t| stays under in 95 of 100 cases."""
        if self.count == 1:
            from scipy.special import stdtrit

            return float(stdtrit(self.dof, 0.5 + 0.5 * LEVEL))
        return float(self.maxima[math.ceil(LEVEL * len(self.maxima)) - 1])

    def p(self, t: float) -> float:
        """How often chance alone would give as large a |t| somewhere in the family."""
        from scipy.special import stdtr

        alone = float(2.0 * stdtr(self.dof, -abs(t)))
        if self.count == 1:
            return alone
        over = len(self.maxima) - int(np.searchsorted(self.maxima, abs(t)))
        # Further out than the draws reach, the sum of all that are as far (Bonferroni) is as good.
        return min(1.0, over / len(self.maxima) if over > 50 else self.count * alone)


def extremes(contrasts: Array, covariance: Array, dof: float) -> Extremes:
    """The largest |t| of these differences.

    Args:
        contrasts: shape (m, k), each row a difference of k estimates.
        covariance: shape (k, k), of the estimates, in any unit.
        dof: degrees of freedom of the variance.
    """
    count = len(contrasts)
    if count <= 1:
        return Extremes(np.empty(0), dof, 1)
    size = np.sqrt(np.einsum("mk,kl,ml->m", contrasts, covariance, contrasts))
    draws = DRAWS if count <= MANY else DRAWS_OF_MANY
    rng = np.random.default_rng(_SEED)
    # The root of the covariance, which may be singular where a drift is fitted to few runs.
    values, vectors = np.linalg.eigh(covariance)
    root: NDArray[np.float64] = vectors * np.sqrt(np.maximum(values, 0.0))
    scaled = (contrasts @ root) / np.maximum(size, 1e-300)[:, None]
    normal = rng.standard_normal((draws, covariance.shape[0]))
    spread = np.sqrt(rng.chisquare(dof, draws) / dof)
    maxima = np.abs(normal @ scaled.T).max(axis=1) / spread
    return Extremes(np.sort(maxima), dof, count)
