"""Values that a person reads off an instrument, as they type them in."""

from __future__ import annotations

import re

from samovar.exchange.problems import InputError

_NOISE = re.compile(
    r"^\s*(?P<value>\d+(?:[.,]\d+)?)\s*(?:(?:\+/-|±)\s*(?P<width>\d+(?:[.,]\d+)?))?\s*(?:dBA?)?\s*$", re.I
)


def read_noise(text: str) -> tuple[float, float]:
    """A sound level and its half-width as typed: `27.4`, `27,4 ± 1.4 dBA`.

    Raises:
        InputError: not a sound level from 0 to 140 dBA.
    """
    found = _NOISE.match(text)
    value = float(found["value"].replace(",", ".")) if found else -1.0
    if found is None or not 0.0 <= value <= 140.0:
        raise InputError(f"{text!r} is no sound level; type one such as 27.4 or 27.4 ± 1.4")
    # Without a width of its own: a class 2 meter's tolerance (IEC 61672-1), k = 2.
    return value, float(found["width"].replace(",", ".")) if found["width"] else 1.4
