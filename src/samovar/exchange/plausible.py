"""Values that no sensor in order gives: what instruments write where they have none."""

from __future__ import annotations

import numpy as np

from samovar.core.quantity import QUANTITIES, Channel

SENTINELS = (0.0, -1.0, 85.0, 127.0, 127.5, 127.875, -127.0, -128.0, 255.0, 255.875, 999.0, -40.0)
"""What a thermometer says where it has nothing to say; real as a temperature too, if it came there by degrees."""
JUMP_K = 25.0


def usable(channel: Channel, values: np.ndarray) -> tuple[np.ndarray, str]:
    """The values with those that cannot be made missing, shape (n,), and what was found, in words; empty where
    nothing was."""
    low, high = QUANTITIES[channel.quantity].plausible
    with np.errstate(all="ignore"):
        least, most = np.fmin.reduce(values), np.fmax.reduce(values)
        # A column in order is looked at for its ends alone.
        in_range = not (least < low or most > high)
        outside = np.zeros(0, dtype=bool) if in_range else (values < low) | (values > high)
    if channel.quantity == "temperature":
        known = values if in_range else np.where(outside, np.nan, values)
        lone = _sentinels(known, least, most) if in_range else _sentinels(known)
        outside = lone if in_range else outside | lone
    count = int(outside.sum())
    if count == 0:
        return values, ""
    examples = sorted({float(v) for v in values[outside][:1000]})[:3]
    shown = ", ".join(f"{v:g}" for v in examples)
    return np.where(
        outside, np.nan, values
    ), f"{count} values no {channel.quantity} sensor gives ({shown}), not used"


def _sentinels(values: np.ndarray, low: float | None = None, high: float | None = None) -> np.ndarray:
    """Which values are a sentinel far from what came before and comes after it; `low` and `high` where they are known."""
    found = np.zeros(len(values), dtype=bool)
    if low is None or high is None:
        with np.errstate(all="ignore"):
            low, high = np.fmin.reduce(values), np.fmax.reduce(values)
    if not high - low > 0.4 * JUMP_K:
        return found
    for sentinel in SENTINELS:
        if not low <= sentinel <= high:
            continue
        at = values == sentinel
        count = int(at.sum())
        if count == 0:
            continue
        rest = values[np.isfinite(values) & ~at]
        if count > 9 * len(rest):
            continue
        # Nothing near it anywhere: it was not reached by warming or cooling, but jumped to.
        near = np.min(np.abs(rest - sentinel))
        found |= at & (near > 0.4 * JUMP_K if sentinel == 0.0 else near > JUMP_K)
    return found
