"""Asking something that may be slow, hang or fail, without ever waiting longer than one wants to.

One design for all that is read: a whole source, a kernel file that was left behind, the guard's own look at the
die. What is asked answers on a thread of its own. An answer that comes late is kept, with the moment it came; what
raises is an answer too; what hangs stays busy, and is asked again once it has answered.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

T = TypeVar("T")


@dataclass(frozen=True)
class Answer(Generic[T]):
    """What was said, or the exception that came instead, and when it was asked and answered, seconds."""

    said: T | Exception
    asked_s: float
    came_s: float


class AsyncReader(Generic[T]):
    """Reads one thing on a thread of its own.

    Args:
        read: what gives a value; it may block, and may raise.
        now: the clock that moments are told by.
        name: the thread's name.
    """

    def __init__(
        self, read: Callable[[], T], now: Callable[[], float] = time.monotonic, name: str = "reader"
    ) -> None:
        self._read = read
        self._now = now
        self._asked = threading.Semaphore(0)
        self._came = threading.Event()
        self._answer: Answer[T] | None = None
        self._closing: Callable[[], None] | None = None
        self._asked_s = 0.0
        self.busy = False
        threading.Thread(target=self._serve, name=name, daemon=True).start()

    @property
    def silent_s(self) -> float:
        """How long it has owed an answer; 0 where it owes none."""
        return self._now() - self._asked_s if self.busy else 0.0

    def ask(self) -> bool:
        """Ask for a value; False where it still owes the last one."""
        if self.busy:
            return False
        self.busy = True
        self._asked_s = self._now()
        self._asked.release()
        return True

    def take(self, patience_s: float = 0.0) -> Answer[T] | None:
        """The answer that came since the last one was taken; None where none comes within the patience."""
        if not self._came.wait(patience_s) if patience_s > 0 else not self._came.is_set():
            return None
        self._came.clear()
        answer, self._answer = self._answer, None
        return answer

    def close(self, then: Callable[[], None] = lambda: None) -> None:
        """End the thread, `then` letting go of what was read; one that hangs does both once it answers."""
        self._closing = then
        self._asked.release()

    def _serve(self) -> None:
        while True:
            self._asked.acquire()
            if self._closing is not None:
                self._closing()
                return
            said: T | Exception
            try:
                said = self._read()
            except Exception as problem:
                said = problem
            self._answer = Answer(said, self._asked_s, self._now())
            self.busy = False
            self._came.set()
