"""The time chart of a run: strips on one axis, phases shaded, the held ribbon, marks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from samovar.core.envelope import Envelope
from samovar.core.facts import Facts
from samovar.core.measured import Measured
from samovar.core.reading import Reading
from samovar.core.recording import Array, Recording
from samovar.figures.palette import PAPER
from samovar.figures.ribbon import ribbon
from samovar.figures.style import (
    COLUMN_IN,
    COLUMN_TYPE,
    WIDTH_IN,
    Margins,
    in_a_column,
    minutes_axis,
    new_figure,
    say_title,
)
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

_STRIPS = (
    ("temperature", ("die", "vrm"), 2.0), ("clock", ("core",), 1.2), ("power", ("package",), 1.2),
    ("fan", ("other",), 0.9), ("work", ("other",), 0.9),
)  # fmt: skip
_COLUMNS = 420


@dataclass(frozen=True)
class Extras:
    """What a chart of one run can show besides: only a part of its time, the thermal model's die (times and °C),
    another run's curves by quantity on this run's samples, and stretches left out, with their reasons."""

    span_s: tuple[float, float] | None = None
    model: tuple[Array, Array] | None = None
    beside: Mapping[str, Array] = field(default_factory=dict)
    beside_name: str = ""
    left_out: Sequence[tuple[float, float, str]] = ()
    by_hand: Sequence[HandPoint] = ()


@dataclass(frozen=True, slots=True)
class HandPoint:
    """A value that a person read: of which quantity, its name in the figure, when (s), and what it was."""

    quantity: str
    name: str
    at_s: float
    value: Measured


MARGINS = Margins(left=1.06, right=0.94, top=0.74, bottom=0.5, between=0.22)
"""Room for the rows' names and scales at the left, words of limits at the right, title and phases above."""
RIBBON_SHARE = 0.36
"""How high a ribbon of what held a part is, as a share of a strip."""
LEAST_SPAN = {"temperature": 10.0, "clock": 400.0, "power": 4.0, "fan": 200.0, "noise": 6.0, "work": 10.0}
"""A scale is no shorter than this, in the quantity's unit: what stands still has to look so."""
PULSED = 0.3
"""Where the middle column's swing is more than this share of a strip's, its mean is drawn in the band."""
MOST_TICKS = 4
LABELS_IN = 0.36
"""Where the names of the rows stand, inches from the left."""
MEANS = 160
"""So many means along a strip that swings."""


@styled
def time_chart(
    recording: Recording,
    reading: Reading,
    facts: Facts,
    title: str,
    extras: Extras | None = None,
    subtitle: str = "",
) -> Figure:
    """Draw one run.

    Args:
        recording: its samples; only quantities it carries get a strip.
        reading: gives phases, window, held stretches.
        facts: give the limits drawn across.
        title, subtitle: the finding, and what is drawn.
        extras: what it shows besides; nothing where None.
    """
    from matplotlib.ticker import MaxNLocator
    from matplotlib.transforms import blended_transform_factory

    extras = extras or Extras()
    strips = [s for s in _STRIPS if _worth_a_strip(recording, s[0], s[1])]
    levels = [p for p in extras.by_hand if p.quantity == "noise"]
    heights = [s[2] for s in strips] + ([0.8] if levels else []) + [RIBBON_SHARE * len(reading.ribbons)]
    figure = new_figure(1.1 + 0.95 * sum(heights), MARGINS)
    rows = figure.subplots(
        len(heights), 1, sharex=True, squeeze=False, gridspec_kw={"height_ratios": heights}
    )[:, 0]
    envelope = Envelope(recording.time_s, recording.values)
    span = extras.span_s or (0.0, max(recording.duration_s, 1.0))
    for axes, (quantity, roles, _) in zip(rows, strips, strict=False):
        _strip(axes, recording, envelope, quantity, roles, span)
        _limits(axes, quantity, facts)
        _shade(axes, reading)
        _extras(axes, recording, quantity, extras)
        _by_hand(axes, [p for p in extras.by_hand if p.quantity == quantity])
        _least_span(axes, quantity)
    if levels:
        _shade(rows[-2], reading)
        _by_hand(rows[-2], levels)
        rows[-2].set_ylabel("noise\ndBA", fontsize=9, color=PAPER.quantity["noise"])
        _least_span(rows[-2], "noise")
    for axes in rows[:-1]:
        # The axis of time stands once, at the foot; making its ticks for every strip takes a quarter of the time of all.
        axes.xaxis.set_visible(False)
        axes.yaxis.set_major_locator(MaxNLocator(MOST_TICKS))
    begin_s, until_s = span
    for phase in reading.phases:
        start, stop = max(phase.start_s, begin_s), min(phase.end_s, until_s)
        middle = 0.5 * (start + stop)
        if stop - start > 0.06 * (until_s - begin_s):
            rows[0].annotate(
                phase.name,
                (middle, 1.0),
                xycoords=("data", "axes fraction"),
                ha="center",
                va="bottom",
                fontsize=9,
                color=PAPER.soft,
            )
    ribbon_into_column = ribbon(rows[-1], reading, recording, span)
    minutes_axis(rows[-1], until_s - begin_s)
    rows[-1].set_xlim(begin_s, until_s)
    say_title(figure, title, subtitle)

    def labels_at(width_in: float, type_share: float) -> None:
        # Aligned by a measure: having it worked out from all rows' numbers takes two fifths of the time of all.
        for axes in rows[:-1]:
            at = blended_transform_factory(figure.transFigure, axes.transAxes)
            axes.yaxis.set_label_coords(type_share * LABELS_IN / width_in, 0.5, transform=at)

    def into_column() -> None:
        labels_at(COLUMN_IN, COLUMN_TYPE)
        ribbon_into_column()

    labels_at(WIDTH_IN, 1.0)
    in_a_column(figure, into_column)
    return figure


def _worth_a_strip(recording: Recording, quantity: str, roles: tuple[str, ...]) -> bool:
    """Whether a run carries a quantity, and it was ever more than nothing: a board without a fan has no fan to show."""
    found = recording.find(quantity, roles) or recording.find(quantity)
    return bool(found) and (
        quantity != "fan" or bool(np.nanmax(np.abs(recording.values[found]), initial=0.0) > 0.0)
    )


def _least_span(axes: Axes, quantity: str) -> None:
    low, high = axes.get_ylim()
    least = LEAST_SPAN.get(quantity, 0.0)
    if high - low < least:
        middle = 0.5 * (low + high)
        low = max(middle - 0.5 * least, 0.0) if low >= 0.0 else middle - 0.5 * least
        axes.set_ylim(low, low + least)


def _by_hand(axes: Axes, points: Sequence[HandPoint]) -> None:
    """What people read, where and when they read it; a bound with its arrow."""
    colour = PAPER.text
    for point in points:
        value = point.value
        axes.errorbar(
            point.at_s,
            value.value,
            yerr=value.half_width,
            fmt="D",
            ms=4.0,
            mfc="white",
            mec=colour,
            ecolor=colour,
            capsize=2.0,
            lw=1.0,
            zorder=5,
        )
        words = f"{point.name} {value.bound or ''}".strip() if value.bound or point.name else ""
        axes.annotate(
            words,
            (point.at_s, value.value),
            xytext=(6, -3),
            textcoords="offset points",
            fontsize=8.0,
            color=colour,
            bbox=_CLEAR,
        )


_CLEAR = {"facecolor": PAPER.ground, "edgecolor": "none", "pad": 0.6, "alpha": 0.85}
"""What stands behind words, so that no curve strikes them through."""


def _strip(
    axes: Axes,
    recording: Recording,
    envelope: Envelope,
    quantity: str,
    roles: tuple[str, ...],
    span: tuple[float, float],
) -> None:
    colour = PAPER.quantity[quantity]
    indices = recording.find(quantity, roles)
    die = recording.die
    if quantity == "temperature" and die is not None and die not in indices:
        # Where cores or the package stand for the die, that is what the readings are of.
        indices = [die, *indices]
    indices = indices or _busiest(recording, recording.find(quantity))
    unit = recording.channels[indices[0]].unit
    low, high = envelope.columns(indices, *span, _COLUMNS)
    at = span[0] + (np.arange(_COLUMNS) + 0.5) * (span[1] - span[0]) / _COLUMNS
    several_cores = quantity == "clock" and len(indices) > 2
    if several_cores:
        # Many cores are one band from the slowest to the fastest, and their mean.
        axes.fill_between(at, np.nanmin(low, axis=0), np.nanmax(high, axis=0), color=colour, alpha=0.3, lw=0)
        axes.plot(at, np.nanmean(0.5 * (low + high), axis=0), color=colour, lw=1.3)
        axes.set_ylabel(f"clock\n{unit}", fontsize=9, color=colour)
        return
    for k, index in enumerate(indices[:2]):
        strong = k == 0
        with np.errstate(all="ignore"):
            whole = float(np.nanmax(high[k]) - np.nanmin(low[k]))
            swings = whole > 0.0 and float(np.nanmedian(high[k] - low[k])) > PULSED * whole
        axes.fill_between(
            at, low[k], high[k], color=colour, alpha=0.2 if swings else 0.45 if strong else 0.25, lw=0
        )
        times, middles = _means(recording, index, span) if swings else (at, 0.5 * (low[k] + high[k]))
        axes.plot(
            times,
            middles,
            color=colour,
            lw=1.5 if strong else 0.9,
            ls="-" if strong else (0, (4, 1.5)),
        )
        role = recording.channels[index].role
        name = role if role not in ("other", "package") else recording.channels[index].name.lower()
        last = np.flatnonzero(np.isfinite(high[k]))
        if quantity == "temperature" and len(last):
            load = int(0.45 * last[-1])
            axes.annotate(
                name,
                (at[load], high[k][load]),
                xytext=(0, 3),
                textcoords="offset points",
                fontsize=9,
                color=colour,
                bbox=_CLEAR,
                zorder=6,
            )
    if quantity == "temperature":
        _room(axes, recording, envelope, span)
    axes.set_ylabel(f"{quantity}\n{unit}", fontsize=9, color=colour)
    axes.margins(y=0.12)


def _means(recording: Recording, index: int, span: tuple[float, float]) -> tuple[Array, Array]:
    """Means of what swings, along a strip."""
    edges = np.linspace(*span, MEANS + 1)
    which = np.digitize(recording.time_s, edges) - 1
    out = np.full(MEANS, np.nan)
    for k in range(MEANS):
        inside = recording.values[index][which == k]
        if np.isfinite(inside).any():
            out[k] = float(np.nanmean(inside))
    return 0.5 * (edges[:-1] + edges[1:]), out


def _room(axes: Axes, recording: Recording, envelope: Envelope, span: tuple[float, float]) -> None:
    """The room under it all."""
    found = recording.find("temperature", ("inlet",))
    if not found:
        return
    low, high = envelope.columns(found[:1], *span, _COLUMNS)
    at = span[0] + (np.arange(_COLUMNS) + 0.5) * (span[1] - span[0]) / _COLUMNS
    middle = 0.5 * (low[0] + high[0])
    axes.plot(at, middle, color=PAPER.soft, lw=1.0, ls=(0, (1, 1.2)))
    known = np.flatnonzero(np.isfinite(middle))
    if len(known):
        axes.annotate(
            "room",
            (1.0, middle[known[-1]]),
            xycoords=("axes fraction", "data"),
            xytext=(4, 0),
            textcoords="offset points",
            va="center",
            fontsize=8.5,
            color=PAPER.soft,
        )


def _busiest(recording: Recording, indices: list[int]) -> list[int]:
    """Of channels of one quantity the one that swings most: of a drive that was written to, what it wrote."""
    with np.errstate(all="ignore"):
        return sorted(indices, key=lambda k: -float(np.nanstd(recording.values[k])))[:1]


def _extras(axes: Axes, recording: Recording, quantity: str, extras: Extras) -> None:
    """The model's die, the other run's curve, and what was left out."""
    if quantity == "temperature" and extras.model is not None:
        axes.plot(*extras.model, color=PAPER.text, lw=1.0, ls=(0, (1, 1.5)), label="thermal model")
    if quantity in extras.beside:
        axes.plot(
            recording.time_s,
            extras.beside[quantity],
            color=PAPER.text,
            lw=1.0,
            ls=(0, (5, 1.5)),
            label=extras.beside_name,
        )
    for number, (start_s, end_s, reason) in enumerate(extras.left_out):
        axes.axvspan(
            start_s,
            end_s,
            color=PAPER.caution,
            alpha=0.25,
            lw=0,
            label="" if number else f"left out: {reason}",
        )
    if quantity == "temperature" and (extras.model is not None or extras.beside or extras.left_out):
        axes.legend(loc="lower right", fontsize=8.5, frameon=False)


def _limits(axes: Axes, quantity: str, facts: Facts) -> None:
    cpu = facts.cpu
    level = {
        "temperature": (cpu.temperature_limit_c, "limit"),
        "clock": (cpu.base_clock_mhz, "base"),
        "power": (cpu.sustained_power_w, "sustained"),
    }.get(quantity)
    if level is None or level[0] is None:
        return
    axes.axhline(level[0], color=PAPER.soft, lw=0.8, ls=(0, (5, 3)))
    axes.annotate(
        f"{level[1]} {level[0]:g}",
        (1.0, level[0]),
        xycoords=("axes fraction", "data"),
        xytext=(4, 0),
        textcoords="offset points",
        va="center",
        fontsize=8.5,
        color=PAPER.soft,
    )


def _shade(axes: Axes, reading: Reading) -> None:
    """Loads on a light ground, the averaging window a little darker."""
    for phase in reading.phases:
        if phase.name == "load":
            axes.axvspan(phase.start_s, phase.end_s, color=PAPER.raised, lw=0, zorder=0)
    window = reading.window
    if window is not None and window.start_s is not None and window.end_s is not None:
        axes.axvspan(window.start_s, window.end_s, color=PAPER.line, alpha=0.5, lw=0, zorder=0)
