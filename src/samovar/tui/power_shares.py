"""How a power budget is shared while a load runs, and how each part answers a change made in mid-run."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from samovar.recording.live import LiveRun

RECENT_S = 10.0


@dataclass(frozen=True, slots=True)
class PowerShare:
    """One part: its mean power over the last seconds, W; its share of all parts, 0 to 1; and by how much that
    is more (W) than before the last change by hand, None where there was none."""

    name: str
    power_w: float
    share: float
    change_w: float | None


def power_shares(live: LiveRun) -> tuple[PowerShare, ...]:
    """The parts that draw power, without what is measured at the wall, which holds them all."""
    time_s, values = live.arrays()
    rows = [
        i for i, c in enumerate(live.channels) if c.quantity == "power" and c.role not in ("wall", "core")
    ]
    if not rows or len(time_s) < 3 or live.step != "load":
        return ()
    now = _means(values[rows], time_s, float(time_s[-1]))
    at_s = live.changed_s
    before = None if at_s is None or time_s[-1] - at_s < 2.0 else _means(values[rows], time_s, at_s)
    known = [k for k in range(len(rows)) if np.isfinite(now[k])]
    total = float(sum(now[k] for k in known))
    if total <= 0 or (len(known) < 2 and before is None):
        return ()
    return tuple(
        PowerShare(
            live.channels[rows[k]].name,
            float(now[k]),
            float(now[k]) / total,
            float(now[k] - before[k]) if before is not None and np.isfinite(before[k]) else None,
        )
        for k in known
    )


def _means(rows: np.ndarray, time_s: np.ndarray, end_s: float) -> np.ndarray:
    """Each row's mean over the last seconds before a moment, shape (m,); NaN where it has no value then."""
    part = rows[:, np.searchsorted(time_s, end_s - RECENT_S) : np.searchsorted(time_s, end_s, "right")]
    have = np.isfinite(part)
    count = have.sum(axis=1)
    return np.asarray(
        np.where(count > 0, np.where(have, part, 0.0).sum(axis=1) / np.maximum(count, 1), np.nan)
    )
