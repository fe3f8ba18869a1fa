"""What a ladder stands on, however it came about: setups' values, how they vary together, and intervals over many at once."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np

from samovar.core.compare.simultaneous import LEVEL, Extremes, extremes
from samovar.core.measured import Measured
from samovar.core.recording import Array

Gap = tuple[float, float | None, float | None]
"""A difference, its half-width, and how likely chance alone would give it; None where nothing tells."""


class Estimates(Protocol):
    """Values of setups with all that is known of how they vary."""

    @property
    def setups(self) -> tuple[str, ...]:
        """Whose values there are."""

    def value(self, name: str) -> Measured:
        """A setup's value with its own interval."""

    def gap(self, name: str, other: str, family: Extremes | None) -> Gap:
        """One setup less another, over all of a family at once."""

    def from_reference(self, reference: str) -> Extremes | None:
        """The family of all differences from one setup (Dunnett)."""

    @property
    def all_pairs(self) -> Extremes | None:
        """The family of all differences there are (Tukey)."""


def family_of(
    contrasts: Sequence[tuple[int, int]], count: int, covariance: Array, dof: float
) -> Extremes | None:
    """The family of these differences, each first less second, of so many estimates."""
    if not contrasts:
        return None
    rows = np.zeros((len(contrasts), count))
    for row, (a, b) in zip(rows, contrasts, strict=True):
        row[a], row[b] = 1.0, -1.0
    return extremes(rows, covariance, dof)


@dataclass(frozen=True)
class Correlated:
    """Values that were worked out from others, with their covariance as it came out.

    Attributes:
        setups: k names.
        values: shape (k,).
        covariance: shape (k, k); what all share cancels in it by itself.
        dof: degrees of freedom behind it.
    """

    setups: tuple[str, ...]
    values: Array
    covariance: Array
    dof: float

    def value(self, name: str) -> Measured:
        """A setup's value with its own interval."""
        from scipy.special import stdtrit

        at = self.setups.index(name)
        error = math.sqrt(max(float(self.covariance[at, at]), 0.0))
        return Measured(float(self.values[at]), float(stdtrit(self.dof, 0.5 + 0.5 * LEVEL)) * error or None)

    def gap(self, name: str, other: str, family: Extremes | None) -> Gap:
        """One setup less another, over all of a family at once."""
        a, b = self.setups.index(name), self.setups.index(other)
        value = float(self.values[a] - self.values[b])
        error = math.sqrt(
            max(float(self.covariance[a, a] + self.covariance[b, b] - 2.0 * self.covariance[a, b]), 0.0)
        )
        if family is None or error == 0.0:
            return value, None, None
        return value, family.critical * error, family.p(value / error)

    def from_reference(self, reference: str) -> Extremes | None:
        """The family of all differences from one setup."""
        base = self.setups.index(reference)
        pairs = [(k, base) for k in range(len(self.setups)) if k != base]
        return family_of(pairs, len(self.setups), self.covariance, self.dof)

    @cached_property
    def all_pairs(self) -> Extremes | None:
        """The family of all differences there are."""
        pairs = list(itertools.combinations(range(len(self.setups)), 2))
        return family_of(pairs, len(self.setups), self.covariance, self.dof)
