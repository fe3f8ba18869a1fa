"""The end of a burst: a budget that lends for a while and takes back, at once or bit by bit."""

from __future__ import annotations

import numpy as np

from samovar.core.load.levels import BASE_S, kept_within_k
from samovar.core.load.series import averaged
from samovar.core.load.signals import LoadSignals

FLAT_SHARE, MOVES_SHARE = 0.008, 0.02
"""A power that stays within the first share of itself is kept; one that goes by the second is not. Between lies what
meters' noise and hunting governors leave open."""
COARSE_TELLS = 2.0
"""A clock told in steps stands still while the power moves by this many times a step's share: a step of the clock is up to
three of them in power."""
BURST_MOST_S, BURST_SHARE = 60.0, 1.1
"""No firmware lends a burst for longer, and a burst draws this many times what is kept after it."""
REST_S, BURST_END_S = 25.0, 150.0
"""After a burst is given up, which takes no longer than the second, the power rests for eight times the first."""


def burst_ends(load: LoadSignals, a: int, b: int) -> bool:
    """Whether a stretch of standing temperature is a budget that is given up slowly: the power sinks through it, then
    rests, without a step, and the die goes elsewhere."""
    far = load.samples(REST_S)
    rest = slice(b + load.samples(BASE_S), min(len(load.clock), b + 8 * far))
    if (
        load.power is None
        or load.die is None
        or load.seconds(a, b) > BURST_END_S
        or b + far >= len(load.clock)
    ):
        return False
    level, later = float(np.median(load.power[max(a, b - far) : b])), averaged(load.power[rest], far)
    low, high = np.percentile(later, [5, 95])
    cool, warm = np.percentile(averaged(load.die[rest], far), [3, 97])
    rests = high - low < 2.0 * FLAT_SHARE * level and warm - cool > 1.2 * kept_within_k(load)
    return bool(rests and -0.25 * FLAT_SHARE < 1.0 - later[0] / level < 2.0 * MOVES_SHARE)


def after_a_burst(load: LoadSignals, a: int, b: int) -> bool:
    """Whether a clock that stands still does so in steps so coarse that all the power does is leakage within one of
    them, and after a burst at the load's start: that is how a budget ends it, too."""
    if load.power is None or load.clock_grid == 0.0 or load.from_wall or a == 0:
        return False
    low, high = np.percentile(averaged(load.power[a:b], load.samples(BASE_S)), [4, 96])
    hidden = COARSE_TELLS * load.clock_grid / float(np.median(load.clock[a:b]))
    until = int(np.flatnonzero(load.power[:b] > 0.5 * (1.0 + BURST_SHARE) * high)[-1:].sum())
    burst_w = float(np.percentile(load.power[: until + 1], 75))
    return bool(
        burst_w > BURST_SHARE * high
        and high - low < hidden * high
        and load.time_s[until] - load.time_s[0] < BURST_MOST_S
    )
