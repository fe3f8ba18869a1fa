"""The program in processes forked from one that has everything imported: each its own, none pays for its start."""

from __future__ import annotations

import multiprocessing
import os
import struct
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from multiprocessing.context import ForkServerContext
from multiprocessing.process import BaseProcess
from pathlib import Path

import samovar.archive
import samovar.bench.course
import samovar.bench.recorder
import samovar.cli.main
import samovar.cli.record
import samovar.core.reading
import samovar.exchange.logs
import samovar.recording.headless
import samovar.sources.linux

CONTEXT: ForkServerContext = multiprocessing.get_context("forkserver")
CONTEXT.set_forkserver_preload([__name__])


def program(arguments: list[str], environment: dict[str, str], folder: str) -> None:
    """What the forked process does: the program's own command line, its output in files, its samples counted.

    The count is kept outside the process, so that it is there after a kill.
    """
    from samovar.archive.writer import RunWriter

    os.environ.update(environment)
    for name in ("stdout", "stderr"):
        setattr(sys, name, (Path(folder) / name).open("w", encoding="utf-8", buffering=1))
    append, taken = RunWriter.append, 0

    def counted(self: RunWriter, at_s: float, values: Sequence[float]) -> None:
        nonlocal taken
        taken += 1
        os.pwrite(counter, struct.pack("<q", taken), 0)
        append(self, at_s, values)

    counter = os.open(Path(folder) / "taken", os.O_CREAT | os.O_RDWR)
    RunWriter.append = counted  # type: ignore[method-assign]
    sys.argv = ["samovar", *arguments]
    sys.exit(samovar.cli.main.run())


class Fork:
    """The program in a process of its own."""

    def __init__(self, arguments: list[str], environment: dict[str, str], folder: Path) -> None:
        self._folder = folder
        self.process: BaseProcess = CONTEXT.Process(
            target=program, args=(arguments, environment, str(folder))
        )
        self.process.start()

    def written(self, name: str) -> str:
        """What it has written to `stdout` or `stderr` so far."""
        path = self._folder / name
        return path.read_text(encoding="utf-8") if path.exists() else ""

    def first_line(self, patience_s: float = 60.0) -> str:
        """The first line it prints."""
        deadline = time.monotonic() + patience_s
        while "\n" not in (text := self.written("stdout")):
            if time.monotonic() > deadline:
                raise AssertionError(f"nothing was printed; {self.written('stderr')}")
            time.sleep(0.01)
        return text.splitlines()[0]

    def taken(self) -> int:
        """Samples it has taken from its sources so far, whether kept or not."""
        path = self._folder / "taken"
        packed = path.read_bytes() if path.exists() else b""
        return int(struct.unpack("<q", packed)[0]) if len(packed) == 8 else 0


def call(*arguments: str | Path) -> subprocess.CompletedProcess[str]:
    """Run the program to its end."""
    words = [str(a) for a in arguments]
    with tempfile.TemporaryDirectory() as folder:
        fork = Fork(words, {}, Path(folder))
        fork.process.join(120)
        status = fork.process.exitcode
        return subprocess.CompletedProcess(
            words, -1 if status is None else status, fork.written("stdout"), fork.written("stderr")
        )
