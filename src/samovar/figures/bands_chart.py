"""Third octaves of several setups over the room's own, as they were listened to."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from samovar.core.sound.kept import KeptSound
from samovar.figures.overlay_chart import DASHES
from samovar.figures.palette import PAPER
from samovar.figures.style import Margins, in_a_column, new_figure, say_title
from samovar.figures.write import styled

if TYPE_CHECKING:
    from matplotlib.figure import Figure

TICKS_HZ = (31.5, 63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0, 16000.0)
LOWEST_SHOWN_DB = 40.0
"""What lies so far under the loudest band is of no matter, and would squeeze the rest."""
LEFT_HZ, ROOM_FOR_NAMES = 22.0, 4.0
"""Names stand at the right, over so much more of the axis' length."""
_LEAST_GAP = 0.06


@styled
def bands_chart(sounds: Sequence[tuple[str, KeptSound]], title: str, subtitle: str = "") -> Figure:
    """Draw them: each setup a stair with its own dash and its name at its end, the room a filled ground, prominent tones as
    marks with their frequency.

    Args:
        sounds: setups by name, each with bands.
        title, subtitle: the finding, and what is drawn.
    """
    figure = new_figure(3.9, Margins(0.75, 0.1, 0.66, 0.5, 0.0))
    axes = figure.subplots()
    behind = next((s.background for _, s in sounds if s.background), ())
    every = [db for _, s in sounds for _, db in s.bands]
    top = max(every)
    low = max(min([*every, *(db for _, db in behind)]), top - LOWEST_SHOWN_DB) - 2.0
    if behind:
        x, y = _stairs(behind)
        axes.fill_between(x, y, low, color=PAPER.line, lw=0.0, zorder=1)
        axes.text(
            45.0,
            low + 0.03 * (top - low),
            "the room alone; thin and pale: under 6 dB over it, at most so much",
            fontsize=8.5,
            color=PAPER.soft,
            va="bottom",
            zorder=2,
        )
    ends: list[tuple[float, float, str, str]] = []
    for k, (name, sound) in enumerate(sounds):
        colour = PAPER.series[k % len(PAPER.series)]
        x, y = _stairs(sound.bands)
        drawn = np.maximum(y, low)
        hidden = {band.hz for band in sound.own_bands if band.at_most}
        # Where the room is too near, a band is no more than a bound: it is drawn thin and pale.
        bound = np.repeat([hz in hidden for hz, _ in sound.bands], 2)
        axes.plot(
            x, np.where(bound, np.nan, drawn), color=colour, lw=1.6, ls=DASHES[k % len(DASHES)], zorder=3
        )
        if bound.any():
            axes.plot(x, drawn, color=colour, lw=0.7, alpha=0.55, ls=DASHES[k % len(DASHES)], zorder=2)
        known = y[np.isfinite(y)]
        ends.append((float(x[-1]), max(low, float(known[-1])), name, colour))
        for hz, ratio in sound.prominent[:2]:
            level = next((db for band, db in sound.bands if band / 1.13 <= hz < band * 1.13), None)
            if level is not None:
                axes.annotate(
                    f"{hz:.0f} Hz, {ratio:.0f} dB over its noise", (hz, level), xytext=(4, 9), textcoords="offset points",
                    fontsize=8.0, color=colour, arrowprops={"arrowstyle": "-", "color": colour, "lw": 0.8}, zorder=4,
                )  # fmt: skip
    axes.set_xscale("log")
    axes.set_xlim(LEFT_HZ, 20_000.0 * ROOM_FOR_NAMES)

    # Names are wider beside a narrower plot.
    def wider() -> None:
        axes.set_xlim(LEFT_HZ, 20_000.0 * ROOM_FOR_NAMES**2)
        axes.set_xticks(TICKS_HZ[1::2], _in_words(TICKS_HZ[1::2]))

    in_a_column(figure, wider)
    axes.set_ylim(low, top + 5.0)
    axes.set_xticks(TICKS_HZ, _in_words(TICKS_HZ))
    axes.minorticks_off()
    axes.set_xlabel("third octaves, Hz")
    axes.set_ylabel("level, dB")
    axes.grid(axis="y", color=PAPER.line, lw=0.5)
    placed: list[float] = []
    span = top + 5.0 - low
    for at, level, name, colour in sorted(ends, key=lambda end: end[1]):
        # Names that would lie over each other are moved apart.
        beside = max([level, *(p + _LEAST_GAP * span for p in placed[-1:])])
        placed.append(beside)
        axes.annotate(
            name, (at, level), xytext=(at * 1.12, beside), textcoords="data", fontsize=9.5, fontweight="bold", color=colour,
            va="center", arrowprops={"arrowstyle": "-", "color": colour, "lw": 0.5, "alpha": 0.6},
        )  # fmt: skip
    say_title(figure, title, subtitle)
    return figure


def _in_words(ticks_hz: Sequence[float]) -> list[str]:
    return [f"{hz:g}" if hz < 1000.0 else f"{hz / 1000.0:g}k" for hz in ticks_hz]


def _stairs(bands: Sequence[tuple[float, float]]) -> tuple[np.ndarray, np.ndarray]:
    """Bands as a stair over frequency: its corners."""
    edge = 10.0**0.05
    x = np.array([f for hz, _ in bands for f in (hz / edge, hz * edge)])
    y = np.array([level for _, db in bands for level in (db, db)])
    return x, y
