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
from samovar.tui.widgets.strip_tiles import TILE
from samovar.tui.widgets.strips import StripStack, StripView

SAMPLES = 72_000
COLUMNS = 132
"""Of the plots in a window of 160."""
STEPS = 30
REPEATS = 3
WINDOWS = ((0.0, 3500.0), (1000.0, 2500.0), (3000.0, 3060.0))
SHARP_MS = 100.0
"""What comes within a tenth of a second is seen as coming at once."""
QUANTITIES = ("temperature", "clock", "power", "fan", "work", "load")


def measure() -> Iterator[Row]:
    """Redraws, and a run of two hours at 10 Hz."""
    for name, pixels in (
        ("in dots", None),
        ("in pixels, sixel", Pixels(SIXEL, 8, 17)),
        ("in pixels, graphics", Pixels(GRAPHICS, 8, 17)),
    ):
        first, whole = asyncio.run(_redraw(pixels))
        for move, took in first.items():
            yield Row(f"six strips of 8 channels × 72,000 samples, {move}, {name}", took, 10.0, "ms")
        if pixels is not None:
            yield Row(f"the same: all of it {name} after a zoom", whole, SHARP_MS, "ms")
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


def _moves(begin: float, end: float) -> dict[str, list[tuple[float, float, float]]]:
    """From when, to when and the cursor of pictures that follow each other as keys make them."""
    column = (end - begin) / COLUMNS
    # Each on a scale of its own.
    zooms = [(begin, end - (1 + k) * 0.7 * column, begin + 30 * column) for k in range(STEPS)]
    return {
        "cursor moved": [(begin, end, begin + (10 + k) * column) for k in range(STEPS)],
        # The window follows a cursor at its edge.
        "panned": [
            (begin + k * TILE * column, end + k * TILE * column, end + (k * TILE - 1) * column)
            for k in range(STEPS)
        ],
        "zoomed": zooms,
    }


async def _redraw(pixels: Pixels | None) -> tuple[dict[str, float], float]:
    """Medians for each kind of move, ms, with pixels up to what the terminal gets: the least of some repeats, as other work on the machine
    only ever adds to it, and the worst of three scales of time. And how long it takes after a zoom until all is in pixels."""
    envelope = Envelope(np.arange(SAMPLES) / 10.0, _values(48))
    specs = tuple(
        StripSpec(q, q, UNITS[q], tuple(range(8 * k, 8 * k + 8)), tuple(f"c{i}" for i in range(8)))
        for k, q in enumerate(QUANTITIES)
    )
    app = _Stage()
    moved: dict[tuple[str, float], list[float]] = {}
    sharp: dict[float, list[float]] = {}
    async with app.run_test(size=(160, 50)):
        strips = app.query_one(StripStack)
        for _ in range(REPEATS):
            # Nothing is kept from before.
            strips._kept = strips._pixels = None
            strips.draw_with(pixels)
            for window in WINDOWS:
                for move, views in _moves(*window).items():
                    took, until = [], []
                    for begin, end, cursor in views:
                        view = StripView(
                            specs=specs, start_s=begin, end_s=end, held=(("held by", ()),), cursor_s=cursor
                        )
                        strips.show(view, envelope)
                        first_ms, whole_ms = _timed(strips, pixels)
                        took.append(first_ms)
                        until.append(whole_ms)
                    moved.setdefault((move, window[0]), []).append(statistics.median(took[1:]))
                    if move == "zoomed":
                        sharp.setdefault(window[0], []).append(statistics.median(until))
    worst: dict[str, float] = {}
    for (move, _), medians in moved.items():
        worst[move] = max(worst.get(move, 0.0), min(medians))
    return worst, max(min(medians) for medians in sharp.values())


def _timed(strips: StripStack, pixels: Pixels | None) -> tuple[float, float]:
    """Until there is a picture, and until all of it is as it will be, ms."""
    started = time.perf_counter()
    _picture(strips, pixels)
    first = time.perf_counter()
    if strips.unfinished:
        while strips.unfinished:
            strips.draw_the_rest()
        _picture(strips, pixels)
    return 1000.0 * (first - started), 1000.0 * (time.perf_counter() - started)


def _picture(strips: StripStack, pixels: Pixels | None) -> None:
    strips.build()
    if pixels is not None:
        strips.pictures.written(pixels, (0, 0), ())


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
