"""The steady window: the longest last stretch of a load that no longer drifts.

Method: least-squares slope whose standard error is widened by the integrated autocorrelation time of
the residuals and by what the sensor's step hides, held against a tolerance (0.05 K/min); the halves of the
window may not differ, nor its first eighth. Where noise over short stretches hides the drift, the approach
over a longer one tells it (`approach`). A regular oscillation is averaged over whole periods first, so that a
limit cycle counts as steady around its mean.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from samovar.core.approach import Approach, fit_approach, way_of
from samovar.core.recording import Array
from samovar.core.uncertainty import autocorrelation, correlation_time, resolution_of, undithered

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


def drift_of(
    time_s: Array, x: Array, limit: float = DRIFT_LIMIT_K_PER_MIN, step: float | None = None
) -> Drift:
    """Slope of x over time with an honest standard error.

    Args:
        time_s: shape (n,), seconds, rising.
        x: shape (n,), finite.
        limit: tolerated drift, per minute; the halves may not differ by more than two minutes of it.
        step: the sensor's, in the unit of x; inferred where None.

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
    # What a sensor's step hides moves the two ends apart.
    standard_error = math.hypot(
        standard_error, undithered(x, step) * math.sqrt(2.0) * 60.0 / float(time_s[-1] - time_s[0])
    )
    half, eighth = len(y) // 2, len(y) // 8
    trends = [_slope(t[part], y[part]) for part in (slice(None, half), slice(half, None)) if half >= 8]
    # A tail that still bends shows in its first half, long after the slope over all has become small.
    halves_differ = any(abs(s) > max(limit, 2.0 * e) for s, e, _ in trends)
    apart = abs(float(y[half:].mean() - y[:half].mean()))
    # Of a temperature that is a tenth of a kelvin: less is below what any of these sensors could claim.
    halves_differ |= apart > max(2.0 * limit, 2.0 * math.sqrt(2.0) * noise)
    if eighth >= 4:
        # A burst at the beginning is over long before the slope tells of it: an eighth has four times a half's variance.
        begins = abs(float(y[half:].mean() - y[:eighth].mean()))
        halves_differ |= begins > max(4.0 * limit, 5.0 * math.sqrt(5.0) * noise)
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


STRETCHES = (1.0, 0.6, 0.36)
"""The shares of a load over which an approach is looked for: a fan or a budget may have changed on the way."""
LEFT_SHOWN = 0.02
"""A window begins so late that no more than this was left on average in it, in the unit of the tolerance times minutes."""


def approach_of(time_s: Array, x: Array, limit: float) -> Approach | None:
    """The approach over the longest stretch of a load that shows it to have settled; else over all of it."""
    period_s, way, step = _period_s(time_s, x), way_of(x), resolution_of(x)
    first: Approach | None = None
    for share in STRETCHES:
        begin = int(np.searchsorted(time_s, time_s[-1] - share * (time_s[-1] - time_s[0])))
        found = fit_approach(time_s[begin:], x[begin:], period_s, way, step)
        if found is None:
            break
        if found.settled(limit):
            return found
        first = first or found
    return first


def _period_s(time_s: Array, x: Array) -> float | None:
    half = len(x) // 2
    t, y = _thin(time_s[half:], x[half:])
    period = swing_period(y)
    return None if period is None else period * float(np.median(np.diff(t)))


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
    approach = approach_of(time_s, x, limit) if windows > 1 else None
    step = resolution_of(x)
    for length in lengths:
        begin = int(np.searchsorted(time_s, end - length))
        if len(x) - begin < 8:
            break
        last = drift_of(time_s[begin:], x[begin:], limit, step)
        if last.steady(limit):
            start = float(time_s[begin])
            if approach is not None and approach.settled(limit) and last.period_s is None:
                start = max(start, _nearly_there(approach, start, end, shortest_s))
            return _whole_periods(time_s, start, end, last)
    if last is None:
        return SteadyWindow(
            None, None, "too few samples to tell: sample more often, or keep the load on", None
        )
    if approach is not None and approach.settled(limit):
        start = _late_enough(approach, end, limit, shortest_s)
        begin = int(np.searchsorted(time_s, start))
        return _whole_periods(
            time_s, float(time_s[begin]), end, drift_of(time_s[begin:], x[begin:], limit, step)
        )
    return SteadyWindow(None, None, _why_not(last, approach, x, limit, total, shortest_s), last)


def _whole_periods(time_s: Array, start_s: float, end_s: float, drift: Drift) -> SteadyWindow:
    """The window, over whole periods of a regular swing: a mean over a part of one is that part's."""
    if drift.period_s is not None:
        count = math.ceil((end_s - start_s) / drift.period_s - 1e-6)
        count -= end_s - count * drift.period_s < float(time_s[0])
        start_s = float(time_s[np.searchsorted(time_s, end_s - count * drift.period_s - 1e-6)])
    return SteadyWindow(start_s, end_s, None, drift)


def _late_enough(approach: Approach, end_s: float, limit: float, shortest_s: float) -> float:
    """From when on an approach that has settled drifted less than the limit, and had nearly arrived."""
    start = approach.since_s
    if abs(approach.per_min) > 0.0:
        start = max(start, end_s - approach.tau_s * math.log(max(limit / abs(approach.per_min), 1.0)))
    return _nearly_there(approach, start, end_s, shortest_s)


def _nearly_there(approach: Approach, start_s: float, end_s: float, shortest_s: float) -> float:
    """From when on hardly anything was left on average; no later than leaves a quarter of the stretch."""
    least = max(shortest_s, 0.25 * (end_s - approach.since_s))
    length = max(end_s - start_s, least)
    while length > least:
        left, error = approach.mean_left(length)
        if abs(left) < max(LEFT_SHOWN, 2.0 * error):
            break
        length = max(0.85 * length, least)
    return end_s - length


def _why_not(
    last: Drift, approach: Approach | None, x: Array, limit: float, total_s: float, shortest_s: float
) -> str:
    """Why a load is not shown to have settled."""
    if approach is not None and approach.too_coarse(limit):
        return (
            f"too coarse to tell: a sensor of {resolution_of(x):g} K steps does not show a drift under {limit:.2f} K/min "
            f"in {total_s / 60.0:.0f} min; where it heads for is the forecast"
        )
    # A slope within twice its own error is no drift, however steep: the stretch is too uneven to tell.
    drift, error = (last.per_min, last.standard_error)
    if approach is not None:
        drift, error = approach.per_min, approach.per_min_error
    if abs(drift) > max(limit, DRIFT_SHOWN * error):
        return f"never settled: still drifting {drift:+.2f} K/min at the end, want {limit:.2f}"
    return (
        f"never settled: the last {shortest_s:.0f} s are too uneven to show a drift under {limit:.2f} K/min"
    )
