"""The thermal model: a Foster network fitted to heating and cooling against measured power.

Ideas from JESD51-14 (transient dual interface measurement): the response of a junction to a power
step is a sum of exponentials, sum of R_i (1 - exp(-t / tau_i)). For given time constants the model is
linear in the resistances, so the constants are searched on a grid and the resistances solved for
(variable projection: Golub & Pereyra 1973); every network on the grid that explains the data about as
well keeps its say in the forecast, weighted by its likelihood, which is what makes the interval of an
early forecast as wide as it should be.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from samovar.core.recording import Array
from samovar.core.uncertainty import COVERAGE_FACTOR, combine, correlation_time, resolution_of

_TAUS = np.concatenate([[0.0], np.geomspace(1.5, 20.0, 6), np.geomspace(28.0, 2400.0, 18)])
_MOST_POINTS = 420
_FULL_DETAIL_S = 60.0
SETTLED_RECENT_S = 20.0


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
    rise = y - base_c
    gram, moment, total = columns.T @ columns, columns.T @ rise, float(rise @ rise)
    results = []
    for sets in _stage_sets().values():
        if len(t) < 3 * sets.shape[1]:
            continue
        sub = gram[sets[:, :, None], sets[:, None, :]]
        rhs = moment[sets]
        sub = sub + np.eye(sets.shape[1]) * 1e-9 * np.trace(gram) / len(gram)
        weights = np.linalg.solve(sub, rhs[..., None])[..., 0]
        positive = (weights >= 0).all(axis=1)
        if not positive.any():
            continue
        error = np.maximum(total - np.einsum("ij,ij->i", weights, rhs), 1e-9)
        inverse_sum = np.linalg.inv(sub).sum(axis=(1, 2))
        for k in np.flatnonzero(positive):
            results.append((float(error[k]), sets[k], weights[k], float(inverse_sum[k])))
    if not results:
        return None
    results.sort(key=lambda r: r[0])
    _best_error, best_set, best_weights, _ = results[0]
    residual = rise - columns[:, best_set] @ best_weights
    independent = max(4.0, len(t) / correlation_time(residual))
    # A perfect fit of quantised data is luck: the error is never taken for less than the sensor's step.
    floor = len(t) * (resolution**2 / 12.0 + 0.02**2)
    steady, log_weight, spread = [], [], []
    for error, chosen, weights, inverse in results:
        sigma2 = max(error, floor) / len(t)
        steady.append(base_c + (target - base_w) * float(weights.sum()))
        spread.append(sigma2 * len(t) / independent * inverse * (target - base_w) ** 2)
        # BIC: an additional stage has to earn its two parameters.
        log_weight.append(
            -0.5 * independent * math.log(max(error, floor)) - (len(chosen) - 2) * math.log(independent)
        )
    weight = np.exp(np.array(log_weight) - max(log_weight))
    weight /= weight.sum()
    centres, spreads = np.array(steady), np.array(spread)
    mean = float(weight @ centres)
    deviation = math.sqrt(float(weight @ (spreads + (centres - mean) ** 2)))
    heaviest = int(np.argmax(weight))
    chosen, chosen_weights = results[heaviest][1], results[heaviest][2]
    network = FosterNetwork(
        tuple(float(w) for w in chosen_weights),
        tuple(float(x) for x in _TAUS[chosen]),
        base_c,
        base_w,
        math.sqrt(results[heaviest][0] / len(t)),
    )
    half_width = COVERAGE_FACTOR * combine(deviation, resolution / math.sqrt(12.0), room_k, 0.05)
    settled_in = _time_to_settle(network, t, p, target, drift_limit_k_per_min)
    return Forecast(mean, half_width, settled_in, network)


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
