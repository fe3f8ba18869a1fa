"""Processor loads on this machine: one worker process for each thread asked for."""

from __future__ import annotations

import contextlib
import mmap
import os
import struct
import subprocess
import sys

from samovar.bench.loads.protocol import LoadError

KERNEL_OF = {"worst case": "dense", "heavy work": "transforms", "everyday": "everyday"}
"""The processor loads by name, and the kernel each of them runs."""
DESCRIPTION = {
    "worst case": "dense vector arithmetic from cache, all threads",
    "heavy work": "long transforms in cache, all threads",
    "everyday": "short bursts on two threads",
}


def default_threads(name: str) -> int:
    """How many threads a load takes where nobody says: all there are, two for everyday use."""
    usable = len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
    return min(2, usable) if name == "everyday" else usable


class ProcessorLoad:
    """A load of worker processes. They share a counter in memory and end with this process, by the
    closing of a pipe that only this process holds."""

    def __init__(self, name: str, threads: int | None = None) -> None:
        """Raises LoadError: no such load, or not a number of threads this machine has."""
        if name not in KERNEL_OF:
            raise LoadError(f"no load {name!r}; there are {', '.join(KERNEL_OF)}")
        usable = default_threads("worst case")
        self._threads = default_threads(name) if threads is None else threads
        if not 1 <= self._threads <= usable:
            raise LoadError(
                f"{self._threads} threads asked for, this machine has {usable}: ask for 1 to {usable}"
            )
        self._name = name
        self._workers: list[subprocess.Popen[bytes]] = []
        self._memory: mmap.mmap | None = None

    @property
    def name(self) -> str:
        """The load's name."""
        return self._name

    def start(self) -> None:
        """Start the workers. Raises LoadError where a process cannot be had."""
        descriptor = os.memfd_create("samovar-work") if hasattr(os, "memfd_create") else _unlinked_file()
        os.ftruncate(descriptor, 8 * self._threads)
        self._memory = mmap.mmap(descriptor, 8 * self._threads)
        single = {f"{library}_NUM_THREADS": "1" for library in ("OMP", "OPENBLAS", "MKL")}
        try:
            for index in range(self._threads):
                command = [
                    sys.executable,
                    "-m",
                    "samovar.bench.loads.worker",
                    KERNEL_OF[self._name],
                    str(index),
                ]
                self._workers.append(
                    subprocess.Popen(
                        [*command, str(descriptor)],
                        stdin=subprocess.PIPE,
                        stdout=subprocess.DEVNULL,
                        stderr=subprocess.DEVNULL,
                        pass_fds=[descriptor],
                        env={**os.environ, **single},
                        start_new_session=True,
                    )
                )
                self._pin(self._workers[-1].pid, index)
        except OSError as problem:
            self.stop()
            raise LoadError(f"the load could not be started: {problem.strerror}") from problem
        finally:
            os.close(descriptor)

    @staticmethod
    def _pin(pid: int, index: int) -> None:
        """Keep each worker on its own processor where the system allows."""
        with contextlib.suppress(OSError, AttributeError):
            usable = sorted(os.sched_getaffinity(0))
            os.sched_setaffinity(pid, {usable[index % len(usable)]})

    def stop(self) -> None:
        """End every worker and wait until it is gone."""
        workers, self._workers = self._workers, []
        for worker in workers:
            with contextlib.suppress(OSError):
                worker.kill()
            if worker.stdin:
                with contextlib.suppress(OSError):
                    worker.stdin.close()
        for worker in workers:
            worker.wait()

    def work_done(self) -> float:
        """Units of 100 million operations, all workers together."""
        if self._memory is None:
            return 0.0
        return sum(struct.unpack(f"<{self._threads}d", self._memory[: 8 * self._threads]))


def _unlinked_file() -> int:
    import tempfile

    with tempfile.TemporaryFile() as file:
        return os.dup(file.fileno())
