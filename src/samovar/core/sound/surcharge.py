"""What a tone is charged for: a level that is to say how annoying a sound is counts tones more than their energy.

Source: ISO 1996-2:2007, annex C: the audibility of a tone in its critical band (C.2.4), and the adjustment of 0 to 6 dB for the most
audible one (C.2.4, table C.2). The critical bands here are those of ECMA-418-1, which differ a little from the annex's.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

FROM_DB, MOST_DB = 4.0, 6.0
"""A tone less audible than the first is charged nothing; none is charged more than the second."""


def audibility_db(hz: float, ratio_db: float) -> float:
    """How far a tone stands over what would just be heard, dB; `ratio_db` is that of the tone to the noise in its band."""
    return ratio_db + 2.0 + math.log10(1.0 + (hz / 502.0) ** 2.5)


def surcharge_db(tones: Iterable[tuple[float, float]]) -> float:
    """The adjustment for the most audible of several tones, frequency and ratio each, dB; 0 without any."""
    most = max((audibility_db(hz, ratio) for hz, ratio in tones), default=0.0)
    return min(MOST_DB, max(0.0, most - FROM_DB))
