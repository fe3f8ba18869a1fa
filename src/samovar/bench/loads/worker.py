"""One worker process of a processor load: dense kernels on data that stays in cache, counted as done.

Run as `python -m samovar.bench.loads.worker KERNEL INDEX COUNTER_FD`. It ends with its standard input:
the parent holds the other end, so whatever ends the parent ends the worker.
"""

from __future__ import annotations

import mmap
import os
import struct
import sys
import threading

UNIT_FLOP = 1e8
"""One unit of work: 100 million floating-point operations."""


def main(kernel: str, index: int, counter_fd: int) -> None:
    """Work until standard input closes."""
    threading.Thread(target=_end_with_parent, daemon=True).start()
    counter = mmap.mmap(counter_fd, 0)
    import time

    import numpy as np

    generator = np.random.default_rng(index)
    done = 0.0

    def count(units: float) -> None:
        nonlocal done
        done += units
        struct.pack_into("<d", counter, 8 * index, done)

    if kernel == "transforms":
        # 32 transforms of 4,096 points: 2 MB, inside a core's own cache and its neighbour's.
        block = generator.standard_normal((32, 4096)) + 0j
        while True:
            for _ in range(4):
                block = np.fft.ifft(np.fft.fft(block, axis=1), axis=1)
            # 5 n log2 n operations for each transform, twice, four times over.
            count(4 * 2 * 32 * 5 * 4096 * 12 / UNIT_FLOP)
    size = 160
    left, right = generator.standard_normal((size, size)), generator.standard_normal((size, size))
    out = np.empty((size, size))
    busy_until = 0.0
    while True:
        for _ in range(8):
            np.matmul(left, right, out=out)
        count(8 * 2 * size**3 / UNIT_FLOP)
        if kernel == "everyday":
            # Bursts of 0.4 s in every second: what a desk in use looks like.
            now = time.monotonic()
            if now > busy_until:
                time.sleep(0.6)
                busy_until = time.monotonic() + 0.4


def _end_with_parent() -> None:
    while sys.stdin.buffer.read(1):
        pass
    os._exit(0)


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]), int(sys.argv[3]))
