"""At equal noise: a setup's figure over its level, through its fan speeds, and what it is at a level that all can have.

Method: monotone piecewise cubic interpolation (F. N. Fritsch and J. Butland, SIAM J. Sci. Stat. Comput. 5 (1984) 300), never
beyond the levels that were measured; the uncertainty of both axes by Monte Carlo (JCGM 101:2008), with what one meter is off
by the same in every reading of it, so that it moves all curves together and mostly cancels between them.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from samovar.core.compare.estimates import Correlated
from samovar.core.measured import COVERAGE_FACTOR, Measured, combine
from samovar.core.recording import Array
from samovar.core.results.figure import Figure, RunResult, figure_of
from samovar.core.results.result import Result
from samovar.core.setup_changes import Arrangement

LEAST_SPEEDS = 3
"""Through fewer points every curve fits."""
DRAWS = 2_000
"""So many draws tell a half-width to 2 %."""
SAME_LEVEL_DB = 0.2
"""Two speeds nearer than a meter repeats are one point."""
REPEATS_DB = 0.3
"""To so much a steady fan's level repeats on one meter from one reading to the next (standard deviation)."""
DOF = 30.0
"""Degrees of freedom of an uncertainty that is mostly instruments' (GUM, G.4.2: type B, believed to a tenth)."""
FAN_CHANGES = ("fan_rpm", "fan_share", "fan_profile")
"""What may differ between setups that are one product at several fan speeds."""
_SEED = 2026


@dataclass(frozen=True, slots=True)
class Point:
    """One fan speed: its level, the figure there, how many passes, and which meter read the level."""

    level: Measured
    value: Measured
    passes: int
    meter: str = ""
    meter_half: float = 0.0


@dataclass(frozen=True, slots=True)
class NoiseCurve:
    """What is to be compared at a level: one setup, or one product over several setups; its points by rising level."""

    name: str
    points: tuple[Point, ...]

    @property
    def quietest(self) -> float:
        """The lowest level, dBA."""
        return self.points[0].level.value

    @property
    def loudest(self) -> float:
        """The highest level, dBA."""
        return self.points[-1].level.value

    def why_not(self, level_dba: float) -> str | None:
        """Why it has no value at a level, and which run would give it one; None where it has."""
        if len(self.points) < LEAST_SPEEDS:
            more = LEAST_SPEEDS - len(self.points)
            return (
                f"{len(self.points)} fan speed{'s' if len(self.points) != 1 else ''} with a level of {'its' if len(self.points) == 1 else 'their'} own, "
                f"{LEAST_SPEEDS} are needed: record {more} more, with the noise read in each"
            )
        if level_dba < self.quietest:
            return f"quietest at {self.quietest:.1f} dBA: a run with slower fans would tell"
        if level_dba > self.loudest:
            return f"loudest at {self.loudest:.1f} dBA: a run with faster fans would tell"
        return None


def curves_of(
    cells: Mapping[str, Sequence[RunResult]], figure: Figure, arrangements: Mapping[str, Arrangement]
) -> list[NoiseCurve]:
    """The curves there are: of every setup through its steps and runs, those that differ in fan speed alone joined."""
    groups: dict[tuple[object, ...], list[str]] = {}
    for name in cells:
        groups.setdefault(_but_for_fans(name, arrangements.get(name)), []).append(name)
    found = []
    for names in groups.values():
        points = [p for name in names for p in _points(cells[name], figure)]
        if points:
            found.append(NoiseCurve(_name_of(names, arrangements), _distinct(points)))
    return found


def _but_for_fans(name: str, arrangement: Arrangement | None) -> tuple[object, ...]:
    if arrangement is None:
        return (name,)
    changes = tuple(
        sorted((k, str(v)) for k, v in arrangement.changes.items() if k not in FAN_CHANGES and v is not None)
    )
    products = tuple(sorted(arrangement.products))
    # Nothing fitted and nothing changed but fans: one machine as it stands.
    return (arrangement.rig, products, changes)


def _name_of(names: Sequence[str], arrangements: Mapping[str, Arrangement]) -> str:
    if len(names) == 1:
        return names[0]
    products = arrangements[names[0]].products
    return " + ".join(name for _, name in products) or names[0]


def _points(results: Sequence[RunResult], figure: Figure) -> list[Point]:
    """One point for each fan speed: of each step by its name over all passes, else of whole runs."""
    noise = figure_of("noise")
    told: dict[str, list[tuple[Result, Measured, Measured]]] = {}
    for run in results:
        if not run.finished:
            continue
        parts: list[tuple[str, Sequence[Result]]] = [(one.step.name, one.results) for one in run.steps]
        parts = parts or [("", run.results)]
        for name, mine in parts:
            level, value, read = noise.among(mine), figure.among(mine), noise.result_among(mine)
            if (
                level is not None
                and value is not None
                and read is not None
                and not level.bound
                and not value.bound
            ):
                told.setdefault(name, []).append((read, level, value))
    return [_mean(rows) for rows in told.values()]


def _mean(rows: Sequence[tuple[Result, Measured, Measured]]) -> Point:
    count = len(rows)
    meter_half = max(level.half_width or 0.0 for _, level, _ in rows)
    own = math.sqrt(sum((v.half_width or 0.0) ** 2 for _, _, v in rows)) / count
    values = [v.value for _, _, v in rows]
    mean = sum(values) / count
    spread = COVERAGE_FACTOR * math.sqrt(sum((v - mean) ** 2 for v in values) / max(count - 1, 1) / count)
    return Point(
        Measured(sum(level.value for _, level, _ in rows) / count, meter_half),
        Measured(mean, max(own, spread) or None),
        count,
        rows[0][0].common_of,
        meter_half,
    )


def _distinct(points: Sequence[Point]) -> tuple[Point, ...]:
    """Points by rising level, those that a meter cannot tell apart joined."""
    out: list[Point] = []
    for point in sorted(points, key=lambda p: p.level.value):
        if out and point.level.value - out[-1].level.value < SAME_LEVEL_DB:
            a, n, m = out[-1], out[-1].passes, point.passes
            level = (a.level.value * n + point.level.value * m) / (n + m)
            value = (a.value.value * n + point.value.value * m) / (n + m)
            half = combine((a.value.half_width or 0.0) * n, (point.value.half_width or 0.0) * m) / (n + m)
            out[-1] = Point(
                Measured(level, a.level.half_width),
                Measured(value, half or None),
                n + m,
                a.meter,
                a.meter_half,
            )
        else:
            out.append(point)
    return tuple(out)


def pchip(x: Array, y: Array, at: Array) -> Array:
    """Monotone cubic interpolation of many curves at once, each at its own abscissa, held at its ends.

    Args:
        x, y: shape (draws, points), x rising along each row.
        at: shape (draws,).

    Returns:
        Shape (draws,).
    """
    h, steps = np.diff(x, axis=1), np.diff(y, axis=1)
    h = np.maximum(h, 1e-9)
    slope = steps / h
    inner = np.zeros_like(x)
    w1, w2 = 2.0 * h[:, 1:] + h[:, :-1], h[:, 1:] + 2.0 * h[:, :-1]
    same = slope[:, :-1] * slope[:, 1:] > 0.0
    with np.errstate(divide="ignore", invalid="ignore"):
        mean = (w1 + w2) / (w1 / slope[:, :-1] + w2 / slope[:, 1:])
    inner[:, 1:-1] = np.where(same, mean, 0.0)
    inner[:, 0] = _end_slope(h[:, 0], h[:, 1], slope[:, 0], slope[:, 1])
    inner[:, -1] = _end_slope(h[:, -1], h[:, -2], slope[:, -1], slope[:, -2])
    at = np.clip(at, x[:, 0], x[:, -1])
    row = np.arange(len(x))
    k = np.clip((x <= at[:, None]).sum(axis=1) - 1, 0, x.shape[1] - 2)
    width, t = h[row, k], (at - x[row, k]) / h[row, k]
    a, b = y[row, k], y[row, k + 1]
    da, db = inner[row, k] * width, inner[row, k + 1] * width
    out: Array = a + t * (da + t * (3.0 * (b - a) - 2.0 * da - db + t * (2.0 * (a - b) + da + db)))
    return out


def _end_slope(h0: Array, h1: Array, d0: Array, d1: Array) -> Array:
    """The three-point slope at an end, kept to the shape of the data."""
    slope = ((2.0 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    slope = np.where(slope * d0 <= 0.0, 0.0, slope)
    steep = (d0 * d1 < 0.0) & (np.abs(slope) > 3.0 * np.abs(d0))
    out: Array = np.where(steep, 3.0 * d0, slope)
    return out


def at_level(
    curves: Sequence[NoiseCurve], level_dba: float, pass_sd: float | None = None
) -> Correlated | None:
    """The figure of every curve at a level.

    Args:
        curves: those that have a value there (`why_not` is None).
        level_dba: the level.
        pass_sd: how much a pass of the figure scatters on this bench, where that is known; never less is believed of a point.

    Returns:
        None without curves.
    """
    if not curves:
        return None
    rng = np.random.default_rng(_SEED)
    meters = sorted({p.meter for c in curves for p in c.points})
    off = {m: rng.standard_normal(DRAWS) for m in meters}
    rows, values = [], []
    for curve in curves:
        levels = np.array([p.level.value for p in curve.points])
        figures = np.array([p.value.value for p in curve.points])
        own = np.array([(p.value.half_width or 0.0) / COVERAGE_FACTOR for p in curve.points])
        if pass_sd is not None:
            own = np.maximum(own, pass_sd / np.sqrt([p.passes for p in curve.points]))
        drawn_y = figures + own * rng.standard_normal((DRAWS, len(figures)))
        # A meter's class is common to all it reads; what it repeats to is each reading's own.
        shift = np.array([p.meter_half / COVERAGE_FACTOR for p in curve.points])
        common = np.stack([off[p.meter] for p in curve.points], axis=1) * shift
        drawn_x = levels + common + rng.normal(0.0, REPEATS_DB, (DRAWS, len(levels)))
        order = np.argsort(drawn_x, axis=1)
        drawn_x, drawn_y = (np.take_along_axis(d, order, axis=1) for d in (drawn_x, drawn_y))
        at = np.full(DRAWS, level_dba)
        rows.append(pchip(drawn_x, drawn_y, at))
        values.append(float(pchip(levels[None, :], figures[None, :], np.array([level_dba]))[0]))
    covariance = np.atleast_2d(np.cov(np.array(rows)))
    return Correlated(tuple(c.name for c in curves), np.array(values), covariance, DOF)
