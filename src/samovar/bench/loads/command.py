"""A command as a load: started, watched, ended with all it started, and gone with this program."""

from __future__ import annotations

import contextlib
import json
import os
import subprocess
import sys
import tempfile
import time
import uuid
from typing import IO, Any

from samovar.bench.loads.heartbeat import heart
from samovar.bench.loads.keeper import OUTPUT_BYTES
from samovar.bench.loads.processes import become_subreaper, end_all, marked, named
from samovar.bench.loads.protocol import WORK, LoadEnd, LoadError

KEEPER_PATIENCE_S = 3.0
"""So long a keeper that is told to end its command is waited for: it gives a stubborn one 2 s."""


class CommandLoad:
    """Any command, run by a keeper process that ends it, and all it started, when this program ends.

    It counts no work while it runs; `ended` gives its exit status, the time it took, and the end of what it printed,
    in which its score may stand.
    """

    by_hand = False
    work = (WORK,)

    def __init__(self, name: str, command: str) -> None:
        self._name = name
        self._command = command
        self._word = uuid.uuid4().hex
        self._keeper: subprocess.Popen[bytes] | None = None
        self._report: IO[bytes] | None = None
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
        # Were its keeper killed, what the command started would come to this program, and is found here.
        become_subreaper()
        self._report, self._output = tempfile.TemporaryFile(), tempfile.TemporaryFile()  # noqa: SIM115
        self._began = time.monotonic()
        pulse = heart()
        descriptors = (pulse.descriptor, self._report.fileno(), self._output.fileno())
        module = [sys.executable, "-m", "samovar.bench.loads.keeper"]
        pulse.on()
        try:
            self._keeper = subprocess.Popen(
                [*module, *map(str, descriptors), self._word, self._command],
                stdin=subprocess.PIPE,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                pass_fds=descriptors,
                start_new_session=True,
            )
        except (OSError, ValueError) as problem:
            pulse.off()
            raise LoadError(f"{self._name} could not be started: {problem}") from problem

    def stop(self) -> None:
        """End it and everything it started. Raises LoadError: something could not be ended."""
        keeper, self._keeper = self._keeper, None
        if keeper is None:
            return
        with contextlib.suppress(OSError):
            if keeper.stdin:
                keeper.stdin.close()
        # The keeper ends the command's processes first, then itself.
        with contextlib.suppress(subprocess.TimeoutExpired):
            keeper.wait(KEEPER_PATIENCE_S)
        with contextlib.suppress(OSError):
            keeper.kill()
        keeper.wait()
        heart().off()
        # What it could not end, or what outlived a keeper that was killed.
        left = end_all(lambda: marked(self._word))
        for file in (self._report, self._output):
            if file is not None:
                file.close()
        self._report = self._output = None
        if left:
            raise LoadError(f"{', '.join(named(p) for p in left)} could not be ended: end it by hand")

    def work_done(self) -> tuple[float, ...]:
        """Not known: only its score tells."""
        return (float("nan"),)

    def ended(self) -> LoadEnd | None:
        """Its end, once it has come."""
        if self._end is None and self._keeper is not None and self._keeper.poll() is not None:
            self._end = self._found_end(self._keeper.returncode)
        return self._end

    def _found_end(self, keeper_status: int) -> LoadEnd:
        report = self._reported()
        if report is None or report["status"] is None:
            how = "was cut off: the process that kept it was ended from outside"
            return LoadEnd(keeper_status or 1, time.monotonic() - self._began, how=how)
        return LoadEnd(int(report["status"]), float(report["seconds"]), self._printed())

    def _reported(self) -> dict[str, Any] | None:
        """The keeper's report; None where it was killed before it could give one."""
        if self._report is None:
            return None
        with contextlib.suppress(ValueError, OSError):
            text = os.pread(self._report.fileno(), 1 << 16, 0).decode()
            return dict(json.loads(text)) if text else None
        return None

    def _printed(self) -> str:
        if self._output is None:
            return ""
        return os.pread(self._output.fileno(), OUTPUT_BYTES, 0).decode("utf-8", "replace")
