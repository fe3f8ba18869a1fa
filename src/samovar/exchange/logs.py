"""Reading a log of any maker: delimited text or Parquet in, a recording with its warnings out."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from samovar.core.quantity import UNITS, Channel, domain_of
from samovar.core.recording import Recording
from samovar.exchange.problems import InputError
from samovar.exchange.table import read_table, unique_names
from samovar.exchange.titles import Column, time_factor, understand

if TYPE_CHECKING:
    import polars

_FLAGS = {"yes": 1.0, "true": 1.0, "on": 1.0, "no": 0.0, "false": 0.0, "off": 0.0}


@dataclass(frozen=True)
class Log:
    """A log as read: the recording, and what could not be used of it."""

    recording: Recording
    warnings: list[str]


def read_log(path: Path, column_map: dict[str, Any] | None = None) -> Log:
    """Read a log.

    Args:
        path: delimited text, or Parquet by its ending.
        column_map: the contents of a MAP.toml, which settles what titles leave open.

    Raises:
        InputError: no file, not readable, or no log.
    """
    if not path.exists():
        raise InputError(f"{path}: there is no such file; check the name")
    if path.is_dir():
        raise InputError(f"{path}: this is a folder; name a log in it")
    if path.suffix.lower() in (".parquet", ".pq"):
        frame, warnings = _parquet(path), list[str]()
    else:
        frame, warnings = read_table(path)
    return _interpret(path, frame, warnings, column_map or {})


def _parquet(path: Path) -> polars.DataFrame:
    import polars

    try:
        return polars.read_parquet(path)
    except (polars.exceptions.PolarsError, OSError) as problem:
        raise InputError(f"{path}: this is no Parquet file; give a log as text or Parquet") from problem


def _interpret(path: Path, frame: polars.DataFrame, warnings: list[str], column_map: dict[str, Any]) -> Log:
    mapped: dict[str, Any] = column_map.get("channels", {})
    time_title = column_map.get("time") or next(
        (t for t in frame.columns if time_factor(t) is not None), None
    )
    columns: list[tuple[str, Column]] = []
    for title in frame.columns:
        if title == time_title:
            continue
        column = _mapped(path, title, mapped[title]) if title in mapped else understand(title)
        if column is not None:
            columns.append((title, column))
        else:
            warnings.append(f"column {title!r}: neither unit nor words tell what it is, left out")
    if time_title is not None and time_title not in frame.columns:
        raise InputError(f"{path}: no column {time_title!r}, which the map names as time; correct the map")
    if not columns:
        raise InputError(
            f"{path}: no column says what it measures; give titles with units such as 'CPU die (°C)', or --map"
        )
    time_s = _times(path, frame, time_title, warnings)
    rows, channels = [], []
    for title, column in columns:
        raw = _numbers(frame[title])
        channels.append(column.channel)
        plain = column.factor == 1.0 and column.offset == 0.0
        rows.append(raw if plain else raw * column.factor + column.offset)
    values = np.array(rows)
    good = np.isfinite(time_s)
    if not np.isfinite(values).any() or good.sum() == 0:
        raise InputError(f"{path}: no numbers in its columns; give a log with rows of numbers")
    if not good.all():
        warnings.append(f"{int((~good).sum())} rows without a time, skipped")
    time_s, values = time_s[good], values[:, good]
    order = np.argsort(time_s, kind="stable")
    if (np.diff(time_s) < 0).any():
        warnings.append("rows were not in order of time, sorted")
    time_s, values = time_s[order], values[:, order]
    _, unique = np.unique(time_s, return_index=True)
    if len(unique) < len(time_s):
        warnings.append(f"{len(time_s) - len(unique)} rows with a time that stands there already, skipped")
    time_s, values = time_s[unique], values[:, unique]
    return Log(Recording(_unique_channels(channels), time_s - time_s[0], values), warnings)


def _unique_channels(channels: list[Channel]) -> tuple[Channel, ...]:
    names = unique_names([c.name for c in channels])
    return tuple(c if c.name == n else replace(c, name=n) for c, n in zip(channels, names, strict=True))


def _numbers(series: polars.Series) -> np.ndarray:
    """A column's numbers; NaN where a field holds none."""
    import polars

    if series.dtype == polars.String:
        text = series.str.strip_chars()
        numbers = text.cast(polars.Float64, strict=False)
        if numbers.null_count() > text.null_count():
            flags = text.str.to_lowercase().replace_strict(_FLAGS, default=None, return_dtype=polars.Float64)
            numbers = numbers.fill_null(flags)
        series = numbers
    if series.dtype != polars.Float64:
        series = series.cast(polars.Float64, strict=False)
    # Nulls become NaN on the way to numpy.
    out = np.array(series.to_numpy(), dtype=float)
    out[np.isinf(out)] = np.nan
    return out


def _times(path: Path, frame: polars.DataFrame, title: str | None, warnings: list[str]) -> np.ndarray:
    if title is None:
        warnings.append("no column of times: rows are taken as one second apart")
        return np.arange(frame.height, dtype=float)
    times = _numbers(frame[title]) * (time_factor(title) or 1.0)
    if not np.isfinite(times).any():
        raise InputError(f"{path}: the times in column {title!r} are no numbers; give seconds from the start")
    return times


def _mapped(path: Path, title: str, entry: dict[str, Any]) -> Column:
    understood = understand(title)
    quantity = entry.get("quantity") or (understood.channel.quantity if understood else None)
    if quantity not in UNITS:
        raise InputError(
            f"{path}: the map gives column {title!r} the quantity {quantity!r}; take one of {', '.join(UNITS)}"
        )
    unit_title = f"{title} ({entry['unit']})" if entry.get("unit") else None
    scaled = understand(unit_title) if unit_title else understood
    name = understood.channel.name if understood else title
    role = entry.get("role") or (understood.channel.role if understood else "other")
    try:
        channel = Channel(name, quantity, UNITS[quantity], role, entry.get("domain") or domain_of(role))
    except ValueError as problem:
        raise InputError(
            f"{path}: the map's entry for column {title!r}: {problem}; correct the map"
        ) from problem
    return Column(channel, scaled.factor if scaled else 1.0, scaled.offset if scaled else 0.0)
