"""The clock that a load would have reached, had nothing held it."""

from __future__ import annotations

import numpy as np

from samovar.core.facts import Facts
from samovar.core.held.kept import POWER, kept_by_slope
from samovar.core.load.limits import Limits
from samovar.core.load.series import Mask, averaged
from samovar.core.load.signals import LoadSignals

HELD_SHARE = 0.02
"""The clock must be this much under the reference, as a share, to count as held: less is a chip's own play."""
MOST_NOISE = 0.01
"""A clock's jitter widens that by twice itself, but by no more than this: beyond, it is no jitter."""
BOUND_SHARE = 0.8
"""A plateau that shows a limit for this share of itself was not free."""
TOP_S = 3.0
"""The reference is what was kept up for so long; a log of a sample in five seconds shows a burst in two of them."""
SLOW_LOG_S = 2.5
ALONG_SHARE, ALONG_S, ALONG_K = 0.06, 60.0, 5.0
"""A plateau lies within the share of its top; it tells of a budget from the first second on where it lasts, and warms."""
UNDER_BOOST = 0.93
"""All cores together reach a few per cent less than the stated boost, not more."""


def free_from(load: LoadSignals, reference: float) -> float:
    """The clock from which on a load counts as free, MHz: the reference less what is a chip's own play."""
    return reference * (1.0 - HELD_SHARE - 2.0 * min(load.noise_share, MOST_NOISE))


def reference_of(
    load: LoadSignals, limits: Limits, facts: Facts, known_mhz: float | None
) -> tuple[float | None, bool]:
    """The reference clock, MHz, and whether this run itself showed it free. None where all of the load was bound by
    something and nothing says what it would have reached. `known_mhz`: what other runs of the load reached."""
    active = load.active
    # A slow log shows a short burst in its load's first sample, or not at all.
    clocks = load.clock if load.interval_s >= SLOW_LOG_S else load.clock[active]
    if len(clocks) == 0 or not active.any():
        return None, False
    enough = max(3 if load.interval_s < SLOW_LOG_S else 2, load.samples(TOP_S))
    # The highest of many noisy values is too high by about two deviations.
    own = float(np.sort(clocks)[-min(enough, len(clocks))]) * (1.0 - 2.0 * min(load.noise_share, MOST_NOISE))
    if known_mhz is not None and known_mhz > own * (1.0 + HELD_SHARE):
        return known_mhz, False
    plateau = active & (load.clock > own * (1.0 - 0.75 * HELD_SHARE))
    # That the graphics side eats from the first second on is known where together they are at a stated budget.
    shows = limits.known | (limits.eaten if facts.cpu.sustained_power_w is not None else False)
    bound = bool(plateau.any()) and float(shows[plateau].mean()) >= BOUND_SHARE
    boost = facts.cpu.boost_clock_mhz
    along = _budget_all_along(load, own, active)
    if along and not bound and boost is not None and own > UNDER_BOOST * boost:
        # A stated boost is one core's: so little under it the budget has hardly cost anything.
        along = False
    if bound or along:
        if boost is None:
            return None, False
        # The boost is stated for the fastest cores; `own` is the mean of all that work.
        with np.errstate(invalid="ignore", divide="ignore"):
            slower = float(np.nanmedian(load.clock[active] / load.fast_clock[active]))
        return max(boost * min(slower, 1.0), own), False
    return own, True


def _budget_all_along(load: LoadSignals, top_mhz: float, active: Mask) -> bool:
    """Whether the highest plateau was one power, kept while the die warmed by kelvins and the clock gave way for it: a
    budget from the first second on, so that nothing here was free. A free chip's power follows its leakage."""
    plateau = np.flatnonzero(active & (load.clock > top_mhz * (1.0 - ALONG_SHARE)))
    if load.power is None or load.die is None or load.from_wall or load.light or len(plateau) < 12:
        return False
    a, b = int(plateau[0]) + load.samples(4.0), int(plateau[-1]) + 1
    inside = active[a:b] & (load.clock[a:b] > top_mhz * (1.0 - ALONG_SHARE))
    if float(inside.sum()) * load.interval_s < ALONG_S or float(inside.mean()) < 0.9:
        return False
    cool, warm = np.percentile(averaged(load.die[a:b], load.samples(8.0))[inside], [3, 97])
    return bool(warm - cool > ALONG_K) and kept_by_slope(load, a, b, inside) == POWER
