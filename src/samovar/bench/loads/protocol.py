"""The protocol every load answers, and how several are told to stop."""

from __future__ import annotations

import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol, runtime_checkable

from samovar.core.quantity import Channel

WORK = Channel("Work", "work", "1/s", "other", "cpu", "load:work")
"""What the processor gets done."""
STOP_PATIENCE_S = 10.0
"""So long a stop is waited for; one that takes longer is said, and goes on by itself."""


@dataclass(frozen=True)
class LoadEnd:
    """A load that ended by itself: its exit status, how long it ran (s), what it printed last, and where the status
    does not tell how it ended, that in words. `tripped`: a guard beside it stopped it, and why."""

    status: int
    seconds: float
    output: str = ""
    how: str = ""
    tripped: str = ""

    @property
    def failed(self) -> bool:
        """Whether it has not done what it was to do."""
        return self.status != 0

    @property
    def words(self) -> str:
        """How it ended, as a mark says it."""
        return self.how or f"ended with status {self.status} after {self.seconds:.0f} s"


class Load(Protocol):
    """Something that makes heat and counts the work it gets done."""

    @property
    def name(self) -> str:
        """Its name, such as `worst case`."""
        ...

    @property
    def by_hand(self) -> bool:
        """Whether a person starts and stops it, elsewhere."""
        ...

    @property
    def work(self) -> tuple[Channel, ...]:
        """What it counts as work, as channels of a rate: that of the part it loads, or of several."""
        ...

    def start(self) -> None:
        """Put it on. Raises LoadError where the machine cannot carry it."""
        ...

    def stop(self) -> None:
        """Take it off: when this returns, nothing of it runs any more. May be called twice.

        Raises:
            LoadError: something of it could not be ended; the text names it.
        """
        ...

    def work_done(self) -> tuple[float, ...]:
        """Units of work done since it was started, one for each of `work`; NaN where it counts none."""
        ...

    def ended(self) -> LoadEnd | None:
        """How it ended by itself; None while it runs or where it never does."""
        ...


@runtime_checkable
class Told(Protocol):
    """A load that has something to say about how it was put on."""

    def told(self) -> list[str]:
        """What is to be known of the work it counts, in words."""
        ...


class LoadError(Exception):
    """A load that cannot be put on, or not be ended; the text says what stands in the way and what to do."""


def stop_all(loads: Sequence[Load], patience_s: float = STOP_PATIENCE_S) -> list[str]:
    """Tell all loads to stop at once, the first one first, and wait until they have; the answer says which did not.

    One that raises or takes long keeps no other on: each is stopped on a thread of its own.
    """
    said: list[str] = []

    def stop(load: Load) -> None:
        try:
            load.stop()
        except Exception as problem:
            said.append(f"{load.name} could not be stopped: {problem}")

    threads = [threading.Thread(target=stop, args=(load,), name="stop-load", daemon=True) for load in loads]
    for thread in threads:
        thread.start()
    deadline = time.monotonic() + patience_s
    for thread, load in zip(threads, loads):
        thread.join(max(0.0, deadline - time.monotonic()))
        if thread.is_alive():
            said.append(f"{load.name} has not stopped after {patience_s:.0f} s")
    return said
