"""The protocol every source of samples answers, and what is said of a channel before it is used."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Protocol, runtime_checkable

from samovar.core.quantity import Channel


@dataclass(frozen=True)
class Probed:
    """One channel as found: its value now (None where unknown) and whether it can be used.

    `status` is ok, unreadable (the kernel refused; `reason` says why) or implausible (a disconnected
    probe's value: shown, never used).
    """

    channel: Channel
    value: float | None
    status: str
    reason: str | None = None


class Gone(Exception):
    """A source that cannot be reached just now; the text says so."""


@runtime_checkable
class Belated(Protocol):
    """A source that may hand on samples long after they were taken."""

    def belated(self) -> list[tuple[float, list[float]]]:
        """Those that came since the last call: the moment each was taken at, by the run's clock, and its values."""
        ...


class Source(Protocol):
    """Something that can be sampled.

    A source keeps its files or connections open between samples. It never raises from `sample`: what
    it cannot read is NaN. It may block; the recorder waits for it only as long as its own cadence allows.
    """

    @property
    def name(self) -> str:
        """What people call it, such as `kernel`."""
        ...

    @property
    def channels(self) -> tuple[Channel, ...]:
        """What it measures; fixed from the moment it is opened."""
        ...

    def sample(self) -> list[float]:
        """One value for each channel, in their units; NaN where there is none."""
        ...

    def close(self) -> None:
        """Let go of files and connections."""
        ...


def close_all(sources: Iterable[Source]) -> None:
    """Close every one of them."""
    for source in sources:
        source.close()
