"""Values that a person reads off an instrument, as they type them in."""

from __future__ import annotations

import re

from samovar.core.rig import METER_HALF_WIDTH_DB
from samovar.exchange.problems import InputError

_NOISE = re.compile(
    r"^\s*(?P<value>\d+(?:[.,]\d+)?)\s*(?:(?:\+/-|±)\s*(?P<width>\d+(?:[.,]\d+)?))?\s*(?:dBA?)?\s*$", re.I
)


def read_noise(text: str, usual_db: float = METER_HALF_WIDTH_DB["class 2"]) -> tuple[float, float]:
    """A sound level and its half-width as typed: `27.4`, `27,4 ± 1.4 dBA`; without one it is `usual_db`, the
    meter's.

    Raises:
        InputError: not a sound level from 0 to 140 dBA.
    """
    found = _NOISE.match(text)
    value = float(found["value"].replace(",", ".")) if found else -1.0
    if found is None or not 0.0 <= value <= 140.0:
        raise InputError(f"{text!r} is no sound level; type one such as 27.4 or 27.4 ± 1.4")
    return value, float(found["width"].replace(",", ".")) if found["width"] else usual_db
