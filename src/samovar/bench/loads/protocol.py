"""The protocol every load answers."""

from __future__ import annotations

from typing import Protocol


class Load(Protocol):
    """Something that makes heat and counts the work it gets done."""

    @property
    def name(self) -> str:
        """Its name, such as `worst case`."""
        ...

    def start(self) -> None:
        """Put it on. Raises LoadError where the machine cannot carry it."""
        ...

    def stop(self) -> None:
        """Take it off: when this returns, nothing of it runs any more. Never raises; may be called twice."""
        ...

    def work_done(self) -> float:
        """Units of work done since it was started."""
        ...


class LoadError(Exception):
    """A load that cannot be put on; the text says what stands in the way and what to do."""
