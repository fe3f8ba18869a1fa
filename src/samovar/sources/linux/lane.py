"""Reading many kernel files one after another, without one that hangs holding up the rest.

All readers share one thread, the lane. One that does not answer in time is left behind with that thread, and from
then on has a thread of its own: what it says is taken when it comes, and is missing until then. Once it answers
as quickly as the others for a while, it is taken back among them.
"""

from __future__ import annotations

import queue
import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass, field

from samovar.sources.linux.files import Reader

Said = float | Exception | None
"""A value, what went wrong, or None: no answer yet."""
QUICK_S, QUICK_TIMES = 0.02, 10


def attempt(reader: Reader) -> float | Exception:
    """One reading, or what went wrong with it."""
    try:
        return reader.value()
    except (OSError, ValueError) as problem:
        return problem


@dataclass
class _Round:
    """One pass over some readers; given up where it hangs at one of them."""

    todo: list[int]
    said: dict[int, Said] = field(default_factory=dict)
    at: int = -1
    given_up: bool = False
    done: threading.Event = field(default_factory=threading.Event)


class _Alone:
    """A reader with a thread of its own."""

    def __init__(self, reader: Reader) -> None:
        self._reader = reader
        self._asked = threading.Semaphore(0)
        self._said: Said = None
        self._busy = False
        self._closing = False
        self.quick = 0
        threading.Thread(target=self._serve, name="slow-sensor", daemon=True).start()

    def ask(self) -> None:
        if not self._busy:
            self._busy = True
            self._asked.release()

    def take(self) -> Said:
        """What it said since the last call."""
        said, self._said = self._said, None
        return said

    def close(self) -> None:
        self._closing = True
        self._asked.release()

    def _serve(self) -> None:
        while True:
            self._asked.acquire()
            if self._closing:
                return
            began = time.monotonic()
            said = attempt(self._reader)
            self.quick = self.quick + 1 if time.monotonic() - began < QUICK_S else 0
            self._said = said
            self._busy = False


class Lane:
    """Reads its readers together.

    Args:
        readers: what is read, in this order; a place in the list may be given another reader later.
        patience_s: so long a pass may take before the reader it hangs at is left behind.
    """

    def __init__(self, readers: list[Reader], patience_s: float) -> None:
        self._readers = readers
        self._patience_s = patience_s
        self._alone: dict[int, _Alone] = {}
        self._lock = threading.Lock()
        self._rounds: queue.SimpleQueue[_Round | None] | None = None

    def read(self) -> list[Said]:
        """One outcome for each reader; None for one that has not answered in time."""
        said: list[Said] = [None] * len(self._readers)
        for index, alone in list(self._alone.items()):
            said[index] = alone.take()
            if alone.quick >= QUICK_TIMES:
                alone.close()
                del self._alone[index]
            else:
                alone.ask()
        todo = [k for k in range(len(self._readers)) if k not in self._alone]
        while todo:
            this = _Round(todo)
            self._worker().put(this)
            if not this.done.wait(self._patience_s):
                self._leave_behind(this)
            for index, outcome in this.said.items():
                said[index] = outcome
            todo = [k for k in todo if k not in this.said and k not in self._alone]
        return said

    def _leave_behind(self, this: _Round) -> None:
        with self._lock:
            if this.done.is_set():
                return
            this.given_up = True
            self._rounds = None
            self._alone[this.at] = _Alone(self._readers[this.at])
        self._alone[this.at].ask()

    def _worker(self) -> queue.SimpleQueue[_Round | None]:
        if self._rounds is None:
            self._rounds = queue.SimpleQueue()
            threading.Thread(target=self._serve, args=(self._rounds,), name="sensors", daemon=True).start()
        return self._rounds

    def _serve(self, rounds: queue.SimpleQueue[_Round | None]) -> None:
        while (this := rounds.get()) is not None:
            for index in this.todo:
                this.at = index
                outcome = attempt(self._readers[index])
                with self._lock:
                    if this.given_up:
                        return
                    this.said[index] = outcome
            this.done.set()

    def close(self) -> None:
        """End the threads; one that hangs ends when it is answered."""
        if self._rounds is not None:
            self._rounds.put(None)
            self._rounds = None
        for alone in self._alone.values():
            alone.close()
        self._alone.clear()


def read_once(readers: Sequence[Reader], patience_s: float) -> list[Said]:
    """One pass over readers that may hang."""
    lane = Lane(list(readers), patience_s)
    try:
        return lane.read()
    finally:
        lane.close()
