"""What each load does to this machine: work done a second, and how busy it keeps the processors."""

from __future__ import annotations

import time
from collections.abc import Iterator

import psutil

from bench.table import Row
from samovar.bench.loads.catalogue import KINDS
from samovar.bench.loads.combined import make_load
from samovar.bench.loads.processor import default_threads, usable_threads

MEASURED_S = 5.0


def measure() -> Iterator[Row]:
    """Each load for some seconds, alone."""
    for name, kind in KINDS.items():
        load = make_load(name, None, {})
        load.start()
        try:
            time.sleep(1.5)
            psutil.cpu_percent()
            began, before = time.monotonic(), load.work_done()[0]
            time.sleep(MEASURED_S)
            busy = psutil.cpu_percent()
            rate = (load.work_done()[0] - before) / (time.monotonic() - began)
        finally:
            load.stop()
        threads = default_threads(name) if kind.kernel else 0
        share = f"{threads} of {usable_threads()} threads, utilisation {busy:.0f} %"
        yield Row(f"load {name}: {share}", rate, None, f"{kind.unit}/s" if kind.unit else "")
