"""What strips are drawn from: their curves, the scale each has, and where its lines run, worked out for all strips at once.

To ask numpy strip by strip would take twice as long: most of it is the asking.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from samovar.core.envelope import Envelope
from samovar.core.recording import Array
from samovar.tui.widgets.raster import spans_of_all
from samovar.tui.widgets.strip_cells import Areas, Dotted
from samovar.tui.widgets.strip_curves import Drawn, banded, dashed, smoothed, swinging
from samovar.tui.widgets.strip_frame import EDGE
from samovar.tui.widgets.strip_plan import LOOKS, StripSpec, nice_range

NEAR_LIMIT = 0.6
"""A limit further from the curve than this share of its own height is out of the way."""
T = TypeVar("T")
STRONG_DOTS, THIN_DOTS = 2, 1
"""Least height of the leading line, and of the others."""


@dataclass(frozen=True)
class Sketch:
    """One strip's curves.

    Attributes:
        rows: which rows of all strips' cells it has.
        low, high: the lines of its m channels, shape (m, 2 * columns), NaN where there is none.
        main: the leading curve with its band, where it has ground under it.
        ends: the values at its lower and upper edge.
        strong: which lines are thick, shape (m,).
        drawn: what was made of it, by name: another cursor changes none of it.
    """

    rows: slice
    low: Array
    high: Array
    main: Drawn | None
    ends: tuple[float, float]
    strong: tuple[bool, ...]
    drawn: dict[object, Any] = field(default_factory=dict, compare=False)

    def once(self, name: object, draw: Callable[[], T]) -> T:
        """What was made of it under this name, or what is made now."""
        found: T | None = self.drawn.get(name)
        if found is None:
            found = self.drawn[name] = draw()
        return found


@dataclass(frozen=True)
class Window:
    """What strips show of an envelope.

    Attributes:
        samples: how many it has.
        rows: its channels.
        start_s, end_s: from and to when.
        columns: how wide the strips are, cells; the window begins where one of them begins, counted from 0 s.
    """

    samples: int
    rows: tuple[int, ...]
    start_s: float
    end_s: float
    columns: int

    @property
    def column_s(self) -> float:
        """How long a column lasts."""
        return (self.end_s - self.start_s) / self.columns

    def moved_from(self, other: Window) -> int | None:
        """By how many columns it lies after another window of the same kind; None for one of another kind."""
        if (self.samples, self.rows, self.columns) != (other.samples, other.rows, other.columns):
            return None
        if not math.isclose(self.column_s, other.column_s, rel_tol=EDGE):
            return None
        return round((self.start_s - other.start_s) / self.column_s)


@dataclass(frozen=True)
class Sheet:
    """Several strips.

    Attributes:
        strips: each one's sketch.
        lines, areas: their cells, one below the other.
        window: what the envelope was asked for.
        low, high: what it said, shape (n, 2 * columns).
    """

    strips: list[Sketch]
    lines: Dotted
    areas: Areas | None
    window: Window
    low: Array
    high: Array


def sheet_of(
    envelope: Envelope,
    specs: Sequence[StripSpec],
    rows: Sequence[int],
    span_s: tuple[float, float],
    columns: int,
    before: Sheet | None = None,
) -> Sheet | None:
    """The strips' sketches and cells; None without any strip.

    Args:
        envelope: of all channels.
        specs: the strips.
        rows: how high each of them is, cells.
        span_s: from and to when.
        columns: how wide they are, cells.
        before: what was shown of the same envelope just now.
    """
    if not specs:
        return None
    asked = [row for spec in specs for row in spec.rows]
    window = Window(len(envelope.time_s), tuple(asked), *span_s, columns)
    whole = _columns(envelope, window, before)
    low, high = (part.copy() for part in whole)
    cuts = [0, *itertools.accumulate(len(spec.rows) for spec in specs)]
    parts = [slice(a, b) for a, b in itertools.pairwise(cuts)]
    # Of a number and none the number is taken.
    least, most = np.fmin.reduce(low, axis=1), np.fmax.reduce(high, axis=1)
    ends = [
        scale_of(spec, float(np.fmin.reduce(least[part])), float(np.fmax.reduce(most[part])))
        for spec, part in zip(specs, parts, strict=True)
    ]
    of_strip = np.repeat(np.arange(len(specs)), np.diff(cuts))
    bottom, top = np.array(ends)[of_strip].T[:, :, None]
    high_rows = np.array(rows, float)[of_strip][:, None]
    swung = _swung(
        envelope, asked, low, high, [part.start for part in parts], swinging(low, high, top - bottom, high_rows), span_s
    )  # fmt: skip
    for spec, part in zip(specs, parts, strict=True):
        for k in range(1, len(spec.rows) if spec.colours else 0):
            low[part.start + k], high[part.start + k] = dashed(low[part.start + k], high[part.start + k], k)
    strong = [k in (0, spec.other) or bool(spec.colours) for spec in specs for k in range(len(spec.rows))]
    thick = np.where(strong, STRONG_DOTS, THIN_DOTS)
    spans = spans_of_all(low, high, bottom, top, 4 * high_rows, thick)
    # The first line has a colour of its own, and another run's; the others share one unless each has its own.
    begins = [
        [
            part.start + k
            for k in range(len(spec.rows))
            if k < 2 or bool(spec.colours) or spec.other in (k, k - 1)
        ]
        for spec, part in zip(specs, parts, strict=True)
    ]
    ends_at = [0, *itertools.accumulate(rows)]
    # What swings about nothing has no ground to stand on.
    mains = [
        main if not spec.colours and spec.least_span is None else None
        for spec, main in zip(specs, swung, strict=True)
    ]
    strips = [
        Sketch(
            slice(ends_at[k], ends_at[k + 1]), low[part], high[part], mains[k], ends[k], tuple(strong[part])
        )
        for k, part in enumerate(parts)
    ]
    return Sheet(strips, Dotted.of(*spans, rows, begins), Areas.of(mains, ends, rows), window, *whole)


def _columns(envelope: Envelope, window: Window, before: Sheet | None) -> tuple[Array, Array]:
    """The envelope of half columns, shape (n, 2 * columns) each: of a window that was moved its new part is asked for alone."""
    rows, width = list(window.rows), 2 * window.columns
    moved = window.moved_from(before.window) if before is not None else None
    if before is None or moved is None or not 0 < abs(moved) < window.columns // 2:
        return envelope.columns(rows, window.start_s, window.end_s, width)
    new = abs(moved) * window.column_s
    span_s = (window.end_s - new, window.end_s) if moved > 0 else (window.start_s, window.start_s + new)
    parts = envelope.columns(rows, *span_s, 2 * abs(moved))
    shared = slice(2 * moved, None) if moved > 0 else slice(None, 2 * moved)
    low, high = (
        np.concatenate([kept[:, shared], part] if moved > 0 else [part, kept[:, shared]], axis=1)
        for kept, part in zip((before.low, before.high), parts, strict=True)
    )
    return low, high


def scale_of(spec: StripSpec, least: float, most: float) -> tuple[float, float]:
    """The values at a strip's lower and upper edge, for the least and greatest value in it, NaN without any."""
    if not np.isfinite(most - least):
        return 0.0, 1.0
    zero = spec.quantity != "temperature" or bool(spec.colours)
    span = LOOKS[spec.quantity].least_span if spec.least_span is None else spec.least_span
    # A limit far out of the way would squeeze the curve: it is told at the edge instead.
    reach = NEAR_LIMIT * max(most - least, span)
    levels = [v for v, _ in spec.limits if least - reach <= v <= most + reach]
    return nice_range(min([least, *levels]), max([most, *levels]), spec.decimals, zero, span)


def _swung(
    envelope: Envelope,
    asked: Sequence[int],
    low: Array,
    high: Array,
    leading: Sequence[int],
    wide: NDArray[np.bool_],
    span_s: tuple[float, float],
) -> list[Drawn]:
    """The leading channels' lines and bands; `low` and `high` become the lines of all that swing too fast to be followed."""
    mains = {k: Drawn(low[k].copy(), high[k].copy()) for k in leading}
    for k in np.flatnonzero(wide.any(axis=1)).tolist():
        middle = 0.5 * (low[k] + high[k])
        if k not in mains:
            near, line = smoothed(low[k], middle, wide[k])
            np.copyto(low[k], line, where=near)
            np.copyto(high[k], line, where=near)
            continue
        mean = envelope.means(asked[k], *span_s, low.shape[1])
        # Where columns are finer than samples, the middle of the joining line is as good as any mean.
        mains[k] = banded(low[k], high[k], np.where(np.isfinite(mean), mean, middle), wide[k])
        low[k], high[k] = mains[k].low, mains[k].high
    return [mains[k] for k in leading]
