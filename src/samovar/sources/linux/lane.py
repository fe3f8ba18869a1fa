"""Reading many kernel files one after another, without one that hangs holding up the rest.

All readers share one thread, the lane. One that does not answer in time is left behind with that thread, and from
then on has a thread of its own: what it says is taken when it comes, and is missing until then. Once it answers
as quickly as the others for a while, it is taken back among them.
"""

from __future__ import annotations

import threading
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Union

from samovar.sources.async_reader import AsyncReader
from samovar.sources.linux.files import Reader

Said = Union[float, Exception, None]
"""A value, what went wrong, or None: no answer yet."""
QUICK_S, QUICK_TIMES = 0.02, 10


def attempt(reader: Reader) -> float | Exception:
    """One reading, or what went wrong with it."""
    try:
        return reader.value()
    except (OSError, ValueError) as problem:
        return problem


@dataclass
class _Pass:
    """One pass over some readers; given up where it hangs at one of them."""

    readers: Sequence[Reader]
    todo: list[int]
    said: dict[int, Said] = field(default_factory=dict)
    at: int = -1
    given_up: bool = False
    lock: threading.Lock = field(default_factory=threading.Lock)

    def run(self) -> None:
        for index in self.todo:
            self.at = index
            outcome = attempt(self.readers[index])
            with self.lock:
                if self.given_up:
                    return
                self.said[index] = outcome

    def give_up(self) -> None:
        with self.lock:
            self.given_up = True


class Lane:
    """Reads its readers together.

    Args:
        readers: what is read, in this order; a place in the list may be given another reader later.
        patience_s: so long a pass may take before the reader it hangs at is left behind.
    """

    def __init__(self, readers: list[Reader], patience_s: float) -> None:
        self._readers = readers
        self._patience_s = patience_s
        self._pass = _Pass(readers, [])
        self._together: AsyncReader[None] | None = None
        self._alone: dict[int, AsyncReader[float | Exception]] = {}
        self._quick: dict[int, int] = {}

    def read(self) -> list[Said]:
        """One outcome for each reader; None for one that has not answered in time."""
        said: list[Said] = [None] * len(self._readers)
        for index, alone in list(self._alone.items()):
            answer = alone.take()
            if answer is not None:
                said[index] = answer.said
                quick = answer.came_s - answer.asked_s < QUICK_S
                self._quick[index] = self._quick[index] + 1 if quick else 0
            if self._quick[index] >= QUICK_TIMES:
                alone.close()
                del self._alone[index]
            else:
                alone.ask()
        todo = [k for k in range(len(self._readers)) if k not in self._alone]
        while todo:
            this = self._pass = _Pass(self._readers, todo)
            if self._together is None:
                self._together = AsyncReader(lambda: self._pass.run(), name="sensors")
            self._together.ask()
            if self._together.take(self._patience_s) is None:
                self._leave_behind(this)
            for index, outcome in this.said.items():
                said[index] = outcome
            todo = [k for k in todo if k not in this.said and k not in self._alone]
        return said

    def _leave_behind(self, this: _Pass) -> None:
        this.give_up()
        if len(this.said) == len(this.todo):
            # It came through at the last moment; its answer is not to be taken for the next pass's.
            if self._together is not None:
                self._together.take(self._patience_s)
            return
        # Its thread comes back only once the device answers, and then ends.
        if self._together is not None:
            self._together.close()
            self._together = None
        reader = self._readers[this.at]
        self._alone[this.at] = AsyncReader(lambda: attempt(reader), name="slow-sensor")
        self._quick[this.at] = 0
        self._alone[this.at].ask()

    def close(self) -> None:
        """End the threads; one that hangs ends when it is answered."""
        if self._together is not None:
            self._together.close()
            self._together = None
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
