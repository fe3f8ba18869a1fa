"""The steady window: the longest last stretch of a load that no longer drifts.

Method: least-squares slope whose standard error is widened by the integrated autocorrelation time of
the residuals, held against a tolerance (0.05 K/min); the halves of the window may not differ. A
regular oscillation is averaged over whole periods first, so that a limit cycle counts as steady
around its mean.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from samovar.core.recording import Array
from samovar.core.uncertainty import autocorrelation, correlation_time

DRIFT_LIMIT_K_PER_MIN = 0.05
POWER_DRIFT_PCT_PER_MIN = 0.45
SHORTEST_WINDOW_S = 90.0
_MOST_POINTS = 480


@dataclass(frozen=True, slots=True)
class Drift:
    """Slope over a stretch, per minute, with its standard error, and the period of a swing if any."""

    per_min: float
    standard_error: float
    halves_differ: bool
    period_s: float | None

    def steady(self, limit: float = DRIFT_LIMIT_K_PER_MIN) -> bool:
        """Whether the drift is shown to be less than the limit (one-sided 95 %)."""
        return abs(self.per_min) + 1.645 * self.standard_error < limit and not self.halves_differ


@dataclass(frozen=True, slots=True)
class SteadyWindow:
    """The outcome of a search: a window, or the reason why there is none."""

    start_s: float | None
    end_s: float | None
    reason: str | None
    drift: Drift | None

    @property
    def span(self) -> tuple[float, float] | None:
        """The window, None where there is none."""
        return None if self.start_s is None or self.end_s is None else (self.start_s, self.end_s)

    @property
    def found(self) -> bool:
        """Whether the stretch settled."""
        return self.span is not None


DRIFT_SHOWN = 2.0
"""A slope of less than so many standard errors is not shown to be one (5 %)."""


def _thin(time_s: Array, x: Array, most: int = _MOST_POINTS) -> tuple[Array, Array]:
    """Block means, so that a long stretch costs no more than a short one."""
    group = math.ceil(len(x) / most)
    if group <= 1:
        return time_s, x
    n = len(x) // group * group
    return time_s[-n:].reshape(-1, group).mean(axis=1), x[-n:].reshape(-1, group).mean(axis=1)


def swing_period(x: Array) -> int | None:
    """The period of a regular oscillation, in samples, or None: the first strong peak of the
    autocorrelation of the detrended stretch, at least two of which must fit into it."""
    n = len(x)
    if n < 24 or float(np.ptp(x)) == 0.0:
        return None
    index = np.arange(n, dtype=float)
    index -= index.mean()
    residual = x - x.mean() - index * float((index * x).sum() / (index**2).sum())
    rho = autocorrelation(residual)[: n // 2]
    below = np.flatnonzero(rho < 0.0)
    if len(below) == 0:
        return None
    tail = rho[below[0] :]
    peak = int(np.argmax(tail)) + int(below[0])
    # The raw estimate shrinks by (n - lag) / n: undo that before asking how regular the swing is.
    return peak if rho[peak] * n / (n - peak) > 0.5 and peak >= 4 else None


def drift_of(time_s: Array, x: Array, limit: float = DRIFT_LIMIT_K_PER_MIN) -> Drift:
    """Slope of x over time with an honest standard error.

    Args:
        time_s: shape (n,), seconds, rising.
        x: shape (n,), finite.
        limit: tolerated drift, per minute; the halves may not differ by more than two minutes of it.

    Raises:
        ValueError: fewer than 8 samples.
    """
    if len(x) < 8:
        raise ValueError("a drift needs at least 8 samples")
    t, y = _thin(time_s, x)
    period = swing_period(y)
    interval = float(np.median(np.diff(t)))
    if period is not None and len(y) >= 2 * period + 8:
        kernel = np.ones(period) / period
        y = np.convolve(y, kernel, mode="valid")
        t = np.convolve(t, kernel, mode="valid")
    else:
        period = None
    slope, standard_error, noise = _slope(t, y)
    half = len(y) // 2
    trends = [_slope(t[part], y[part]) for part in (slice(None, half), slice(half, None)) if half >= 8]
    # A tail that still bends shows in its first half, long after the slope over all has become small.
    halves_differ = any(abs(s) > max(limit, 2.0 * e) for s, e, _ in trends)
    step = abs(float(y[half:].mean() - y[:half].mean()))
    # Of a temperature that is a tenth of a kelvin: less is below what any of these sensors could claim.
    halves_differ |= step > max(2.0 * limit, 2.0 * math.sqrt(2.0) * noise)
    return Drift(slope, standard_error, halves_differ, None if period is None else period * interval)


def _slope(t: Array, y: Array) -> tuple[float, float, float]:
    """Slope per minute, its standard error, and the standard error of the mean of half the stretch,
    all with the residuals' autocorrelation taken into account."""
    minutes = (t - t.mean()) / 60.0
    spread = float((minutes**2).sum())
    slope = float((minutes * y).sum() / spread)
    residual = y - y.mean() - slope * minutes
    widening = correlation_time(residual)
    dof = max(1.0, len(y) / widening - 2.0)
    standard_error = math.sqrt(float((residual**2).sum()) / dof / spread)
    noise = float(residual.std()) * math.sqrt(widening / max(1, len(y) // 2))
    return slope, standard_error, noise


def remaining_k(time_s: Array, x: Array) -> float | None:
    """What is left of an exponential approach, in the unit of x: from the slopes over the last quarter and the
    quarter before it, whose ratio tells the time constant. None where they tell of no approach.

    Args:
        time_s: shape (n,), seconds, rising.
        x: shape (n,), finite.
    """
    quarter = 0.25 * float(time_s[-1] - time_s[0])
    middle, begin = (int(np.searchsorted(time_s, time_s[-1] - k * quarter)) for k in (1.0, 2.0))
    if middle - begin < 8 or len(x) - middle < 8:
        return None
    early, late = _slope(time_s[begin:middle], x[begin:middle])[0], _slope(time_s[middle:], x[middle:])[0]
    # Hardly any decay from one quarter to the next is no approach but a drift, of the room for instance.
    if late * early <= 0 or abs(early) < 1.3 * abs(late):
        return None
    tau = quarter / math.log(early / late)
    return late * math.exp(-0.5 * quarter / tau) * tau / 60.0


def has_settled(
    time_s: Array,
    x: Array,
    limit: float = DRIFT_LIMIT_K_PER_MIN,
    shortest_s: float = SHORTEST_WINDOW_S,
    most_left: float | None = None,
) -> bool:
    """Whether a load has settled by its last sample, asked while it goes on: over the shortest stretch, or over
    a larger share of the load, where noise over the shortest looks like a drift.

    Args:
        time_s: shape (n,), seconds, the samples of the load so far.
        x: shape (n,), finite.
        limit: tolerated drift, per minute.
        shortest_s: a shorter stretch proves nothing.
        most_left: tolerated rest of an exponential approach, in the unit of x; any where None.
    """
    if len(x) < 8 or time_s[-1] - time_s[0] < shortest_s:
        return False
    total = float(time_s[-1] - time_s[0])
    for length in dict.fromkeys(max(shortest_s, share * total) for share in (0.0, 0.15, 0.25, 0.4)):
        begin = int(np.searchsorted(time_s, time_s[-1] - length))
        # Most questions come long before it settles: a plain slope answers those cheaply.
        if len(x) - begin < 8 or abs(plain_slope(time_s[begin:], x[begin:])) > 1.2 * limit:
            continue
        if drift_of(time_s[begin:], x[begin:], limit).steady(limit):
            left = remaining_k(time_s, x) if most_left is not None else None
            return left is None or most_left is None or abs(left) <= most_left
    return False


def plain_slope(time_s: Array, x: Array) -> float:
    """The least-squares slope of x, per minute, without its error: a first cheap answer.

    Args:
        time_s: shape (n,), seconds, rising.
        x: shape (n,), finite.
    """
    minutes = (time_s - time_s.mean()) / 60.0
    return float((minutes * x).sum() / max(float((minutes**2).sum()), 1e-12))


def find_steady(
    time_s: Array,
    x: Array,
    limit: float = DRIFT_LIMIT_K_PER_MIN,
    shortest_s: float = SHORTEST_WINDOW_S,
    windows: int = 60,
) -> SteadyWindow:
    """The longest window that ends with the stretch and is steady.

    Args:
        time_s: shape (n,), seconds, the samples of one load.
        x: shape (n,), temperature in °C, NaN where missing.
        limit: tolerated drift, K/min.
        shortest_s: a shorter window proves nothing.
        windows: how many lengths are tried; the longest that passes is taken.
    """
    good = np.isfinite(x)
    time_s, x = time_s[good], x[good]
    if len(x) < 8 or time_s[-1] - time_s[0] < shortest_s:
        return SteadyWindow(None, None, "too short to tell: keep the load on longer", None)
    end = float(time_s[-1])
    total = end - float(time_s[0])
    # As many lengths near the shortest as near the longest, in proportion: that is where a late calm shows.
    lengths = np.unique(np.geomspace(total, shortest_s, windows).round(3))[::-1]
    last: Drift | None = None
    for length in lengths:
        begin = int(np.searchsorted(time_s, end - length))
        if len(x) - begin < 8:
            break
        last = drift_of(time_s[begin:], x[begin:], limit)
        if last.steady(limit):
            return SteadyWindow(float(time_s[begin]), end, None, last)
    if last is None:
        return SteadyWindow(
            None, None, "too few samples to tell: sample more often, or keep the load on", None
        )
    # A slope within twice its own error is no drift, however steep: the stretch is too uneven to tell.
    if abs(last.per_min) > max(limit, DRIFT_SHOWN * last.standard_error):
        reason = f"never settled: still drifting {last.per_min:+.2f} K/min at the end, want {limit:.2f}"
    else:
        reason = f"never settled: the last {shortest_s:.0f} s are too uneven to show a drift under {limit:.2f} K/min"
    return SteadyWindow(None, None, reason, last)
