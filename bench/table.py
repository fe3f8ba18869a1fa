"""One row of the table: what was measured, what it may be at most."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Row:
    """A figure with its bound, both in `unit`."""

    what: str
    found: float
    bound: float
    unit: str

    @property
    def within(self) -> bool:
        """Whether the promise is kept."""
        return self.found <= self.bound


def table(rows: list[Row]) -> str:
    """The rows as aligned text."""
    lines = [f"{'what':<62} {'found':>10} {'at most':>10}"]
    for row in rows:
        mark = "ok" if row.within else "SHORT OF IT"
        lines.append(f"{row.what:<62} {row.found:>10.3g} {row.bound:>10.3g} {row.unit:<4} {mark}")
    return "\n".join(lines)
