"""One worker process of a load: a kernel at a pace, its work counted as it is done.

Run as `python -m samovar.bench.loads.worker KERNEL PACE INDEX SEED COUNTER_FD HEART_FD`, KERNEL being its name with its
options (`storage read&block=4096`), PACE `game` or `DUTY/PERIOD_S`. It ends with its standard input: the parent holds the other end, so whatever ends the parent
ends the worker. It pauses, then ends, where the parent's heart stands still.
"""

from __future__ import annotations

import mmap
import os
import select
import struct
import sys
import threading

from samovar.bench.loads.heartbeat import END_AFTER_S, LOOK_EVERY_S, LOST, Pulse
from samovar.bench.loads.kernels import KERNELS
from samovar.bench.loads.pace import GamePace, SteadyPace


def main(kernel: str, pace: str, index: int, seed: int, counter_fd: int, heart_fd: int) -> None:
    """Work until standard input closes or the heart stands still."""
    pulse = Pulse(heart_fd)
    threading.Thread(target=_end_with_parent, args=(pulse,), daemon=True).start()
    counter = mmap.mmap(counter_fd, 0)
    duty, _, period = pace.partition("/")
    rhythm = GamePace(index, seed) if pace == "game" else SteadyPace(float(duty), float(period))
    done = 0.0
    name, *options = kernel.split("&")
    given = {key: int(value) for key, _, value in (one.partition("=") for one in options)}
    for units in KERNELS[name](seed + index, **given):
        done += units
        struct.pack_into("<d", counter, 8 * index, done)
        rhythm.rest()
        pulse.hold()


def _end_with_parent(pulse: Pulse) -> None:
    while True:
        if pulse.still_s() > END_AFTER_S:
            os._exit(LOST)
        readable, _, _ = select.select([0], [], [], LOOK_EVERY_S)
        if readable and not os.read(0, 1):
            os._exit(0)


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2], *(int(a) for a in sys.argv[3:]))
