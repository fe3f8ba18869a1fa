"""A command as a load: started, watched, its score read from its output, and gone with this program."""

from __future__ import annotations

import contextlib
import os
import re
import signal
import subprocess
import sys
import tempfile
import time
from typing import IO

from samovar.bench.loads.protocol import LoadEnd, LoadError

READ_BYTES = 4 << 20
"""Of the output, only so much from its end is searched for the score."""


class CommandLoad:
    """Any command, run by a keeper process that ends it, and all it started, when this program ends.

    It counts no work while it runs; `ended` gives its exit status, the time it took, and its score: the last
    match of the pattern in what it printed.
    """

    by_hand = False

    def __init__(self, name: str, command: str, score_pattern: str = "", score_unit: str = "") -> None:
        self._name = name
        self._command = command
        self._pattern = score_pattern
        self._unit = score_unit
        self._keeper: subprocess.Popen[bytes] | None = None
        self._output: IO[bytes] | None = None
        self._began = 0.0
        self._end: LoadEnd | None = None

    @property
    def name(self) -> str:
        """The load's name."""
        return self._name

    def start(self) -> None:
        """Start it. Raises LoadError where no process can be had."""
        self._end = None
        self._output = tempfile.TemporaryFile()  # noqa: SIM115
        self._began = time.monotonic()
        try:
            self._keeper = subprocess.Popen(
                [sys.executable, "-m", "samovar.bench.loads.command", self._command],
                stdin=subprocess.PIPE,
                stdout=self._output,
                stderr=subprocess.STDOUT,
                start_new_session=True,
            )
        except OSError as problem:
            raise LoadError(f"{self._name} could not be started: {problem.strerror}") from problem

    def stop(self) -> None:
        """End it and everything it started."""
        keeper, self._keeper = self._keeper, None
        if keeper is not None:
            with contextlib.suppress(OSError):
                if keeper.stdin:
                    keeper.stdin.close()
            # The keeper ends the command's processes first, then itself.
            with contextlib.suppress(subprocess.TimeoutExpired):
                keeper.wait(3.0)
            with contextlib.suppress(OSError):
                os.killpg(keeper.pid, signal.SIGKILL)
            keeper.wait()
        if self._output is not None:
            self._output.close()
            self._output = None

    def work_done(self) -> float:
        """Not known: only its score tells."""
        return float("nan")

    def ended(self) -> LoadEnd | None:
        """Its end, once it has come."""
        if self._end is None and self._keeper is not None and self._keeper.poll() is not None:
            seconds = time.monotonic() - self._began
            self._end = LoadEnd(self._keeper.returncode, seconds, self._score(), self._unit)
        return self._end

    def _score(self) -> float | None:
        if not self._pattern or self._output is None:
            return None
        size = self._output.seek(0, os.SEEK_END)
        self._output.seek(max(0, size - READ_BYTES))
        return score_in(self._output.read().decode("utf-8", "replace"), self._pattern)


def score_in(text: str, pattern: str) -> float | None:
    """The last match of a pattern as a number: its first group where it has one; None where there is none."""
    found = None
    for match in re.finditer(pattern, text):
        typed = match[1] if match.re.groups else match[0]
        number = re.search(r"[+-]?\d+(?:[.,]\d+)?(?:[eE][+-]?\d+)?", typed or "")
        if number:
            found = float(number[0].replace(",", "."))
    return found


def keep(command: str) -> int:
    """Run a command in a group of its own until it ends or standard input closes; answers its status."""
    child = subprocess.Popen(["/bin/sh", "-c", command], stdin=subprocess.DEVNULL, start_new_session=True)
    import threading

    def end_with_parent() -> None:
        while os.read(0, 1):
            pass
        with contextlib.suppress(OSError):
            os.killpg(child.pid, signal.SIGKILL)
        os._exit(1)

    threading.Thread(target=end_with_parent, daemon=True).start()
    status = child.wait()
    # What it left running in the background is no part of any measurement: it goes too.
    with contextlib.suppress(OSError):
        os.killpg(child.pid, signal.SIGKILL)
    return status if status >= 0 else 128 - status


if __name__ == "__main__":
    # Not by way of the interpreter's own end: its thread may still wait on standard input.
    os._exit(keep(sys.argv[1]))
