"""The heartbeat that every load lives by: it beats only while the recorder runs and its guard looks.

The program writes the moment of each beat into memory that workers and keepers share. A program that is stopped
(Ctrl-Z, SIGSTOP), hangs or dies beats no more; its loads then pause, and soon after end, whatever state it is in.
CLOCK_MONOTONIC is the same for all processes of a machine and stands still while the machine sleeps.
"""

from __future__ import annotations

import contextlib
import mmap
import os
import struct
import tempfile
import threading
import time
from collections.abc import Callable, Iterator

BEAT_EVERY_S = 0.1
PAUSE_AFTER_S = 0.6
"""Six beats missed: more than a busy machine delays a thread that sleeps most of the time."""
END_AFTER_S = 1.5
"""Together with what a worker takes to notice, an end within 2 s."""
LOOK_EVERY_S = 0.1
LOST = 70
"""The exit status of a worker whose heartbeat was lost."""


def shared_memory(size: int) -> int:
    """A descriptor of memory that child processes can share."""
    if hasattr(os, "memfd_create"):
        descriptor = os.memfd_create("samovar")
    else:
        with tempfile.TemporaryFile() as file:
            descriptor = os.dup(file.fileno())
    os.ftruncate(descriptor, size)
    return descriptor


class Heart:
    """Beats while at least one load is on and everyone who vouches for it still does."""

    def __init__(self) -> None:
        self.pid = os.getpid()
        self.descriptor = shared_memory(8)
        self._memory = mmap.mmap(self.descriptor, 8)
        self._lock = threading.Lock()
        self._loads = 0
        self._vouchers: list[Callable[[], bool]] = []
        self._wake = threading.Event()

    def on(self) -> None:
        """One more load lives by it."""
        with self._lock:
            self._loads += 1
            self._beat()
            if self._loads == 1:
                self._wake = threading.Event()
                threading.Thread(
                    target=self._go_on, args=(self._wake,), name="heartbeat", daemon=True
                ).start()

    def off(self) -> None:
        """One load less."""
        with self._lock:
            self._loads -= 1
            if self._loads == 0:
                self._wake.set()

    @contextlib.contextmanager
    def vouched(self, by: Callable[[], bool] | None) -> Iterator[None]:
        """While this holds, it beats only as long as `by` says yes."""
        if by is not None:
            self._vouchers.append(by)
        try:
            yield
        finally:
            if by is not None:
                self._vouchers.remove(by)

    def _beat(self) -> None:
        struct.pack_into("<d", self._memory, 0, time.monotonic())

    def _go_on(self, end: threading.Event) -> None:
        while not end.wait(BEAT_EVERY_S):
            if all(vouch() for vouch in tuple(self._vouchers)):
                self._beat()


_HEART: Heart | None = None


def heart() -> Heart:
    """The heart of this program: one for all its loads, made anew in a forked copy of it."""
    global _HEART
    if _HEART is None or _HEART.pid != os.getpid():
        _HEART = Heart()
    return _HEART


class Pulse:
    """The other side: how long ago the program's last beat was."""

    def __init__(self, descriptor: int) -> None:
        self._memory = mmap.mmap(descriptor, 8, prot=mmap.PROT_READ)

    def still_s(self) -> float:
        """Seconds since the last beat."""
        return time.monotonic() - float(struct.unpack_from("<d", self._memory, 0)[0])

    def hold(self) -> None:
        """Return at once while it beats; wait where it does not. Whoever may end the process does so meanwhile."""
        while self.still_s() > PAUSE_AFTER_S:
            time.sleep(LOOK_EVERY_S)
