"""Logs of one row a value, made into one row a sample."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import TYPE_CHECKING

from samovar.exchange.cells import is_number
from samovar.exchange.table import Table
from samovar.exchange.titles import is_time_title, split_title

if TYPE_CHECKING:
    import polars

_NAMES = r"sensor|name|channel|metric|parameter|item|label|key|measurement|series|signal|messstelle|sensor[_ ]?(name|id)|field"
_VALUES = r"value|reading|val|wert|messwert|result|data"
_UNITS = r"unit|units|einheit|uom"
MOST_SENSORS = 500


def widened(table: Table) -> Table:
    """The table as it is, or, where each row holds one value of a sensor that it names, with a column for each
    sensor. Its rows are then those of its first sensor's lines."""
    import polars

    frame = table.frame
    if not 2 <= frame.width <= 8 or frame.height < 4:
        return table
    titles = {n: split_title(table.titles.get(n, n))[0].strip().lower() for n in frame.columns}
    names = [n for n in frame.columns if re.fullmatch(_NAMES, titles[n]) and frame[n].dtype == polars.String]
    values = [n for n in frame.columns if re.fullmatch(_VALUES, titles[n])]
    if not names or not values:
        return table
    name, value = names[0], values[0]
    if frame[value].dtype == polars.String and not any(
        is_number(c) for c in frame[value].head(50).to_list() if c
    ):
        return table
    sensors = frame[name].str.strip_chars().n_unique()
    if sensors > MOST_SENSORS or sensors >= frame.height:
        return table
    unit = next((n for n in frame.columns if re.fullmatch(_UNITS, titles[n])), None)
    times = [
        n for n in frame.columns if n not in (name, value, unit) and is_time_title(table.titles.get(n, n))
    ]
    return _pivoted(table, name, value, unit, times)


def _pivoted(table: Table, name: str, value: str, unit: str | None, times: list[str]) -> Table:
    import polars

    frame = table.frame.with_columns(polars.col(name).str.strip_chars()).filter(polars.col(name) != "")
    title = polars.col(name)
    if unit is not None:
        shown = polars.col(unit).cast(polars.String).str.strip_chars()
        title = polars.when(shown.is_null() | (shown == "")).then(title).otherwise(title + " (" + shown + ")")
    frame = frame.with_columns(
        title.alias("_title"), polars.int_range(polars.len()).over(name).alias("_round")
    )
    counts = frame.group_by(name).len()["len"].to_list()
    together = _distinct(frame, times)
    # Sensors read in turn, each with a moment of its own, make one row a turn; else one row a time.
    even = max(counts) <= 1.2 * min(counts) + 1
    key = ["_round"] if (together > 0.6 * frame.height and even) or not times else times
    wide = frame.pivot(on="_title", index=key, values=value, aggregate_function="first", maintain_order=True)
    if key == ["_round"] and times:
        first = frame.group_by("_round", maintain_order=True).agg(polars.col(times).first())
        wide = first.join(wide, on="_round", how="left", maintain_order="left")
    wide = wide.drop("_round", strict=False)
    warnings = [
        *table.warnings,
        f"one row a value: {frame.height} values of {len(counts)} sensors, made into {wide.height} rows",
    ]
    kept = {t: table.titles.get(t, t) for t in times}
    return replace(
        table,
        frame=wide,
        warnings=warnings,
        titles=kept,
        units={t: u for t, u in table.units.items() if t in times},
        lines=None,
    )


def _distinct(frame: polars.DataFrame, times: list[str]) -> int:
    return frame.select(times).n_unique() if times else 0
