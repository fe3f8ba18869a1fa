"""The time chart of a run: strips on one axis, phases shaded, the held ribbon, marks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from samovar.core.envelope import Envelope
from samovar.core.facts import Facts
from samovar.core.reading import Reading
from samovar.core.recording import Array, Recording
from samovar.figures.palette import HELD_COLOUR, PAPER
from samovar.figures.style import HATCH, Margins, minutes_axis, new_figure
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

_STRIPS = (
    ("temperature", ("die", "vrm"), 2.0), ("clock", ("core",), 1.2), ("power", ("package",), 1.2),
    ("fan", ("other",), 0.9), ("work", ("other",), 0.9),
)  # fmt: skip
_COLUMNS = 1000


@dataclass(frozen=True)
class Extras:
    """What a chart of one run can show besides: only a part of its time, the thermal model's die (times and °C),
    another run's curves by quantity on this run's samples, and stretches left out, with their reasons."""

    span_s: tuple[float, float] | None = None
    model: tuple[Array, Array] | None = None
    beside: Mapping[str, Array] = field(default_factory=dict)
    beside_name: str = ""
    left_out: Sequence[tuple[float, float, str]] = ()


MARGINS = Margins(left=1.06, right=0.1, top=0.52, bottom=0.5, between=0.22)
"""Room for the rows' names and scales at the left, the title and the phases above."""


@styled
def time_chart(
    recording: Recording, reading: Reading, facts: Facts, title: str, extras: Extras | None = None
) -> Figure:
    """Draw one run.

    Args:
        recording: its samples; only quantities it carries get a strip.
        reading: gives phases, window, held stretches.
        facts: give the limits drawn across.
        title: stands above it.
        extras: what it shows besides; nothing where None.
    """
    extras = extras or Extras()
    strips = [s for s in _STRIPS if recording.find(s[0], s[1]) or recording.find(s[0])]
    heights = [s[2] for s in strips] + [0.36]
    figure = new_figure(0.9 + 0.95 * sum(heights), MARGINS)
    rows = figure.subplots(
        len(heights), 1, sharex=True, squeeze=False, gridspec_kw={"height_ratios": heights}
    )[:, 0]
    envelope = Envelope(recording.time_s, recording.values)
    span = extras.span_s or (0.0, max(recording.duration_s, 1.0))
    for axes, (quantity, roles, _) in zip(rows, strips, strict=False):
        _strip(axes, recording, envelope, quantity, roles, span)
        _limits(axes, quantity, facts, span[1])
        _shade(axes, reading)
        _extras(axes, recording, quantity, extras)
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
    _ribbon(rows[-1], reading, recording, span)
    minutes_axis(rows[-1], until_s - begin_s)
    rows[-1].set_xlim(begin_s, until_s)
    figure.suptitle(title, fontsize=11, fontweight="bold", x=0.01, ha="left")
    figure.align_ylabels(list(rows))
    return figure


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
        axes.fill_between(at, low[k], high[k], color=colour, alpha=0.45 if strong else 0.25, lw=0)
        axes.plot(
            at,
            0.5 * (low[k] + high[k]),
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
            )
    axes.set_ylabel(f"{quantity}\n{unit}", fontsize=9, color=colour)
    axes.margins(y=0.12)


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


def _limits(axes: Axes, quantity: str, facts: Facts, end_s: float) -> None:
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
        (end_s, level[0]),
        xytext=(-2, 2),
        textcoords="offset points",
        ha="right",
        va="bottom",
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


def _ribbon(axes: Axes, reading: Reading, recording: Recording, span: tuple[float, float]) -> None:
    axes.set_yticks([])
    axes.set_ylim(0.0, 1.0)
    axes.set_ylabel("held by", fontsize=9, rotation=0, ha="right", va="center")
    for side in ("left", "bottom"):
        axes.spines[side].set_visible(side == "bottom")
    for held in reading.held or reading.held_graphics:
        colour = PAPER.quantity[HELD_COLOUR[held.by]]
        axes.axvspan(
            held.start_s, held.end_s, facecolor="white", edgecolor=colour, hatch=HATCH[held.by], lw=0.8
        )
        # What lies outside of what is shown makes no room for words.
        start, stop = max(held.start_s, span[0]), min(held.end_s, span[1])
        shown = (stop - start) / (span[1] - span[0])
        if shown > 0.08:
            loss = f", −{held.clock_loss_pct:.0f} % clock" if held.clock_loss_pct is not None else ""
            wide = shown > 0.24
            axes.text(
                0.5 * (start + stop),
                0.5,
                held.by + (loss if wide else ""),
                ha="center",
                va="center",
                fontsize=9,
                fontweight="bold",
                color=colour,
                bbox={"facecolor": "white", "edgecolor": "none", "pad": 1.5},
            )
    for mark in recording.marks:
        if mark.text.startswith(("load on", "load off")) or not span[0] <= mark.at_s <= span[1]:
            continue
        axes.annotate(
            mark.text,
            (mark.at_s, 1.0),
            xytext=(0, 1),
            textcoords="offset points",
            fontsize=8,
            ha="center",
            va="bottom",
        )
        axes.axvline(mark.at_s, color=PAPER.brass, lw=1.0)
