"""How the rows there are go to the strips there are."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.tui.widgets.strip_plan import StripSpec

LEAST_ROWS = 3


def shared_out(specs: Sequence[StripSpec], available: int) -> tuple[list[StripSpec], list[int]]:
    """The strips that fit into so many rows, and their heights: three rows at the least, the rest by weight."""
    shown = list(specs)
    while len(shown) > 1 and available < LEAST_ROWS * len(shown):
        shown.pop()
    total = sum(s.weight for s in shown)
    heights = [max(LEAST_ROWS, int(available * s.weight / total)) for s in shown]
    while sum(heights) > available and max(heights) > LEAST_ROWS:
        heights[heights.index(max(heights))] -= 1
    k = 0
    while sum(heights) < available:
        heights[k % len(heights)] += 1
        k += 1
    return shown, heights
