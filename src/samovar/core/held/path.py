"""The likeliest course of causes through a load: the best scores, with no more changes than they are worth."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from samovar.core.load.series import Mask
from samovar.core.recording import Array

CHANGE_COST = 3.0
"""A change of cause must be worth this much, in score times seconds: a cause that is seen for a few seconds only, or is
hardly the better one for half a minute, is a moment's misreading."""


def likeliest(scores: Array, lasts_s: Array, anew: Mask) -> NDArray[np.intp]:
    """The course of rows with the greatest sum of score times duration less CHANGE_COST for each change (Viterbi's
    algorithm over stretches of equal scores).

    Args:
        scores: shape (k, n).
        lasts_s: how long each sample stands, shape (n,).
        anew: samples before which a change costs nothing, shape (n,).

    Returns:
        The row chosen at each sample, shape (n,).
    """
    k, n = scores.shape
    if n == 0:
        return np.zeros(0, dtype=np.intp)
    differs = np.any(scores[:, 1:] != scores[:, :-1], axis=0) | anew[1:]
    starts = np.concatenate([[0], np.flatnonzero(differs) + 1])
    worth = np.add.reduceat(scores * lasts_s, starts, axis=1)
    came = np.zeros((len(starts), k), dtype=np.intp)
    best = worth[:, 0].copy()
    for at in range(1, len(starts)):
        cost = 0.0 if anew[starts[at]] else CHANGE_COST
        leader = int(best.argmax())
        changes = best[leader] - cost > best
        came[at] = np.where(changes, leader, np.arange(k))
        best = np.where(changes, best[leader] - cost, best) + worth[:, at]
    chosen = np.zeros(len(starts), dtype=np.intp)
    chosen[-1] = int(best.argmax())
    for at in range(len(starts) - 1, 0, -1):
        chosen[at - 1] = came[at][chosen[at]]
    return np.repeat(chosen, np.diff(np.append(starts, n)))
