"""Idle, load and cool-down, found from what the recording itself shows."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from samovar.core.despike import despiked, lone_values
from samovar.core.recording import Array, Recording

SHORTEST_LOAD_S = 15.0
"""A shorter burst of activity is not a load of its own."""
LOAD_ON, LOAD_OFF = "load on:", "load off"
"""What the recorder's marks of a load begin with."""
LEAST_RISE_K = 8.0
HARDLY_BUSY = 0.15
"""A machine whose processors were never busier may have been loading its drive."""
LEAST_RATE_SHARE = 0.05
"""A drive that moves less than this share of its usual most is idle; hot, it still does more."""
LEAST_POWER_SHARE = 0.18
"""Without a utilisation, a package's power over this share of its range is a load's; a whole machine's idles less calmly."""
LONGEST_DIP_S = 20.0
"""A shorter dip of activity does not end a load."""


@dataclass(frozen=True, slots=True)
class Phase:
    """One stretch of a run, seconds from the first sample. `name` is idle, load or cool-down."""

    name: str
    start_s: float
    end_s: float

    @property
    def duration_s(self) -> float:
        """Length of the phase, seconds."""
        return self.end_s - self.start_s


def utilisation_rows(recording: Recording) -> list[int]:
    """Channels that tell how busy the processors are: not the duty of a board's fan or this program's own share,
    which are in per cent too."""
    found = recording.find("load", ["package", "die", "other", "gpu", "core"])
    return [i for i in found if recording.channels[i].domain not in ("board", "case")]


def activity(recording: Recording) -> Array | None:
    """How busy the machine was, 0 to 1, shape (n,): from utilisation, else work, power or clock,
    whichever the recording carries; None where none of them varies enough to tell."""
    utilisation = utilisation_rows(recording)
    processors = [i for i in utilisation if recording.channels[i].domain != "gpu"]
    if processors:
        return _busy(recording, utilisation)
    drawn = _drawn_activity(recording)
    if not utilisation:
        return drawn if drawn is not None else _drive_activity(recording)
    # A log that knows how busy the graphics are, and not the processor, says of that by what it draws.
    graphics = _busy(recording, utilisation)
    return graphics if drawn is None else np.fmax(graphics, drawn)


def _busy(recording: Recording, rows: list[int]) -> Array:
    """How busy the machine was by these channels' utilisation, 0 to 1, shape (n,)."""
    values = recording.values[rows]
    totals = [k for k, i in enumerate(rows) if recording.channels[i].role != "core"]
    with np.errstate(all="ignore"):
        row = np.nanmax(
            np.where(np.isfinite(values[totals or slice(None)]), values[totals or slice(None)], -1), axis=0
        )
    row = np.where(row < 0, np.nan, row) / 100.0
    top = _high(row)
    if top < HARDLY_BUSY and (drive := _drive_activity(recording)) is not None:
        return drive
    if top > 0.03:
        return np.clip(row / max(top, 0.1), 0.0, 1.2)
    return np.zeros_like(row)


def _drawn_activity(recording: Recording) -> Array | None:
    """How busy the machine was by work, power or clock, shape (n,); None where none of them shows a contrast."""
    for quantity, roles in (("work", None), ("power", ["package", "wall", "gpu", "other"]), ("clock", None)):
        found = recording.find(quantity, roles, "cpu" if quantity == "work" else None)
        if not found:
            continue
        row = recording.values[found[0]]
        if quantity == "clock":
            clock = recording.cpu_clock()
            row = clock if clock is not None else row
        # A lone value that no part can have is no sign of work.
        row = np.where(lone_values(row, quantity), np.nan, row)
        low, high = float(np.nanpercentile(row, 2)), _high(row)
        if quantity == "work":
            low = 0.0
            if high <= 0:
                # A load's own counter that never moved: no load was ever on.
                return np.zeros(len(row))
        # A recording that is all one phase shows no contrast: then its level cannot be told from idle.
        if high > 0 and high - low > 0.25 * high:
            # A package on its battery, or at its limit, draws far less than in its burst, and still far more than idle.
            own = quantity == "power" and recording.channels[found[0]].role != "wall"
            full = 2.0 * LEAST_POWER_SHARE if own else 1.0
            return np.asarray(np.clip((row - low) / (full * (high - low)), 0.0, 1.2))
    return None


def _drive_activity(recording: Recording) -> Array | None:
    """How busy a drive was, 0 to 1, shape (n,), by what it read and wrote together; None where it shows no contrast."""
    rows = recording.values[recording.find("work", ["storage"])]
    if len(rows) == 0:
        return None
    row = np.where(np.isfinite(rows), rows, 0.0).sum(axis=0)
    high = _high(row)
    busy = row > LEAST_RATE_SHARE * high
    return None if high <= 0 or busy.all() else np.where(busy, 1.0, 0.0)


def _high(row: Array) -> float:
    finite = row[np.isfinite(row)]
    return float(np.percentile(finite, 95)) if len(finite) else 0.0


def mask_runs(mask: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Half-open index ranges where mask is true."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]


def find_phases(recording: Recording) -> list[Phase]:
    """The phases of a recording in order of time, touching each other; empty without samples.

    What comes before the first load is idle, what comes after the last is cool-down, what lies
    between two loads is idle. A recording in which nothing tells idle from load is one load where it
    is busy or warm throughout, one idle where utilisation shows that it never worked.
    """
    t = recording.time_s
    if len(t) == 0:
        return []
    begin, end = float(t[0]), float(t[-1])
    level = activity(recording)
    if level is None:
        level = _from_temperature(recording)
    if level is None:
        return [Phase("load", begin, end)]
    if not bool((np.nan_to_num(level) > 0.5).any()):
        return marked_load(recording) or [Phase("idle", begin, end)]
    known = np.isfinite(level)
    filled = np.interp(t, t[known], level[known])
    busy = filled > 0.5
    pieces: list[list[float]] = []
    for a, b in mask_runs(busy):
        start, stop = float(t[a]), float(t[b]) if b < len(t) else end
        if pieces and start - pieces[-1][1] < LONGEST_DIP_S:
            pieces[-1][1] = stop
        else:
            pieces.append([start, stop])
    shortest = min(SHORTEST_LOAD_S, 0.2 * max(end - begin, 1.0))
    pieces = [p for p in pieces if p[1] - p[0] >= shortest]
    if not pieces:
        return marked_load(recording) or [Phase("idle", begin, end)]
    interval = recording.interval_s or 1.0
    phases: list[Phase] = []
    at = begin
    for start, stop in pieces:
        if start - at > 1.5 * interval:
            phases.append(Phase("idle", at, start))
            at = start
        phases.append(Phase("load", at, stop))
        at = stop
    if end - at > 1.5 * interval:
        phases.append(Phase("cool-down", at, end))
    elif phases:
        phases[-1] = Phase("load", phases[-1].start_s, end)
    return phases


def _from_temperature(recording: Recording) -> Array | None:
    """How busy the machine was by its hottest temperature alone, 0 or 1, shape (n,); None where that hardly changes.

    A load begins where the temperature takes off on its way through the middle of its range, and ends where it turns
    down on its way back: at the steepest stretch's foot, a twentieth of its slope away.
    """
    index = recording.die if recording.die is not None else recording.first("temperature")
    if index is None or len(recording.time_s) < 10:
        return None
    t, row = recording.time_s, despiked(recording.values[index])
    known = np.isfinite(row)
    if known.sum() < 10:
        return None
    width = max(1, round(4.0 / (recording.interval_s or 1.0)))
    smooth = np.convolve(
        np.pad(np.interp(t, t[known], row[known]), width, mode="edge"), np.ones(2 * width + 1), "valid"
    )
    smooth /= 2 * width + 1
    low, high = (float(p) for p in np.percentile(smooth, [2, 98]))
    if high - low < LEAST_RISE_K:
        return None
    slope = np.gradient(smooth, t)
    warm = smooth > 0.5 * (low + high)
    busy = np.zeros(len(t))
    for a, b in mask_runs(warm):
        start, stop = a, b
        steepest = float(slope[max(0, a - width) : a + width + 1].max())
        while start > 0 and slope[start - 1] > 0.05 * steepest:
            start -= 1
        if b < len(t):
            steepest = float(slope[max(0, b - width) : b + width + 1].min())
            # Down the slope from its beginning: back to where it was still level.
            while stop > start + 1 and slope[stop - 1] < 0.05 * steepest:
                stop -= 1
        # Smoothing sees every edge early by its own reach.
        busy[min(start + width, a) : min(stop + width, len(t))] = 1.0
    return busy


def marked_load(recording: Recording) -> list[Phase]:
    """Phases by our own recorder's marks, for a load that leaves no trace in utilisation, such as being idle;
    empty where nothing was marked."""
    begins = [m.at_s for m in recording.marks if m.text.startswith(LOAD_ON)]
    if not begins or len(recording.time_s) == 0:
        return []
    first, last = float(recording.time_s[0]), float(recording.time_s[-1])
    ends = [m.at_s for m in recording.marks if m.text == LOAD_OFF and m.at_s > begins[0]]
    edges = [first, min(max(begins[0], first), last), min(ends[0], last) if ends else last, last]
    names = ("idle", "load", "cool-down")
    return [Phase(n, a, b) for n, a, b in zip(names, edges, edges[1:], strict=False) if b > a]


def main_load(phases: list[Phase]) -> Phase | None:
    """The longest load among phases; None without one."""
    loads = [p for p in phases if p.name == "load"]
    return max(loads, key=lambda p: p.duration_s) if loads else None
