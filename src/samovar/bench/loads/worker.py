"""One worker process of a load: a kernel at a pace, its work counted as it is done.

Run as `python -m samovar.bench.loads.worker KERNEL PACE INDEX SEED COUNTER_FD`, PACE being `game` or
`DUTY/PERIOD_S`. It ends with its standard input: the parent holds the other end, so whatever ends the parent
ends the worker.
"""

from __future__ import annotations

import mmap
import os
import struct
import sys
import threading

from samovar.bench.loads.kernels import KERNELS
from samovar.bench.loads.pace import GamePace, SteadyPace


def main(kernel: str, pace: str, index: int, seed: int, counter_fd: int) -> None:
    """Work until standard input closes."""
    threading.Thread(target=_end_with_parent, daemon=True).start()
    counter = mmap.mmap(counter_fd, 0)
    duty, _, period = pace.partition("/")
    rhythm = GamePace(index, seed) if pace == "game" else SteadyPace(float(duty), float(period))
    done = 0.0
    for units in KERNELS[kernel](seed + index):
        done += units
        struct.pack_into("<d", counter, 8 * index, done)
        rhythm.rest()


def _end_with_parent() -> None:
    while sys.stdin.buffer.read(1):
        pass
    os._exit(0)


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2], int(sys.argv[3]), int(sys.argv[4]), int(sys.argv[5]))
