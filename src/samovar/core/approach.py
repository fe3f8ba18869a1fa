"""The last part of a way to a steady value: one exponential, whose time constant is not known, under correlated noise.

For each time constant the fit is linear in the value it heads for and in what is left; all of them keep a say by their
evidence (Bayesian linear regression; C. Bishop, "Pattern Recognition and Machine Learning" (2006), 3.3 and 3.5). The
noise's autocorrelation makes neighbouring samples count for less (`uncertainty.correlation_time`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from samovar.core.recording import Array
from samovar.core.uncertainty import corrected_time, resolution_of, student, undithered

BLOCKS = 240
"""So many block means carry all that an approach tells."""
LATE_SHARE = 0.66
"""The approach is looked for in this last share of a load: what is quicker is over by then."""
FASTEST_S, SLOWEST_SHARE, DRIFTING_SHARE, TAUS = 15.0, 0.6, 3.0, 20
"""The time constants tried, from the first to the last share of the stretch looked at, over which an approach is as
straight as a drift; where it heads for is told by those up to the first share: of a slower one the stretch shows nothing."""
MOST_RATIO = 40.0
"""So many time constants back a way is told by its prior alone."""
PRIOR_SHARE = 0.35
"""Prior size of what was left at the beginning of the stretch, as a share of the way since the load began."""


@dataclass(frozen=True, slots=True)
class Approach:
    """What a stretch tells of where it is going, in the unit of x.

    Attributes:
        heads_for, error: the value it settles at, and its standard uncertainty, where it has settled or is about to.
        far, far_error: the same where it may yet go on for long.
        left: what is left at its end (the value there less the one it heads for), where it has settled.
        per_min, per_min_error: the drift at its end, whatever it is.
        hidden_per_min: the standard uncertainty of that drift that the sensor's step alone makes.
        tau_s: the time constant, the mean by evidence.
        since_s: where the stretch that was looked at begins.
        ways: the time constants with their shares of the evidence, s, and what by each is left at the end with its error.
    """

    heads_for: float
    error: float
    far: float
    far_error: float
    left: float
    per_min: float
    per_min_error: float
    hidden_per_min: float
    tau_s: float
    since_s: float
    ways: tuple[tuple[float, float, float, float], ...]

    def settled(self, limit: float) -> bool:
        """Whether the drift at its end is shown to be less than a limit, per minute (one-sided 95 %)."""
        return abs(self.per_min) + 1.645 * self.per_min_error < limit

    def too_coarse(self, limit: float) -> bool:
        """Whether it is the sensor's step that hides whether it drifts."""
        return not self.settled(limit) and abs(
            self.per_min
        ) < limit < 1.645 * 1.5 * self.hidden_per_min + abs(self.per_min)

    def mean_left(self, since_end_s: float) -> tuple[float, float]:
        """What was left on average over the last seconds before the end, and its standard uncertainty."""
        shares, taus, lefts, errors = np.array(self.ways).T
        ratio = np.minimum(max(since_end_s, 1e-6) / taus, MOST_RATIO)
        times = np.expm1(ratio) / ratio
        mean = float(shares @ (lefts * times))
        return mean, math.sqrt(float(shares @ ((errors * times) ** 2 + (lefts * times - mean) ** 2)))


def _solved(
    n: float, s_g: Array, s_gg: Array, s_y: float, s_gy: Array, weight: Array | float = 0.0
) -> tuple[Array, Array, Array, Array, Array]:
    """Least squares of y = a + b g for many shapes g at once, from their sums; `weight` is added to the square of b.

    Returns:
        a, b, the determinant, and the variances of a and b in units of the noise's, each of shape (shapes,).
    """
    s_gg = s_gg + weight
    determinant = np.maximum(n * s_gg - s_g**2, 1e-300)
    b = (n * s_gy - s_g * s_y) / determinant
    return (s_y - b * s_g) / n, b, determinant, s_gg / determinant, n / determinant


def way_of(x: Array) -> float:
    """How far a load goes, in the unit of x: from its first samples to its last."""
    few = max(3, len(x) // 200)
    return abs(float(np.median(x[-few:])) - float(np.median(x[:few])))


def fit_approach(
    time_s: Array,
    x: Array,
    period_s: float | None = None,
    way: float | None = None,
    step: float | None = None,
) -> Approach | None:
    """Fit the last part of a load.

    Args:
        time_s: shape (n,), seconds, rising, all of the load.
        x: shape (n,), finite.
        period_s: of a regular swing, over whole ones of which it is averaged first.
        way: how far the whole load went, in the unit of x; as far as these samples do where None.
        step: the sensor's, in the unit of x; told from these samples where None, which those on one step do not show.

    Returns:
        None where there are too few samples to tell.
    """
    late = int(np.searchsorted(time_s, time_s[-1] - LATE_SHARE * (time_s[-1] - time_s[0])))
    t, y = time_s[late:], x[late:]
    if len(t) < 24:
        return None
    interval_s = float(np.median(np.diff(t)))
    width = max(math.ceil(len(t) / BLOCKS), 1 if period_s is None else round(period_s / interval_s))
    count = len(t) // width
    if count < 12:
        return None
    t, y = (row[-count * width :].reshape(count, width).mean(axis=1) for row in (t, y))
    end_s, length_s = float(time_s[-1]), float(t[-1] - t[0])
    way = max(way_of(x) if way is None else way, 1.0)
    taus = np.geomspace(
        max(FASTEST_S, 2.0 * width * interval_s), max(DRIFTING_SHARE * length_s, 4.0 * FASTEST_S), TAUS
    )
    shapes = np.exp(-(t[None, :] - end_s) / taus[:, None])
    sums = shapes.sum(axis=1), (shapes**2).sum(axis=1), float(y.sum()), shapes @ y
    a, b = _solved(float(count), *sums)[:2]
    rests = y - a[:, None] - b[:, None] * shapes
    best = rests[int(np.argmin((rests**2).sum(axis=1)))]
    widening = corrected_time(best)
    noise = float((best**2).sum()) / max(count - 2.0 - widening, 1.0) * widening + 1e-8
    wider = student(count / widening - 2.0)
    # What a sensor's step hides shifts all of a level, and the two ends of a slope apart.
    hidden = undithered(x[late:], resolution_of(x) if step is None else step)
    hidden_per_min = hidden * math.sqrt(2.0) * 60.0 / length_s
    # The prior on what was left at the beginning, as a weight on the square of what is left at the end.
    prior = (shapes[:, 0] / (PRIOR_SHARE * way)) ** 2
    a, b, determinant, variance_a, variance_b = _solved(float(count), *sums, prior * noise)
    variance_a, variance_b = variance_a * noise, variance_b * noise
    rests = y - a[:, None] - b[:, None] * shapes
    misfit = (rests**2).sum(axis=1) / noise + prior * b**2
    evidence = -0.5 * misfit - 0.5 * np.log(determinant) + np.log(shapes[:, 0])
    shown = taus <= max(SLOWEST_SHARE * length_s, float(taus[0])) + 1e-9
    all_of_them = np.exp(evidence - evidence.max())
    near = np.where(shown, np.exp(np.minimum(evidence - evidence[shown].max(), 0.0)), 0.0)

    def joined(weight: Array, values: Array, variances: Array) -> tuple[float, float]:
        share = weight / weight.sum()
        centre = float(share @ values)
        return centre, wider * math.sqrt(float(share @ (variances + (values - centre) ** 2)))

    heads_for, error = joined(near, a, variance_a)
    far, far_error = joined(all_of_them, a, variance_a)
    left = joined(near, b, variance_b)[0]
    per_min, per_min_error = joined(all_of_them, -60.0 * b / taus, variance_b * (60.0 / taus) ** 2)
    return Approach(
        heads_for=heads_for,
        error=math.hypot(error, hidden),
        far=far,
        far_error=math.hypot(far_error, hidden),
        left=left,
        per_min=per_min,
        per_min_error=math.hypot(per_min_error, hidden_per_min),
        hidden_per_min=hidden_per_min,
        tau_s=float(math.exp(near / near.sum() @ np.log(taus))),
        since_s=float(time_s[late]),
        ways=tuple(
            (float(w), float(tau), float(one), wider * math.sqrt(float(v)))
            for w, tau, one, v in zip(near / near.sum(), taus, b, variance_b, strict=True)
            if w > 0.0
        ),
    )
