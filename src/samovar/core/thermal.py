"""The thermal model: a Foster network fitted to heating and cooling against measured power.

Ideas from JESD51-14 (transient dual interface measurement): the response of a junction to a power
step is a sum of exponentials, sum of R_i (1 - exp(-t / tau_i)). For given time constants the model is
linear in the resistances, so the constants are searched on a grid and the resistances solved for
(variable projection: Golub & Pereyra 1973); every network on the grid that explains the data about as
well keeps its say in the forecast, weighted by its evidence (Bayesian linear regression with a weak
prior on each resistance; Bishop 2006, 3.5), which is what makes the interval of an early forecast as
wide as it should be.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from samovar.core.measured import COVERAGE_FACTOR, combine
from samovar.core.recording import Array
from samovar.core.uncertainty import correlation_time, resolution_of

_TAUS = np.concatenate([[0.0], np.geomspace(1.5, 20.0, 6), np.geomspace(28.0, 2400.0, 18)])
_MOST_POINTS = 420
_FULL_DETAIL_S = 60.0
SETTLED_RECENT_S = 20.0
RECENT_SHARE = 0.17
"""Samples lose weight by a factor e over this share of the load so far."""
AHEAD_SHARE = 0.16
"""Standard uncertainty of the part of the way that is still ahead, as a share of it."""
MODEL_SHARE = 0.004
"""Standard uncertainty of the network itself, as a share of the rise: a cooler is not quite linear."""
UNSEEN_FIRST, UNSEEN_NEXT = 0.18, 0.015
"""Prior size of a stage slower than what was recorded so far, as a share of the resistance seen: of the cooler's own mass,
which every cooler has, and of what is slower yet, a case's air and walls."""


@dataclass(frozen=True, slots=True)
class FosterNetwork:
    """The fitted network: per stage resistance (K/W) and time constant (s), over base temperature (°C)
    at base power (W). `residual_k` is the root mean square of what it does not explain."""

    resistance_k_per_w: tuple[float, ...]
    time_constant_s: tuple[float, ...]
    base_c: float
    base_w: float
    residual_k: float

    def response(self, time_s: Array, power_w: Array) -> Array:
        """The model's temperature, °C, shape (n,), at each sample for the power measured."""
        filtered = _filtered(time_s, power_w - self.base_w, np.array(self.time_constant_s))
        out: Array = self.base_c + filtered @ np.array(self.resistance_k_per_w)
        return out


@dataclass(frozen=True, slots=True)
class Forecast:
    """Where the die is heading: °C with the half-width of its 95 % interval, and when it will be
    within the tolerated drift, seconds after the last sample (None: not told by the data)."""

    steady_c: float
    half_width: float
    settled_in_s: float | None
    network: FosterNetwork


def _filtered(time_s: Array, power_w: Array, taus: Array) -> Array:
    """First-order lag of power for each time constant, shape (n, len(taus)); tau 0 is power itself.

    Power counts as constant between samples at the mean of its two ends; at rest before the first.
    """
    out = np.empty((len(time_s), len(taus)))
    state = np.zeros(len(taus))
    steps = np.diff(time_s, prepend=time_s[0])
    mean_power = np.concatenate([power_w[:1], 0.5 * (power_w[1:] + power_w[:-1])])
    slow = taus > 0
    safe = np.where(slow, taus, 1.0)
    for k in range(len(time_s)):
        keep = np.exp(-steps[k] / safe)
        state = keep * state + (1.0 - keep) * mean_power[k]
        out[k] = np.where(slow, state, power_w[k])
    return out


def _thin(time_s: Array, *rows: Array) -> tuple[Array, ...]:
    """Full detail for the first minute, block means behind it, at most about 420 points."""
    head = int(np.searchsorted(time_s, time_s[0] + _FULL_DETAIL_S))
    head_step = max(1, head // 120)
    tail_n = len(time_s) - head
    group = max(1, math.ceil(tail_n / (_MOST_POINTS - 120)))
    kept = tail_n // group * group
    start = len(time_s) - kept
    return tuple(
        np.concatenate(
            [row[:start:head_step][: start // head_step or None], row[start:].reshape(-1, group).mean(axis=1)]
        )
        if kept
        else row[::head_step]
        for row in (time_s, *rows)
    )


@lru_cache(maxsize=1)
def _stage_sets() -> dict[int, NDArray[np.intp]]:
    """Index sets of time constants, by number of stages: one slow stage, with up to two faster ones
    well apart, and always the instant one, which a slow sensor rate cannot resolve."""
    fast, slow = range(1, 7), range(7, len(_TAUS))
    two = [(f, s) for f in fast for s in slow if _TAUS[s] > 3.0 * _TAUS[f]]
    middle = [(a, b) for a, b in itertools.combinations(slow, 2) if _TAUS[b] > 2.5 * _TAUS[a]]
    three = [(f, a, b) for f in fast[::2] for a, b in middle if _TAUS[a] > 3.0 * _TAUS[f]]
    return {
        2: np.array([(0, s) for s in slow]),
        3: np.array([(0, *p) for p in two]),
        4: np.array([(0, *p) for p in three]),
    }


def fit_forecast(
    time_s: Array,
    die_c: Array,
    power_w: Array,
    base_c: float,
    base_w: float,
    heading_w: float | None = None,
    drift_limit_k_per_min: float = 0.05,
    room_k: float = 0.0,
) -> Forecast | None:
    """Fit the network to one load and say where it is heading.

    Args:
        time_s: shape (n,), seconds, the load's samples in order.
        die_c: shape (n,), °C, NaN where missing.
        power_w: shape (n,), W, NaN where missing.
        base_c: the die before the load, °C.
        base_w: the power before the load, W.
        heading_w: the power that will last, W; the mean of the last 20 s where None.
        drift_limit_k_per_min: what counts as settled.
        room_k: standard uncertainty to join from how the base is known, K.

    Returns:
        None where there is too little to fit: under 15 s, fewer than 12 samples, or no heat.
    """
    good = np.isfinite(die_c) & np.isfinite(power_w)
    t, y, p = time_s[good], die_c[good], power_w[good]
    if len(t) < 12 or t[-1] - t[0] < 15.0:
        return None
    recent = float(p[t >= t[-1] - SETTLED_RECENT_S].mean())
    target = recent if heading_w is None else heading_w
    if target - base_w < 1.0:
        return None
    resolution = resolution_of(y[-600:])
    t, y, p = _thin(t, y, p)
    columns = _filtered(t, p - base_w, _TAUS)
    # What the fan does now counts more than what it did at first: fans speed up while a load heats.
    age_s = t[-1] - t
    emphasis = np.exp(-0.5 * age_s / (RECENT_SHARE * max(float(age_s[0]), 1.0)))
    columns, rise = columns * emphasis[:, None], (y - base_c) * emphasis
    gram, moment = columns.T @ columns, columns.T @ rise
    noise = _noise_variance(columns, rise, gram, moment, resolution)
    scale = max(float((y - base_c).max()), 1.0) / max(float((p - base_w).max()), 1.0)
    elapsed = float(t[-1] - t[0])
    late = elapsed < _TAUS
    first, following = (scale * np.where(late, share, 1.0) for share in (UNSEEN_FIRST, UNSEEN_NEXT))
    candidates: list[_Candidate] = []
    for sets in _stage_sets().values():
        if len(t) >= 3 * sets.shape[1]:
            prior_sd = first[sets]
            if sets.shape[1] > 3:
                prior_sd[:, -1] = following[sets[:, -1]]
            candidates.extend(_candidates(sets, gram, moment, noise, prior_sd, target - base_w))
    if not candidates:
        return None
    log_evidence = np.array([c.log_evidence for c in candidates])
    weight = np.exp(log_evidence - log_evidence.max())
    weight /= weight.sum()
    centres = np.array([base_c + c.rise_k for c in candidates])
    spreads = np.array([c.variance for c in candidates])
    mean = float(weight @ centres)
    deviation = math.sqrt(float(weight @ (spreads + (centres - mean) ** 2)))
    best = candidates[int(np.argmax(weight))]
    residual = (rise - columns[:, best.stages] @ best.weights) / emphasis
    network = FosterNetwork(
        tuple(float(w) for w in best.weights),
        tuple(float(x) for x in _TAUS[best.stages]),
        base_c,
        base_w,
        math.sqrt(float((residual**2).mean())),
    )
    # Fans speed up and firmware changes its mind: what still lies ahead is never surer than a share of it.
    ahead = AHEAD_SHARE * abs(mean - float(np.median(y[-5:])))
    misfit = MODEL_SHARE * abs(mean - base_c)
    half_width = COVERAGE_FACTOR * combine(deviation, ahead, misfit, resolution / math.sqrt(12.0), room_k)
    settled_in = _time_to_settle(network, t, p, target, drift_limit_k_per_min)
    return Forecast(mean, half_width, settled_in, network)


@dataclass(frozen=True)
class _Candidate:
    """One network of the grid: its stages and resistances, its evidence, and what it forecasts."""

    stages: NDArray[np.intp]
    weights: Array
    log_evidence: float
    rise_k: float
    variance: float


def _noise_variance(columns: Array, rise: Array, gram: Array, moment: Array, resolution: float) -> float:
    """Variance of one sample about the best network, widened so that correlated residuals count as the
    fewer samples they are; never less than the sensor's step explains, since a perfect fit of quantised
    data is luck."""
    total, best_error, best = float(rise @ rise), math.inf, None
    for sets in _stage_sets().values():
        if len(rise) < 3 * sets.shape[1]:
            continue
        sub = gram[sets[:, :, None], sets[:, None, :]] + np.eye(sets.shape[1]) * 1e-9 * np.trace(gram)
        rhs = moment[sets]
        weights = np.linalg.solve(sub, rhs[..., None])[..., 0]
        error = np.where((weights >= 0).all(axis=1), total - np.einsum("ij,ij->i", weights, rhs), math.inf)
        k = int(np.argmin(error))
        if error[k] < best_error:
            best_error, best = float(error[k]), (sets[k], weights[k])
    floor = resolution**2 / 12.0 + 0.02**2
    if best is None:
        return floor * len(rise) / 8.0
    residual = rise - columns[:, best[0]] @ best[1]
    widening = min(correlation_time(residual), len(rise) / 8.0)
    return max(float((residual**2).mean()), floor) * max(widening, 2.0)


def _candidates(
    sets: NDArray[np.intp], gram: Array, moment: Array, noise: float, prior_sd: Array, heat_w: float
) -> list[_Candidate]:
    """The networks with these stages whose resistances all come out positive."""
    size = sets.shape[1]
    sub = gram[sets[:, :, None], sets[:, None, :]] / noise
    rhs = moment[sets] / noise
    precision = 1.0 / prior_sd**2
    posterior = sub + np.eye(size) * precision[:, None, :]
    weights = np.linalg.solve(posterior, rhs[..., None])[..., 0]
    # A stage may be a little below nothing where the data say nothing of it; more than that is no network.
    allowed = (weights >= -0.02 * np.abs(weights).sum(axis=1, keepdims=True)).all(axis=1)
    _, log_det = np.linalg.slogdet(posterior)
    log_evidence = (
        0.5 * np.einsum("ij,ij->i", rhs, weights) - 0.5 * log_det + 0.5 * np.log(precision).sum(axis=1)
    )
    variance = np.linalg.inv(posterior).sum(axis=(1, 2)) * heat_w**2
    return [
        _Candidate(
            sets[k], weights[k], float(log_evidence[k]), heat_w * float(weights[k].sum()), float(variance[k])
        )
        for k in np.flatnonzero(allowed)
    ]


def _time_to_settle(
    network: FosterNetwork, t: Array, p: Array, target_w: float, limit_k_per_min: float
) -> float | None:
    """Seconds until the network's slowest remainder drifts slower than the limit."""
    taus = np.array(network.time_constant_s)
    now = _filtered(t, p - network.base_w, taus)[-1]
    gaps = (target_w - network.base_w - now) * np.array(network.resistance_k_per_w)
    times = [0.0]
    for gap, tau in zip(gaps, taus, strict=True):
        if tau > 0:
            drift = abs(gap) / tau * 60.0
            times.append(tau * math.log(drift / limit_k_per_min) if drift > limit_k_per_min else 0.0)
    return max(times)


def main_time_constants(network: FosterNetwork) -> tuple[float, ...]:
    """The time constants that carry at least 4 % of the network's resistance, rising, seconds."""
    total = sum(network.resistance_k_per_w)
    if total <= 0:
        return ()
    return tuple(
        sorted(
            round(tau, 1)
            for r, tau in zip(network.resistance_k_per_w, network.time_constant_s, strict=True)
            if tau > 0 and r >= 0.04 * total
        )
    )
