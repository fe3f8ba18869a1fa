"""The protocol every load answers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol


@dataclass(frozen=True, slots=True)
class LoadEnd:
    """A load that ended by itself: its exit status, how long it ran (s), and the score it gave, if any."""

    status: int
    seconds: float
    score: float | None = None
    score_unit: str = ""

    @property
    def words(self) -> str:
        """How it ended, as a mark says it."""
        score = "" if self.score is None else f", score {self.score:g} {self.score_unit}".rstrip()
        return f"ended with status {self.status} after {self.seconds:.0f} s{score}"


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

    def start(self) -> None:
        """Put it on. Raises LoadError where the machine cannot carry it."""
        ...

    def stop(self) -> None:
        """Take it off: when this returns, nothing of it runs any more. Never raises; may be called twice."""
        ...

    def work_done(self) -> float:
        """Units of work done since it was started; NaN where it counts none."""
        ...

    def ended(self) -> LoadEnd | None:
        """How it ended by itself; None while it runs or where it never does."""
        ...


class LoadError(Exception):
    """A load that cannot be put on; the text says what stands in the way and what to do."""
