"""Figures that others published: a rival's score, a chip's norm. They stand on the ladder marked, and never take part.

One line each, as people note them: `score 5012 points, Kestrel 9, by Quay Bench, 2026-01-12, under worst case, 28 W`. Figure
and value first, then the name, whose it is, the day; what else is known of load, heat and room behind them.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass

from samovar.core.currencies import DAY
from samovar.core.measured import Measured
from samovar.core.results.figure import Figure
from samovar.core.results.figure_words import figure_in_words, value_in_words
from samovar.core.units import Unreadable

EXAMPLE = "write score 5012 points, Kestrel 9, by Quay Bench, 2026-01-12, under worst case, 28 W"


@dataclass(frozen=True, slots=True)
class Elsewhere:
    """One figure from elsewhere.

    Attributes:
        figure, value: what was published, with its half-width where it has one.
        name: what it is of.
        source, day: whose it is, and of when, ISO 8601.
        load: under which load; None for any.
        known: what else is known of it; empty where nothing is.
        line: as it was typed, in plain form.
    """

    figure: Figure
    value: Measured
    name: str
    source: str
    day: str
    load: str | None
    known: str
    line: str

    @property
    def is_norm(self) -> bool:
        """Whether it is the norm of a class, which is drawn through all rungs: its name begins with `norm of`."""
        return names_norm(self.name)

    @property
    def caution(self) -> str:
        """What the audit says of it."""
        known = self.known or "of room, heat and load nothing is known"
        return f"{self.name} is from elsewhere ({self.source}, {self.day}; {known}): it takes no part in the statistics"


NORM = "norm of "
NORM_DIGITS_PCT = 0.5
"""Half-widths from here on are told in whole percent."""


def names_norm(name: str) -> bool:
    """Whether a name is that of a class's norm: `norm of 28 W chips`."""
    return name.lower().startswith(NORM)


def against_norm(value: Measured, norm: Measured, name: str) -> str:
    """How far a value lies over or under a norm: `12 ±1 % under the norm of 28 W chips`; the norm's own half-width is joined."""
    share = 100.0 * (value.value / norm.value - 1.0)
    half = 100.0 / abs(norm.value) * math.hypot(value.half_width or 0.0, norm.half_width or 0.0)
    size = f"{abs(share):.0f}" if half >= NORM_DIGITS_PCT else f"{abs(share):.1f}"
    width = f" ±{max(1.0, half):.0f}" if half >= NORM_DIGITS_PCT else f" ±{max(0.1, half):.1f}"
    if abs(share) <= half:
        return f"at the {name}"
    sign = "at least " if value.bound == ("at least" if share > 0 else "at most") else ""
    return f"{sign}{size}{width} % {'over' if share > 0 else 'under'} the {name}"


ROW = ("figure", "value", "unit", "name", "source", "day", "load", "known")
"""The columns of a table of such figures; the last two may be left out."""


def line_of_row(row: Mapping[str, str]) -> str:
    """The line of one row of a table with the columns ROW."""
    cells = {k.strip().lower(): (v or "").strip() for k, v in row.items() if k and isinstance(v, str)}
    parts = [
        f"{cells.get('figure', '')} {cells.get('value', '')} {cells.get('unit', '')}".strip(),
        cells.get("name", ""),
        f"by {cells['source']}" if cells.get("source") else "",
        cells.get("day", ""),
        f"under {cells['load']}" if cells.get("load") else "",
        cells.get("known", ""),
    ]
    return ", ".join(p for p in parts if p)


def pasted_row(typed: str) -> str:
    """A pasted row of such a table as a line; any other line as it is."""
    cells = [c.strip() for c in re.split(r"\t|,|;", typed)]
    if len(cells) >= len(ROW) - 2 and re.fullmatch(r"[-−]?\d+(\.\d+)?(\s*±\s*\d+(\.\d+)?)?", cells[1]):
        return line_of_row(
            dict(zip(ROW, [*cells[: len(ROW) - 1], ", ".join(cells[len(ROW) - 1 :])], strict=True))
        )
    return typed


def read_elsewhere(typed: str) -> Elsewhere:
    """Read one line.

    Raises:
        Unreadable: what is wrong with it, and an example.
    """
    parts = [" ".join(part.split()) for part in pasted_row(typed).split(",") if part.strip()]
    if len(parts) < 4:
        raise Unreadable(f"{typed!r} lacks its value, name, source or day; {EXAMPLE}")
    found = re.fullmatch(r"(.+?)\s+([-−]?\d[^±]*?)(?:\s*±\s*(\d+(?:\.\d+)?)\s*(\S.*)?)?", parts[0])
    if found is None:
        raise Unreadable(f"{typed!r} has no figure with a value; {EXAMPLE}")
    figure = figure_in_words(found[1], typed)
    text = found[2].strip() + (f" {found[4].strip()}" if found[4] else "")
    value, currency = value_in_words(figure, text, typed)
    if currency:
        raise Unreadable(f"{typed!r}: a price is a product's own; enter it on the Shelf")
    half = float(found[3]) if found[3] else None
    source = next((p[3:].strip() for p in parts[2:] if p.lower().startswith("by ")), "")
    day = next((p for p in parts[2:] if DAY.fullmatch(p)), "")
    load = next((p[6:].strip() for p in parts[2:] if p.lower().startswith("under ")), None)
    if not source or not day:
        raise Unreadable(
            f"{typed!r} does not say {'whose it is' if not source else 'of which day it is'}; {EXAMPLE}"
        )
    rest = [p for p in parts[2:] if not p.lower().startswith(("by ", "under ")) and not DAY.fullmatch(p)]
    return Elsewhere(
        figure, Measured(value, half), parts[1], source, day, load, ", ".join(rest), ", ".join(parts)
    )
