"""How long it takes to draw strips, and to open a long run."""

from __future__ import annotations

import asyncio
import statistics
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from textual.app import App, ComposeResult

from bench.table import Row
from samovar.archive import Archive
from samovar.core.envelope import Envelope
from samovar.core.quantity import UNITS, Channel
from samovar.core.recording import Recording
from samovar.tui.pixels.terminal import GRAPHICS, SIXEL, Pixels
from samovar.tui.theme import DARK_THEME
from samovar.tui.widgets.strip_plan import StripSpec
from samovar.tui.widgets.strips import StripStack, StripView

SAMPLES = 72_000
QUANTITIES = ("temperature", "clock", "power", "fan", "work", "load")


def measure() -> Iterator[Row]:
    """Redraws, and a run of two hours at 10 Hz."""
    yield Row(
        "six strips of 8 channels × 72,000 samples redrawn, in dots", asyncio.run(_redraw(None)), 10.0, "ms"
    )
    for protocol in (SIXEL, GRAPHICS):
        took = asyncio.run(_redraw(Pixels(protocol, 8, 17)))
        yield Row(f"the same in pixels, {protocol}", took, 10.0, "ms")
    first, whole = _opening()
    yield Row("opening 2 h × 10 Hz × 64 channels: first picture", first, 0.1, "s")
    yield Row("opening 2 h × 10 Hz × 64 channels: all read", whole, 0.5, "s")


class _Stage(App[None]):
    def compose(self) -> ComposeResult:
        yield StripStack(id="strips")

    def on_mount(self) -> None:
        self.register_theme(DARK_THEME)
        self.theme = DARK_THEME.name


def _values(rows: int) -> np.ndarray:
    rng = np.random.default_rng(1)
    walk = np.cumsum(rng.standard_normal((rows, SAMPLES)), axis=1) * 0.05 + 60.0
    return np.round((walk + rng.standard_normal((rows, SAMPLES))) * 8.0) / 8.0


async def _redraw(pixels: Pixels | None) -> float:
    """Median of pans, zooms and cursor moves, ms; the worst of the three kinds. With pixels up to what the terminal gets."""
    envelope = Envelope(np.arange(SAMPLES) / 10.0, _values(48))
    specs = tuple(
        StripSpec(q, q, UNITS[q], tuple(range(8 * k, 8 * k + 8)), tuple(f"c{i}" for i in range(8)))
        for k, q in enumerate(QUANTITIES)
    )
    app, worst = _Stage(), 0.0
    async with app.run_test(size=(160, 50)):
        strips = app.query_one(StripStack)
        strips.draw_with(pixels)
        for begin, end in ((0.0, 7000.0), (1000.0, 2500.0), (3000.0, 3060.0)):
            took = []
            for k in range(40):
                strips.show(
                    StripView(
                        specs=specs,
                        start_s=begin + k,
                        end_s=end + k,
                        held=(("held by", ()),),
                        cursor_s=begin + 30.0 + k,
                    ),
                    envelope,
                )
                started = time.perf_counter()
                strips.build()
                if pixels is not None:
                    strips.pictures.written(pixels, (0, 0), ())
                took.append(time.perf_counter() - started)
            worst = max(worst, 1000.0 * statistics.median(took))
    return worst


def _opening() -> tuple[float, float]:
    channels = tuple(
        Channel(f"{QUANTITIES[k % 6]} {k}", QUANTITIES[k % 6], UNITS[QUANTITIES[k % 6]]) for k in range(64)
    )
    with tempfile.TemporaryDirectory() as folder, Archive(Path(folder) / "a.sqlite") as archive:
        recording = Recording(channels, np.arange(SAMPLES) / 10.0, _values(64))
        number = archive.runs.add(recording, "none", "2026-03-02T09:00:00Z")
        started = time.perf_counter()
        part = archive.runs.recording(number, [0, 1, 2, 3, 4])
        Envelope(part.time_s, part.values).columns([0, 1, 2, 3, 4], 0.0, 7200.0, 220)
        first = time.perf_counter() - started
        started = time.perf_counter()
        whole = archive.runs.recording(number)
        Envelope(whole.time_s, whole.values)
        return first, time.perf_counter() - started
