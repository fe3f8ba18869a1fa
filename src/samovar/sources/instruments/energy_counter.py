"""A meter that counts energy, read as the power that makes it count."""

from __future__ import annotations

from samovar.sources.instruments.said import Nothing, Said

STEPS_HELD = 3.0
"""A power counts until its next step is so many times as late as the last one was: it has sunk, and nobody knows how far."""


class EnergyCounter:
    """Power between the steps of a counter.

    A meter that counts in watt-hours stands still between two steps: only from step to step is its power known. The first
    reading lies somewhere within a step, and tells nothing.
    """

    def __init__(self) -> None:
        self._joules: float | None = None
        self._stepped_s: float | None = None
        self._took_s = 0.0
        self._power_w: float | None = None

    def power(self, joules: float, at_s: float) -> Said:
        """The power at a reading, W.

        Args:
            joules: what it shows, J.
            at_s: when, by the run's clock.
        """
        before, self._joules = self._joules, joules
        if before is None or joules < before:
            # Set to nothing, or full: what it counted in between is not known.
            self._stepped_s = self._power_w = None
        elif joules > before:
            if self._stepped_s is not None and at_s > self._stepped_s:
                self._took_s = at_s - self._stepped_s
                self._power_w = (joules - before) / self._took_s
            self._stepped_s = at_s
        elif self._stepped_s is not None and at_s - self._stepped_s > STEPS_HELD * self._took_s > 0.0:
            self._power_w = None
        if self._power_w is None:
            return Nothing("it counts energy: its power is known from its second step on")
        return self._power_w
