"""The envelope of long series: least and greatest value per column, so that no spike is ever lost."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from samovar.core.recording import STRIDE_SAMPLES, Array, held_value, stride_of

_FACTOR = 8
_SMALLEST_LEVEL = 512
GAP_STEPS = 2.5
"""Samples further apart than so many usual steps are not joined."""
EDGE_SHARE = 1e-6
"""By so much of a column its edges lie before the round moments that samples come at: else rounding would decide in which column a
sample is seen, and a window moved by whole columns would show other curves."""


class Envelope:
    """Least and greatest values of a recording's channels over any stretch of time.

    Levels hold the extremes and the means of blocks of 8, 64, 512 ... samples, so that a picture of a long run costs
    no more than one of a short run. `extend` takes a grown recording and works on what is new alone.
    """

    def __init__(self, time_s: Array, values: Array) -> None:
        """time_s: shape (n,), rising; values: shape (m, n), NaN where missing."""
        self.time_s = time_s
        self.values = values
        self._levels: list[tuple[Array, Array, Array]] = []
        self._strides: list[int] = []
        self._strides_from = 0
        self._grow()

    def extend(self, time_s: Array, values: Array) -> None:
        """Go on with a longer recording of the same channels, its beginning unchanged."""
        self.time_s, self.values = time_s, values
        self._grow()

    def stride(self, row: int) -> int:
        """At every how many samples this channel has a value."""
        count = len(self.time_s)
        # A young recording is asked anew; one of some length has shown how it is.
        if not self._strides or (self._strides_from < STRIDE_SAMPLES and count > 1.2 * self._strides_from):
            self._strides = [stride_of(r) for r in self.values]
            self._strides_from = count
        return self._strides[row]

    def value_at(self, row: int, index: int) -> float:
        """The channel's value at a sample, or the one that still holds there, of a channel that is asked less
        often; NaN in a gap."""
        value = held_value(self.values[row], index, self.stride(row))
        return float("nan") if value is None else value

    def values_at(self, rows: Sequence[int], index: int) -> list[float]:
        """Several channels' values at a sample, each as `value_at` has it."""
        found: list[float] = self.values[list(rows), index].tolist()
        return [
            self.value_at(row, index) if value != value else value
            for row, value in zip(rows, found, strict=True)
        ]

    def _grow(self) -> None:
        # Ten thousand intervals tell the usual one as well as all of them do.
        steps = np.diff(self.time_s[-10_000:])
        self._usual_s = float(np.median(steps)) if len(steps) else 1.0
        low = high = mean = self.values
        level = 0
        while low.shape[1] >= _SMALLEST_LEVEL:
            # Only whole blocks are kept: they never change again.
            blocks = low.shape[1] // _FACTOR
            if level == len(self._levels):
                empty = np.empty((low.shape[0], 0))
                self._levels.append((empty, empty, empty))
            kept_low, kept_high, kept_mean = self._levels[level]
            have = kept_low.shape[1]
            if blocks > have:
                part = slice(have * _FACTOR, blocks * _FACTOR)
                shape = (low.shape[0], blocks - have, _FACTOR)
                kept_low = np.concatenate(
                    [kept_low, np.fmin.reduce(low[:, part].reshape(shape), axis=2)], axis=1
                )
                kept_high = np.concatenate(
                    [kept_high, np.fmax.reduce(high[:, part].reshape(shape), axis=2)], axis=1
                )
                kept_mean = np.concatenate([kept_mean, _mean_of(mean[:, part].reshape(shape))], axis=1)
                self._levels[level] = (kept_low, kept_high, kept_mean)
            low, high, mean = self._levels[level]
            level += 1

    def columns(self, rows: list[int], start_s: float, end_s: float, width: int) -> tuple[Array, Array]:
        """Least and greatest value of some channels in each of `width` equal stretches of time.

        Returns:
            Two arrays of shape (len(rows), width); NaN where nothing was measured. Where columns are
            finer than samples, neighbouring samples are joined by straight lines, but not over gaps.
        """
        edges = _edges(start_s, end_s, width)
        inside = np.searchsorted(self.time_s, edges)
        count = int(inside[-1] - inside[0])
        if len(self.time_s) == 0 or not rows:
            nothing = np.full((len(rows), width), np.nan)
            return nothing, nothing
        if count < 2 * width:
            return self._sparse(rows, edges, inside)
        thin = [
            k for k, row in enumerate(rows) if self.stride(row) > 1 and count < 2 * width * self.stride(row)
        ]
        if thin:
            # Channels with fewer samples than there are columns are joined by lines; the others are dense.
            lows, highs = np.empty((2, len(rows), width))
            dense = [k for k in range(len(rows)) if k not in thin]
            lows[thin], highs[thin] = self._sparse([rows[k] for k in thin], edges, inside)
            if dense:
                lows[dense], highs[dense] = self._dense([rows[k] for k in dense], edges, inside)
            return lows, highs
        return self._dense(rows, edges, inside)

    def means(self, row: int, start_s: float, end_s: float, width: int) -> Array:
        """The mean of a channel in each of `width` equal stretches of time, shape (width,), to the blocks that are kept; NaN
        where a stretch holds no value."""
        inside = np.searchsorted(self.time_s, _edges(start_s, end_s, width))
        level = self._level(int(inside[-1] - inside[0]) / width)
        series = self.values[row] if level == 0 else self._levels[level - 1][2][row]
        bounds = np.minimum(inside // _FACTOR**level, len(series))
        out = np.full(width, np.nan)
        has = bounds[1:] > bounds[:-1]
        if has.any():
            part = series[int(bounds[0]) : int(bounds[-1])]
            known = np.isfinite(part)
            starts = bounds[:-1][has] - bounds[0]
            total = np.add.reduceat(np.where(known, part, 0.0), starts)
            count = np.add.reduceat(known.astype(float), starts)
            with np.errstate(invalid="ignore", divide="ignore"):
                out[has] = np.where(count > 0, total / count, np.nan)
        return out

    def _level(self, per_column: float) -> int:
        """Which level has blocks that are fine enough for columns of so many samples; 0 for the samples themselves."""
        level = 0
        while level < len(self._levels) and _FACTOR ** (level + 1) * 2 <= per_column:
            level += 1
        return level

    def _dense(self, rows: list[int], edges: Array, inside: NDArray[np.intp]) -> tuple[Array, Array]:
        width = len(edges) - 1
        count = int(inside[-1] - inside[0])
        level = self._level(count / width)
        chosen = _as_slice(rows)
        if level == 0:
            begin = int(inside[0])
            part = self.values[chosen, begin : int(inside[-1])]
            return _extremes(part, part, inside - begin)
        low, high, _ = self._levels[level - 1]
        block = _FACTOR**level
        bounds = np.minimum(inside // block, low.shape[1])
        begin, end = int(bounds[0]), int(bounds[-1]) + 1
        lows, highs = _extremes(low[chosen, begin:end], high[chosen, begin:end], bounds - begin)
        # The newest samples are in no whole block yet: the last column takes them itself.
        tail = self.values[chosen, max(low.shape[1] * block, int(inside[0])) : int(inside[-1])]
        if tail.shape[1]:
            last = int(np.searchsorted(edges, self.time_s[inside[-1] - 1], "right")) - 1
            last = min(max(last, 0), width - 1)
            lows[:, last] = np.fmin(lows[:, last], np.fmin.reduce(tail, axis=1))
            highs[:, last] = np.fmax(highs[:, last], np.fmax.reduce(tail, axis=1))
        return lows, highs

    def _sparse(self, rows: list[int], edges: Array, inside: NDArray[np.intp]) -> tuple[Array, Array]:
        margin = max((self.stride(row) for row in rows), default=1)
        begin, end = max(int(inside[0]) - margin, 0), min(int(inside[-1]) + margin, len(self.time_s))
        time_s, values = self.time_s[begin:end], self.values[_as_slice(rows), begin:end]
        lows, highs = np.empty((2, len(rows), len(edges) - 1))
        # Channels without any gap are joined all at once, the others each at its own moments.
        known = np.isfinite(values)
        strides = np.array([self.stride(row) for row in rows])
        whole = known.all(axis=1) & (strides == 1)
        if whole.any():
            lows[whole], highs[whole] = self._joined(time_s, values[whole], edges, 1)
        for k in np.flatnonzero(~whole).tolist():
            mine = known[k]
            (lows[k],), (highs[k],) = self._joined(
                time_s[mine], values[k : k + 1, mine], edges, int(strides[k])
            )
        return lows, highs

    def _joined(self, time_s: Array, values: Array, edges: Array, stride: int) -> tuple[Array, Array]:
        """Channels of shape (m, n), with a value at every one of their moments, of a sample in `stride` of the recording's, in columns:
        shape (m, columns) each."""
        at_edges = np.full((len(values), len(edges)), np.nan)
        if len(time_s) > 1:
            after = np.minimum(np.maximum(np.searchsorted(time_s, edges), 1), len(time_s) - 1)
            before = after - 1
            steps = time_s[after] - time_s[before]
            share = (edges - time_s[before]) / steps
            near = (share >= 0.0) & (share <= 1.0) & (steps <= GAP_STEPS * self._usual_s * stride)
            rise = values[:, after] - values[:, before]
            at_edges = np.where(near, values[:, before] + rise * share, np.nan)
        lows, highs = np.fmin(at_edges[:, :-1], at_edges[:, 1:]), np.fmax(at_edges[:, :-1], at_edges[:, 1:])
        column = np.searchsorted(edges, time_s, "right") - 1
        seen = np.flatnonzero((column >= 0) & (column < lows.shape[1]))
        if len(seen):
            column = column[seen]
            starts = np.flatnonzero(np.diff(column, prepend=-1))
            part, of = values[:, seen[0] : seen[-1] + 1], column[starts]
            lows[:, of] = np.fmin(lows[:, of], np.fmin.reduceat(part, starts, axis=1))
            highs[:, of] = np.fmax(highs[:, of], np.fmax.reduceat(part, starts, axis=1))
        return lows, highs


def _edges(start_s: float, end_s: float, width: int) -> Array:
    """Where columns begin and end, shape (width + 1,)."""
    edges = np.linspace(start_s, end_s, width + 1)
    return edges - EDGE_SHARE * (end_s - start_s) / width


def _as_slice(rows: list[int]) -> slice | list[int]:
    """Rows side by side as a slice: numpy looks at these where they are, and would copy others."""
    first = rows[0]
    return slice(first, first + len(rows)) if rows == list(range(first, first + len(rows))) else rows


def _mean_of(blocks: Array) -> Array:
    """The mean of each block, the last axis, without what is missing; NaN where nothing is there."""
    if not np.isnan(blocks).any():
        return np.asarray(blocks.mean(axis=-1))
    known = np.isfinite(blocks)
    count = known.sum(axis=-1)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(np.where(count > 0, np.where(known, blocks, 0.0).sum(axis=-1) / count, np.nan))


def _extremes(low: Array, high: Array, bounds: NDArray[np.intp]) -> tuple[Array, Array]:
    n = low.shape[1]
    starts = np.minimum(bounds[:-1], n - 1)
    empty = (bounds[1:] <= bounds[:-1]) | (bounds[:-1] >= n)
    # reduceat would run past the last column's end: cut what lies behind it.
    stop = min(int(bounds[-1]), n)
    lows: Array = np.fmin.reduceat(low[:, : max(stop, int(starts[-1]) + 1)], starts, axis=1)
    highs: Array = np.fmax.reduceat(high[:, : max(stop, int(starts[-1]) + 1)], starts, axis=1)
    lows[:, empty] = np.nan
    highs[:, empty] = np.nan
    return lows, highs
