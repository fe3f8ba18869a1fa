"""Loads on this machine: one worker process for each thread asked for."""

from __future__ import annotations

import contextlib
import json
import math
import mmap
import os
import shutil
import signal
import struct
import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path

from samovar.bench.loads import storage
from samovar.bench.loads.catalogue import KINDS
from samovar.bench.loads.heartbeat import END_AFTER_S, LOST, heart, shared_memory
from samovar.bench.loads.protocol import LoadEnd, LoadError

ROOM_TIMES = 4
"""A load takes at most one part in so many of what is free on a drive."""
CHIP_WITHIN_S = 30.0
"""So long a graphics driver may take to answer: the first time it builds its programs."""


def usable_threads() -> int:
    """How many threads this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


def free_memory_bytes() -> float:
    """Memory that can be had without anything else losing its own; without limit where the system does not tell."""
    try:
        lines = Path("/proc/meminfo").read_text("ascii").splitlines()
        return 1024.0 * next(int(line.split()[1]) for line in lines if line.startswith("MemAvailable:"))
    except (OSError, StopIteration, ValueError, IndexError):
        return math.inf


def default_threads(name: str) -> int:
    """How many threads a load takes where nobody says: as many as its kind asks for, all there are for most."""
    wanted = KINDS[name].threads if name in KINDS else 0
    return min(wanted, usable_threads()) if wanted else usable_threads()


class ProcessorLoad:
    """A load of worker processes. They share a counter in memory, and end with this process, by the
    closing of a pipe that only this process holds, or where its heart stands still.

    `duty` is the busy share of every second where the kind has no pace of its own; `seed` makes its patterns
    repeatable; `options` are its kernel's own, such as the size of a block.
    """

    by_hand = False

    def __init__(
        self,
        name: str,
        threads: int | None = None,
        *,
        duty: float | None = None,
        seed: int = 0,
        called: str = "",
        options: Mapping[str, int] | None = None,
    ) -> None:
        """Raises LoadError: no such load, or not a number of threads this machine has."""
        if name not in KINDS:
            raise LoadError(f"no load {name!r}; there are {', '.join(KINDS)}")
        usable = usable_threads()
        self._threads = default_threads(name) if threads is None else threads
        if not 1 <= self._threads <= usable:
            raise LoadError(
                f"{self._threads} threads asked for, this machine has {usable}: ask for 1 to {usable}"
            )
        self._kind = KINDS[name]
        self._name = called or name
        self._pace = self._kind.pace if duty is None or self._kind.pace == "game" else f"{duty}/1"
        self._seed = seed
        self._options = dict(options or {})
        self.work = (self._kind.work,)
        self._told: list[str] = []
        self._workers: list[subprocess.Popen[bytes]] = []
        self._memory: mmap.mmap | None = None
        self._lives = False

    @property
    def name(self) -> str:
        """The load's name."""
        return self._name

    def _refuse_what_is_not_there(self) -> None:
        """A load never takes memory or disk that the machine does not have to give, nor a chip that it does not have."""
        if self._kind.graphics:
            self._refuse_without_chip()
            return
        memory = self._kind.memory_bytes * self._threads
        free = free_memory_bytes()
        if memory > 0.8 * free:
            raise LoadError(
                f"{self._name} needs {memory / 1e6:.0f} MB of memory, {free / 1e6:.0f} MB are free: "
                "ask for fewer threads, or close something"
            )
        if self._kind.disk_bytes:
            self._refuse_without_room()

    def _refuse_without_room(self) -> None:
        """A load leaves most of what is free on a drive free."""
        disk = self._options.get("file", self._kind.disk_bytes) * self._threads
        try:
            room = shutil.disk_usage(storage.folder()).free
        except OSError as problem:
            raise LoadError(
                f"{self._name}: {storage.folder()}: {str(problem.strerror).lower()}; name another folder"
            ) from None
        if ROOM_TIMES * disk > room:
            raise LoadError(
                f"{self._name} writes {disk / 1e6:.0f} MB, {room / 1e6:.0f} MB are free: "
                f"make room, ask for a smaller file, or name another folder with {storage.FOLDER}"
            )
        if self._kind.direct:
            self._told = (
                []
                if storage.is_direct()
                else [
                    f"{self._name}: {storage.folder()} does not let blocks past the system's memory: some of its work may be memory's"
                ]
            )

    def _refuse_without_chip(self) -> None:
        """A driver that fails, fails in a process of its own."""
        command = [sys.executable, "-m", "samovar.bench.loads.graphics", str(self._kind.memory_bytes)]
        try:
            done = subprocess.run(
                command, capture_output=True, timeout=CHIP_WITHIN_S, start_new_session=True, check=False
            )
            said = json.loads(done.stdout.splitlines()[-1])
        except (OSError, subprocess.TimeoutExpired, ValueError, IndexError):
            raise LoadError(
                f"{self._name}: the graphics chip's driver fails; see that it is installed"
            ) from None
        if "error" in said:
            raise LoadError(f"{self._name}: {said['error']}")

    def start(self) -> None:
        """Start the workers. Raises LoadError where memory, disk or a process cannot be had."""
        if not self._kind.kernel:
            return
        self._told = []
        self._refuse_what_is_not_there()
        descriptor = shared_memory(8 * self._threads)
        self._memory = mmap.mmap(descriptor, 8 * self._threads)
        pulse = heart()
        pulse.on()
        self._lives = True
        # Keys and whole numbers alone: nothing in them needs quoting.
        kernel = "&".join([self._kind.kernel, *(f"{key}={value}" for key, value in self._options.items())])
        single = {f"{library}_NUM_THREADS": "1" for library in ("OMP", "OPENBLAS", "MKL")}
        try:
            for index in range(self._threads):
                command = [sys.executable, "-m", "samovar.bench.loads.worker", kernel, self._pace]
                self._workers.append(
                    subprocess.Popen(
                        [*command, *map(str, (index, self._seed, descriptor, pulse.descriptor))],
                        stdin=subprocess.PIPE,
                        stdout=subprocess.DEVNULL,
                        stderr=subprocess.DEVNULL,
                        pass_fds=[descriptor, pulse.descriptor],
                        env={**os.environ, **single},
                        start_new_session=True,
                    )
                )
                if not self._kind.graphics:
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
        if self._lives:
            self._lives = False
            heart().off()

    def work_done(self) -> tuple[float, ...]:
        """Units of work of its kind, all workers together."""
        if self._memory is None:
            return (0.0,)
        return (sum(struct.unpack(f"<{self._threads}d", self._memory[: 8 * self._threads])),)

    def told(self) -> list[str]:
        """What is to be known of its work."""
        return list(self._told)

    def ended(self) -> LoadEnd | None:
        """It ends by itself only where a worker did: what is left of it is another load."""
        gone = [status for worker in self._workers if (status := worker.poll()) is not None]
        if not gone:
            return None
        lost = f"lost {len(gone)} of its {len(self._workers)} workers ({_how(gone[0])})"
        return LoadEnd(gone[0] or 1, 0.0, how=lost)


def _how(status: int) -> str:
    """How a worker ended, in words."""
    if status == LOST:
        return f"the program gave no sign of life for {END_AFTER_S:g} s"
    if status < 0:
        return f"ended from outside: {signal.strsignal(-status) or -status}".lower()
    return f"exit status {status}"
