"""One row of the table: what was measured, what it may be at most."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Row:
    """A figure with its bound, both in `unit`; a figure that is shown for what it is has none."""

    what: str
    found: float
    bound: float | None
    unit: str

    @property
    def within(self) -> bool:
        """Whether the promise is kept."""
        return self.bound is None or self.found <= self.bound


def table(rows: list[Row]) -> str:
    """The rows as aligned text."""
    width = max([62, *(len(row.what) for row in rows)])
    lines = [f"{'what':<{width}} {'found':>10} {'at most':>10}"]
    for row in rows:
        mark = "" if row.bound is None else "ok" if row.within else "SHORT OF IT"
        bound = "" if row.bound is None else f"{row.bound:.3g}"
        lines.append(f"{row.what:<{width}} {row.found:>10.3g} {bound:>10} {row.unit:<12} {mark}".rstrip())
    return "\n".join(lines)
