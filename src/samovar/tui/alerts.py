"""What a person at the other end of the bench must notice while a run goes on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from samovar.bench.course import SAME_READING
from samovar.bench.course_spec import WHEN, DueReading
from samovar.core.recording import Array
from samovar.recording.live import LiveRun
from samovar.tui.widgets.settle_panel import SettleView

LOST_S = 5.0
"""A channel that had values and has had none for so long is lost."""


@dataclass(frozen=True, slots=True)
class Alert:
    """Something that is so now. `key` stays the same for as long as it is; `grave` ones are shown in red."""

    key: str
    words: str
    grave: bool = False


def alerts_of(live: LiveRun, view: SettleView, time_s: Array, values: Array) -> list[Alert]:
    """Everything that calls for a person now, the gravest first.

    Args:
        live: the run under way.
        view: what the settle panel shows.
        time_s, values: the samples so far, shapes (n,) and (m, n).
    """
    found = []
    if live.writer.problem:
        found.append(Alert("problem", f"NOT WRITTEN: {live.writer.problem}", True))
    found += _lost(live, time_s, values)
    if live.waiting:
        found.append(Alert("start", f"START {live.spec.load.upper()} NOW, then press g"))
    if view.settled:
        found.append(Alert("settled", "SETTLED"))
    begun = next((at for name, at in live.course.steps if name == "load"), None) if live.course else None
    if live.step == "load" and begun is not None and len(time_s):
        taken = {SAME_READING.get(r.kind, r.kind) for r in live.hand_readings}
        for due in live.spec.readings:
            if due.what not in taken and _is_due(due, view.settled, float(time_s[-1]) - begun):
                found.append(
                    Alert(
                        f"due {due.words}",
                        f"READ {due.what.upper()} NOW: press {'n' if due.what == 'noise' else 'b'}",
                    )
                )
    return found


def _is_due(due: DueReading, settled: bool, loaded_s: float) -> bool:
    if due.at_s is not None:
        return loaded_s >= due.at_s
    return settled and due.when in WHEN


def _lost(live: LiveRun, time_s: Array, values: Array) -> list[Alert]:
    """Channels that went silent: one alert for all of them."""
    if len(time_s) < 3 or time_s[-1] - time_s[0] < 2.0 * LOST_S:
        return []
    slowest = max(live.recorder.strides, default=1)
    silent_s = max(LOST_S, 2.5 * slowest * float(np.median(np.diff(time_s[-50:]))))
    first = int(np.searchsorted(time_s, time_s[-1] - silent_s))
    names = [
        c.name
        for c, row in zip(live.channels, np.isfinite(values), strict=True)
        if not row[first:].any() and row[:first].any()
    ]
    if not names:
        return []
    more = f" and {len(names) - 1} more" if len(names) > 1 else ""
    return [
        Alert("lost " + ",".join(names), f"SENSOR LOST: {names[0]}{more} silent for {silent_s:.0f} s", True)
    ]


class AlertBook:
    """Which alerts were given already: each is given once for as long as it holds."""

    def __init__(self) -> None:
        self._given: set[str] = set()

    def new(self, alerts: list[Alert]) -> list[Alert]:
        """Those that were not so before."""
        fresh = [a for a in alerts if a.key not in self._given]
        # What is over may come again; that it settled is said once a run.
        self._given = {a.key for a in alerts} | (self._given & {"settled"})
        return fresh
