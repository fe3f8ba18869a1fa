"""How a run sounded from beginning to end: its level over time, F's range about it, and its third octaves as shades beneath."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from samovar.core.recording import Array, Recording
from samovar.figures.palette import PAPER
from samovar.figures.style import Margins, in_a_column, minutes_axis, new_figure, say_title
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.figure import Figure

SPAN_DB = 40.0
"""What lies so far under the loudest band is as dark as nothing."""
MOST_COLUMNS = 900
"""More are not to be told apart on a page."""
TICKS_HZ = (31.5, 125.0, 500.0, 2000.0, 8000.0)


def has_sound(recording: Recording) -> bool:
    """Whether a run was listened to all along."""
    return bool(recording.find("band"))


@styled
def sound_chart(recording: Recording, title: str, subtitle: str = "") -> Figure:
    """Draw a run that has third octaves; `title` and `subtitle` say the finding, and what is drawn."""
    figure = new_figure(4.2, Margins(0.75, 0.75, 0.66, 0.5, 0.12))
    above, below = figure.subplots(2, 1, sharex=True, height_ratios=(1.0, 1.25))
    step = max(1, -(-len(recording.time_s) // MOST_COLUMNS))
    time_s = recording.time_s[::step]
    colour = PAPER.quantity["noise"]
    levels, fast = recording.find("noise"), recording.find("fast")
    if len(fast) >= 2:
        least, most = (
            _thinned(recording.values[k], step, fold)
            for k, fold in zip(fast[:2], (np.fmin, np.fmax), strict=True)
        )
        above.fill_between(time_s, least, most, color=colour, alpha=0.25, lw=0.0)
        above.annotate(
            "F", (time_s[-1], most[-1]), fontsize=8.5, color=colour, xytext=(4, 0), textcoords="offset points"
        )
    if levels:
        above.plot(time_s, recording.values[levels[0]][::step], color=colour, lw=1.2)
        above.set_ylabel(f"level, {recording.channels[levels[0]].unit}")
    above.grid(axis="y", color=PAPER.line, lw=0.5)
    bands = recording.find("band")
    hz = np.array([float(recording.channels[k].id.rpartition(":")[2]) for k in bands])
    rows = np.array([_thinned(recording.values[k], step, np.fmax) for k in bands])
    known = rows[np.isfinite(rows)]
    top = float(known.max()) if len(known) else 0.0
    edge = 10.0**0.05
    sides = np.concatenate([hz / edge, hz[-1:] * edge])
    times = np.concatenate([time_s, [time_s[-1] + (time_s[-1] - time_s[0]) / max(len(time_s) - 1, 1)]])
    shades = below.pcolormesh(times, sides, rows, cmap="magma", vmin=top - SPAN_DB, vmax=top, rasterized=True)
    below.set_yscale("log")
    below.set_yticks(TICKS_HZ, [f"{f:g}" if f < 1000.0 else f"{f / 1000.0:g}k" for f in TICKS_HZ])
    below.minorticks_off()
    below.set_ylabel("third octaves, Hz")
    beside = figure.add_axes((0.925, 0.16, 0.014, 0.36))
    figure.colorbar(shades, cax=beside)
    beside.set_title(recording.channels[bands[0]].unit, fontsize=8.5, fontweight="normal")
    beside.tick_params(labelsize=8)
    # Its numbers need as much room in a narrower figure.
    in_a_column(figure, lambda: beside.set_position((0.885, 0.16, 0.018, 0.36)))
    minutes_axis(below, float(time_s[-1] - time_s[0]))
    say_title(figure, title, subtitle)
    return figure


def _thinned(row: Array, step: int, fold: np.ufunc) -> Array:
    """A row with `step` samples made one by `fold`, so that no peak is lost; shape (n / step,)."""
    padded = np.pad(row, (0, -len(row) % step), constant_values=np.nan)
    return np.asarray(fold.reduce(padded.reshape(-1, step), axis=1))
