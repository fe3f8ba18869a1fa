"""What is compared: one figure of a run, of a part, a quantity and a statistic, with its half-width and bound."""

from __future__ import annotations

from dataclasses import dataclass

from samovar.core.measured import Measured, combine

MEASURED, BY_HAND, ELSEWHERE = "measured", "by hand", "elsewhere"


@dataclass(frozen=True, slots=True)
class Result:
    """One figure.

    Attributes:
        part: what it is of: a role, a group of unlike cores, a spot; None for the whole machine.
        channel: the channel it was computed from; None where there is not one alone.
        quantity, statistic: what kind of value, and which figure of it.
        unit, value: the value in this unit.
        half_width: of its 95 % interval; None where it is not known.
        bound: `at most` or `at least` where it is no more than that.
        source: measured, by hand, or elsewhere, of what another published.
        window: the stretch it was taken over, from and to, s; None where it was taken at a moment.
        n: samples it stands on.
        by: what held the clock, of a share of the load held.
        at_s: of a value at a moment: so many seconds into the load; None where that is not known.
        direction: of a rate at a drive: read or write.
        off_by: of a value that an instrument gave whose class is known: the half-width that this leaves, 95 %. It is no part
            of `half_width`, which tells how well the value repeats.
        common_of: the instrument, whose error all that it reads have in common; empty where it is not known.
    """

    part: str | None
    channel: str | None
    quantity: str
    statistic: str
    unit: str
    value: float
    half_width: float | None = None
    bound: str | None = None
    source: str = MEASURED
    window: tuple[float, float] | None = None
    n: int = 1
    by: str | None = None
    at_s: float | None = None
    direction: str | None = None
    common_of: str = ""
    off_by: float | None = None

    @property
    def measured(self) -> Measured:
        """Value, half-width and bound: how well it repeats."""
        return Measured(self.value, self.half_width, self.bound)

    @property
    def compared(self) -> Measured:
        """The same with what its instrument may be off by: what is held against another's, or a maker's figure."""
        if self.off_by is None:
            return self.measured
        return Measured(self.value, combine(self.half_width or 0.0, self.off_by), self.bound)
