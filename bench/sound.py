"""What listening to a recording costs, beside the transform of it."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator

import numpy as np

from bench.table import Row
from samovar.core.sound.heard import Heard, as_promised
from samovar.core.sound.listening import listen
from samovar.core.sound.meter import Meter

RATE = 48_000
TIMES = 5
BLOCK = 2400
"""A twentieth of a second, as inputs hand it over."""


def measure() -> Iterator[Row]:
    """A minute of sound analysed, times what numpy's transform of it takes, in alternation; and a minute as it comes in."""
    x = 0.01 * np.random.default_rng(41).standard_normal(60 * RATE)
    ratios = []
    for _ in range(TIMES):
        began = time.perf_counter()
        np.fft.fft(x)
        plain = time.perf_counter() - began
        began = time.perf_counter()
        as_promised(Heard(listen([x], RATE)))
        ratios.append((time.perf_counter() - began) / plain)
    meter = Meter(RATE)
    meter.hear(x[:RATE])
    began = time.process_time()
    for start in range(0, len(x), BLOCK):
        meter.hear(x[start : start + BLOCK])
    yield Row(
        "live sound at 48 kHz: share of one core", 100.0 * (time.process_time() - began) / 60.0, 4.0, "%"
    )
    yield Row(
        "a minute of sound analysed, times numpy's transform of it", statistics.median(ratios), 10.0, "×"
    )
