"""Which stretch of a run under way the strips show: all of it, or a part that was zoomed to."""

from __future__ import annotations

from dataclasses import dataclass

LEAST_S = 20.0
PAN_SHARE = 0.2


@dataclass
class LiveWindow:
    """`width_s` None shows the whole run. A part follows the newest sample until it is moved back from there."""

    width_s: float | None = None
    end_s: float | None = None

    def span(self, elapsed_s: float, whole_end_s: float) -> tuple[float, float]:
        """From and to, seconds, with the run so long and its whole axis reaching to `whole_end_s`."""
        if self.width_s is None or self.width_s >= whole_end_s:
            return 0.0, whole_end_s
        # A part that follows keeps a little room before its edge, as the whole does.
        end = elapsed_s + 0.06 * self.width_s if self.end_s is None else self.end_s
        start = max(0.0, end - self.width_s)
        return start, start + self.width_s

    def zoom(self, factor: float, elapsed_s: float, whole_end_s: float) -> None:
        """Nearer (a factor under 1) or wider."""
        start, end = self.span(elapsed_s, whole_end_s)
        width = max(LEAST_S, (end - start) * factor)
        if width >= whole_end_s:
            self.all()
            return
        if self.end_s is not None:
            middle = 0.5 * (start + end)
            self.end_s = min(max(middle + 0.5 * width, width), elapsed_s + 0.06 * width)
        self.width_s = width

    def pan(self, direction: int, elapsed_s: float, whole_end_s: float) -> None:
        """Back (-1) or on (1) by a fifth of what is shown; on to the newest sample, it follows again."""
        if self.width_s is None:
            return
        _, end = self.span(elapsed_s, whole_end_s)
        end = max(self.width_s, end + direction * PAN_SHARE * self.width_s)
        self.end_s = None if end >= elapsed_s else end

    def all(self) -> None:
        """The whole run again."""
        self.width_s = self.end_s = None

    @property
    def words(self) -> str:
        """What the title says of it; nothing for the whole run."""
        if self.width_s is None:
            return ""
        return "zoomed" if self.end_s is None else "looking back: a for all"
