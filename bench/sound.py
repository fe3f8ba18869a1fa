"""What listening to a recording costs, beside the transform of it."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator

import numpy as np

from bench.table import Row
from samovar.core.sound.heard import Heard, as_promised
from samovar.core.sound.listening import listen

RATE = 48_000
TIMES = 5


def measure() -> Iterator[Row]:
    """A minute of sound analysed, times what numpy's transform of it takes, in alternation."""
    x = 0.01 * np.random.default_rng(41).standard_normal(60 * RATE)
    ratios = []
    for _ in range(TIMES):
        began = time.perf_counter()
        np.fft.fft(x)
        plain = time.perf_counter() - began
        began = time.perf_counter()
        as_promised(Heard(listen([x], RATE)))
        ratios.append((time.perf_counter() - began) / plain)
    yield Row(
        "a minute of sound analysed, times numpy's transform of it", statistics.median(ratios), 10.0, "×"
    )
