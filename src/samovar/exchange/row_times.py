"""When each row of a log was taken: its columns of times found and read, or its rows counted; rows in their order."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from samovar.exchange.cells import NumberStyle, is_number, numbers
from samovar.exchange.moments import (
    Moments,
    is_duration,
    looks_like_moment,
    read_durations,
    read_moments,
    scaled,
    spread,
)
from samovar.exchange.problems import InputError
from samovar.exchange.some_cells import polars_text, some_cells, unit_in
from samovar.exchange.stated import is_row_number_title, stated_interval
from samovar.exchange.table import Table
from samovar.exchange.titles import is_date_title, is_elapsed_title, is_time_title, time_factor
from samovar.exchange.units_of_logs import TIME_UNITS, tidy

MOST_NAMED = 20
YEAR_S = 365.25 * 86400.0
LEAST_STEP_S, MOST_SPAN_S = 1e-4, 20.0 * YEAR_S
"""Loggers of temperatures and powers keep at most thousands of rows a second, and no run lasts for decades."""


def time_columns(table: Table, wanted: str | None, mapped: dict[str, Any]) -> list[str]:
    """The columns that tell the time: one, or a date's and a clock's; none where nothing does."""
    if wanted is not None:
        return [wanted]
    frame = table.frame
    titled = [n for n in frame.columns if n not in mapped and is_time_title(table.titles.get(n, n))]
    dates = [n for n in titled if is_date_title(table.titles.get(n, n))]
    clocks = [n for n in titled if n not in dates]
    if dates and clocks and frame[dates[0]].dtype.is_(polars_text()):
        first = some_cells(frame[clocks[0]]) if frame[clocks[0]].dtype.is_(polars_text()) else []
        # A column that holds date and time needs no other.
        return [clocks[0]] if any(len(c) > 15 for c in first) else [dates[0], clocks[0]]
    if clocks or dates:
        return [(clocks or dates)[0]]
    for name in frame.columns[:3]:
        if name in mapped:
            continue
        if frame[name].dtype.is_temporal():
            return [name]
        if frame[name].dtype.is_(polars_text()) and len(frame):
            cells = some_cells(frame[name])
            if cells and sum(looks_like_moment(c) for c in cells) > 0.8 * len(cells):
                return [name]
    return []


def times_of(
    path: Path, table: Table, columns: list[str], style: NumberStyle, warnings: list[str]
) -> np.ndarray:
    """Each row's time, s, NaN where it has none. Raises InputError: no times in the column that should hold them."""
    if not columns:
        return _counted(table, style, warnings)
    title = " and ".join(table.titles.get(c, c) for c in columns)
    found = _moments(table, columns, style)
    warnings.extend(found.notes)
    if not np.isfinite(found.seconds).any():
        raise InputError(f"{path}: the times in column {title!r} are no numbers; give seconds from the start")
    return found.seconds


def _counted(table: Table, style: NumberStyle, warnings: list[str]) -> np.ndarray:
    """Each row's time where no column tells it, s: by the numbers of the rows, and the interval stated above them."""
    frame = table.frame
    interval_s = stated_interval(table.above)
    counts = np.arange(frame.height, dtype=float)
    for name in frame.columns:
        if is_row_number_title(table.titles.get(name, name)):
            given = numbers(frame[name], style)
            if np.isfinite(given).all() and (np.diff(given) > 0).all() and (given % 1.0 == 0).all():
                counts = given - given[0]
                break
    if interval_s is None:
        warnings.append("no column of times: rows are taken as one second apart")
        return np.arange(frame.height, dtype=float)
    warnings.append(f"no column of times: rows are {interval_s:g} s apart, as stated above them")
    return counts * interval_s


def _moments(table: Table, columns: list[str], style: NumberStyle) -> Moments:
    import polars

    frame, name = table.frame, columns[0]
    title = table.titles.get(name, name)
    unit = table.units.get(name, "")
    factor = time_factor(title) or TIME_UNITS.get(tidy(unit))
    series = frame[name]
    if len(columns) == 2:
        joined = frame.select(
            polars.concat_str(
                [polars.col(c).cast(polars.String).str.strip_chars() for c in columns], separator=" "
            )
        )
        return read_moments(joined.to_series())
    if series.dtype.is_temporal():
        if series.dtype == polars.Time or series.dtype == polars.Duration:
            return Moments(
                series.cast(polars.Int64).to_numpy() / (1e9 if series.dtype == polars.Time else 1e6)
            )
        micros = series.cast(polars.Datetime("us")).cast(polars.Int64)
        return Moments(np.array(micros.to_numpy(), dtype=float) / 1e6)
    if series.dtype.is_(polars.String):
        cells = some_cells(series)
        if sum(is_duration(c) for c in cells) > 0.5 * len(cells):
            return read_durations(series)
        plain = sum(is_number(c) and ":" not in c for c in cells)
        if plain < 0.5 * len(cells):
            return read_moments(series, is_elapsed_title(title))
        factor = factor or TIME_UNITS.get(tidy(unit_in(cells)))
    return scaled(numbers(series, style), factor)


def in_order(
    table: Table, time_s: np.ndarray, values: np.ndarray, warnings: list[str]
) -> tuple[np.ndarray, np.ndarray]:
    """Rows with a time, in its order, each time once."""
    if bool((np.diff(time_s) > 0).all()) and np.isfinite(time_s[:1]).all():
        return time_s, values
    good = np.isfinite(time_s)
    if not good.all():
        without = np.flatnonzero(~good)
        named = [f"line {table.line_of(int(k))}: no time in it, skipped" for k in without[:MOST_NAMED]]
        warnings.extend(named)
        if len(without) > MOST_NAMED:
            warnings.append(f"{len(without) - MOST_NAMED} more rows without a time, skipped")
    rows = np.flatnonzero(good)
    time_s, values = time_s[good], values[:, good]
    time_s, was_coarse = spread(time_s)
    if was_coarse:
        warnings.append("several rows share each time: they are spread evenly between one time and the next")
    if (np.diff(time_s) < 0).any():
        warnings.append("rows were not in order of time, sorted")
    order = np.argsort(time_s, kind="stable")
    _, unique = np.unique(time_s[order], return_index=True)
    if len(unique) < len(time_s):
        twice = rows[np.delete(order, unique)]
        places = ", ".join(str(table.line_of(int(k))) for k in sorted(twice)[:MOST_NAMED])
        more = " and more" if len(twice) > MOST_NAMED else ""
        warnings.append(
            f"{len(twice)} rows with a time that stands there already, skipped (line {places}{more})"
        )
    chosen = order[unique]
    return time_s[chosen], values[:, chosen]


def refuse_impossible_times(path: Path, time_s: np.ndarray) -> None:
    """Times that no logger keeps would ask for more memory than there is wherever they are drawn or averaged. Raises
    InputError."""
    if len(time_s) < 3:
        return
    step, span = float(np.median(np.diff(time_s))), float(time_s[-1] - time_s[0])
    if step < LEAST_STEP_S:
        raise InputError(
            f"{path}: its rows are {step:.2g} s apart, closer than any logger's; check the unit of its times"
        )
    if span > MOST_SPAN_S:
        raise InputError(
            f"{path}: its times span {span / YEAR_S:.3g} years; leave out the row whose time is wrong"
        )
