"""The keeper of a command: a process that runs it, keeps the end of what it prints, and ends all it started.

Run as `python -m samovar.bench.loads.keeper HEART_FD REPORT_FD OUTPUT_FD WORD COMMAND`. It ends the command when
standard input closes, which it does when the program dies, on SIGTERM, or when the program's heart stands still. What came of it is one line of JSON on REPORT_FD: the exit status, the seconds it took, what could not be ended.
"""

from __future__ import annotations

import json
import os
import select
import signal
import subprocess
import sys
import time
from collections import deque

from samovar.bench.loads.heartbeat import END_AFTER_S, LOOK_EVERY_S, PAUSE_AFTER_S, Pulse
from samovar.bench.loads.processes import (
    LOAD_WORD,
    become_subreaper,
    descendants,
    end_all,
    end_with_parent,
    named,
    reap,
    signal_all,
)

OUTPUT_BYTES = 4 << 20
"""Of what a command prints, only so much from its end is kept: a score stands at the end."""
BLOCK_BYTES = 1 << 16
DRAIN_BLOCKS = 64
"""So many blocks are read before the keeper looks around again: a command that prints without end is no excuse."""


class _Tail:
    """The last bytes of a stream."""

    def __init__(self) -> None:
        self._blocks: deque[bytes] = deque()
        self._size = 0

    def add(self, block: bytes) -> None:
        self._blocks.append(block)
        self._size += len(block)
        while self._size - len(self._blocks[0]) >= OUTPUT_BYTES:
            self._size -= len(self._blocks.popleft())

    def bytes(self) -> bytes:
        return b"".join(self._blocks)[-OUTPUT_BYTES:]


class Keeper:
    """One command being kept."""

    def __init__(self, command: str, word: str, pulse: Pulse) -> None:
        self._pulse = pulse
        self._tail = _Tail()
        self._told = False
        self._paused = False
        become_subreaper()
        for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
            signal.signal(number, self._tell)
        self._output, writing = os.pipe()
        os.set_blocking(self._output, False)
        self._began = time.monotonic()
        self._child = subprocess.Popen(
            ["/bin/sh", "-c", command],
            stdin=subprocess.DEVNULL,
            stdout=writing,
            stderr=writing,
            start_new_session=True,
            env={**os.environ, LOAD_WORD: word},
            preexec_fn=end_with_parent,
        )
        os.close(writing)

    def _tell(self, *_: object) -> None:
        self._told = True

    def keep(self) -> dict[str, object]:
        """Wait for its end, or bring it about; the answer is the report."""
        status = None
        while status is None and not self._told:
            still_s = self._pulse.still_s()
            if still_s > END_AFTER_S:
                break
            self._pause(still_s > PAUSE_AFTER_S)
            readable, _, _ = select.select([0, self._output], [], [], LOOK_EVERY_S)
            if 0 in readable and not os.read(0, 1):
                break
            if self._output in readable and not self._drain():
                # Whoever printed has closed its output; the command may go on without one.
                time.sleep(LOOK_EVERY_S)
            status = reap().get(self._child.pid)
        seconds = time.monotonic() - self._began
        # What it left running in the background is no part of any measurement: it goes too.
        left = end_all(lambda: descendants(os.getpid()))
        self._drain()
        code = None if status is None else os.waitstatus_to_exitcode(status)
        return {
            "status": code if code is None or code >= 0 else 128 - code,
            "seconds": seconds,
            "left": [named(pid) for pid in left],
        }

    def _pause(self, wanted: bool) -> None:
        if wanted != self._paused:
            self._paused = wanted
            signal_all(descendants(os.getpid()), signal.SIGSTOP if wanted else signal.SIGCONT)

    def _drain(self) -> bool:
        """Read what it printed; False once nobody prints any more."""
        for _ in range(DRAIN_BLOCKS):
            try:
                block = os.read(self._output, BLOCK_BYTES)
            except BlockingIOError:
                return True
            if not block:
                return False
            self._tail.add(block)
        return True

    @property
    def printed(self) -> bytes:
        """The end of what it printed."""
        return self._tail.bytes()


def main(heart_fd: int, report_fd: int, output_fd: int, word: str, command: str) -> None:
    """Keep one command."""
    keeper = Keeper(command, word, Pulse(heart_fd))
    report = keeper.keep()
    os.pwrite(output_fd, keeper.printed, 0)
    os.write(report_fd, json.dumps(report).encode() + b"\n")
    os._exit(0)


if __name__ == "__main__":
    main(int(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3]), sys.argv[4], sys.argv[5])
