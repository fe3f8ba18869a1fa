"""Reading a log of any maker: delimited text or Parquet in, a recording with its warnings out."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from samovar.core.quantity import UNITS, Channel, domain_of
from samovar.core.recording import Recording
from samovar.exchange.cells import NumberStyle, is_number, numbers, split_unit, style_of
from samovar.exchange.log_map import NONE
from samovar.exchange.long_form import widened
from samovar.exchange.moments import (
    Moments,
    is_duration,
    looks_like_moment,
    read_durations,
    read_moments,
    scaled,
    spread,
)
from samovar.exchange.plausible import usable
from samovar.exchange.problems import InputError
from samovar.exchange.table import Table, read_table, unique_names
from samovar.exchange.titles import (
    Column,
    is_date_title,
    is_elapsed_title,
    is_time_title,
    split_title,
    time_factor,
    understand,
)
from samovar.exchange.units_of_logs import TIME_UNITS, known_unit, tidy

if TYPE_CHECKING:
    import polars

SAMPLED, FIRST = 60, 5
MOST_NAMED = 20


@dataclass(frozen=True, slots=True)
class UnderstoodColumn:
    """One column: its title as it stands, what it was taken for (None: left out), why one might doubt it, and its first
    cells."""

    title: str
    column: Column | None
    doubt: str = ""
    first: tuple[str, ...] = ()


@dataclass(frozen=True)
class Log:
    """A log as read: the recording, what could not be used of it, how its columns were understood, and the column
    or columns its times come from."""

    recording: Recording
    warnings: list[str]
    columns: list[UnderstoodColumn] = field(default_factory=list)
    time: str = ""


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
    table = _parquet(path) if path.suffix.lower() in (".parquet", ".pq") else read_table(path)
    return _interpret(path, widened(table), column_map or {})


def _parquet(path: Path) -> Table:
    import polars

    try:
        frame = polars.read_parquet(path)
    except (polars.exceptions.PolarsError, OSError) as problem:
        raise InputError(f"{path}: this is no Parquet file; give a log as text or Parquet") from problem
    if frame.width == 0 or frame.height == 0:
        raise InputError(f"{path}: it holds no rows; give a log with rows of numbers")
    return Table(frame)


def _interpret(path: Path, table: Table, column_map: dict[str, Any]) -> Log:
    frame, warnings = table.frame, list(table.warnings)
    if column_map.get("time") is not None and column_map["time"] not in frame.columns:
        raise InputError(
            f"{path}: no column {column_map['time']!r}, which the map names as time; correct the map"
        )
    mapped: dict[str, Any] = column_map.get("channels", {})
    times = _time_columns(table, column_map.get("time"), mapped)
    cells = {t: _some(frame[t]) for t in frame.columns if t not in times and frame[t].dtype.is_(_text())}
    style = style_of([[split_unit(c)[0] for c in column if is_number(c)] for column in cells.values()])
    understood: list[UnderstoodColumn] = []
    for name in frame.columns:
        if name in times:
            continue
        title = table.titles.get(name, name)
        entry = next((mapped[key] for key in (name, title, split_title(title)[0]) if key in mapped), None)
        unit = table.units.get(name) or _unit_in(cells.get(name, []))
        if entry is not None and entry.get("quantity") == NONE:
            understood.append(UnderstoodColumn(title, None, first=_first(frame[name])))
            continue
        if entry is not None:
            column: Column | None = _mapped(path, title, entry, unit)
        else:
            column = understand(title, unit)
        understood.append(
            UnderstoodColumn(
                title,
                column,
                "" if entry or unit or split_title(title)[1] else "by its words",
                _first(frame[name]),
            )
        )
        if column is None and title:
            warnings.append(f"column {title!r}: neither unit nor words tell what it is, left out")
    kept = [
        (n, u)
        for n, u in zip((c for c in frame.columns if c not in times), understood, strict=True)
        if u.column
    ]
    if not kept:
        raise InputError(
            f"{path}: no column says what it measures; give titles with units such as 'CPU die (°C)', or --map"
        )
    time_s = _times(path, table, times, style, warnings)
    channels: list[Channel] = []
    values = np.empty((len(kept), frame.height))
    for name, entry_of in kept:
        assert entry_of.column is not None
        column, raw = entry_of.column, numbers(frame[name], style)
        plain = column.factor == 1.0 and column.offset == 0.0
        row, word = usable(column.channel, raw if plain else raw * column.factor + column.offset)
        if entry_of.doubt and not np.isfinite(row).any():
            # Its words alone spoke for it, and nothing in it is a number: `Fan mode` is no fan's speed.
            warnings.append(f"column {entry_of.title!r}: no numbers in it, left out")
            understood[understood.index(entry_of)] = replace(entry_of, column=None)
            continue
        if word:
            warnings.append(f"column {entry_of.title!r}: {word}")
        values[len(channels)] = row
        channels.append(column.channel)
    values = values[: len(channels)]
    if not np.isfinite(values).any() or not np.isfinite(time_s).any():
        raise InputError(f"{path}: no numbers in its columns; give a log with rows of numbers")
    time_s, values = _in_order(table, time_s, values, warnings)
    named = _with_obvious_roles(_unique_channels(channels), warnings)
    return Log(Recording(named, time_s - time_s[0], values), warnings, understood, " and ".join(times))


def _text() -> Any:
    import polars

    return polars.String


def _some(series: polars.Series) -> list[str]:
    """Some cells of a text column, from here and there, those that hold something."""
    step = max(1, len(series) // (4 * SAMPLED))
    return [c.strip() for c in series.gather_every(step).to_list() if c and c.strip()][: 4 * SAMPLED]


def _first(series: polars.Series) -> tuple[str, ...]:
    """The first cells of a column, as they stand."""
    return tuple(str(c) for c in series.head(FIRST).to_list() if c is not None)


def _unit_in(cells: list[str]) -> str:
    """The unit that stands behind the numbers of a column, where it is always the same."""
    found = {unit for cell in cells if (unit := split_unit(cell)[1])}
    return found.pop() if len(found) == 1 and known_unit(next(iter(found))) else ""


def _time_columns(table: Table, wanted: str | None, mapped: dict[str, Any]) -> list[str]:
    """The columns that tell the time: one, or a date's and a clock's; none where nothing does."""
    if wanted is not None:
        return [wanted]
    frame = table.frame
    titled = [n for n in frame.columns if n not in mapped and is_time_title(table.titles.get(n, n))]
    dates = [n for n in titled if is_date_title(table.titles.get(n, n))]
    clocks = [n for n in titled if n not in dates]
    if dates and clocks and frame[dates[0]].dtype.is_(_text()):
        first = _some(frame[clocks[0]]) if frame[clocks[0]].dtype.is_(_text()) else []
        # A column that holds date and time needs no other.
        return [clocks[0]] if any(len(c) > 15 for c in first) else [dates[0], clocks[0]]
    if clocks or dates:
        return [(clocks or dates)[0]]
    for name in frame.columns[:3]:
        if name in mapped:
            continue
        if frame[name].dtype.is_temporal():
            return [name]
        if frame[name].dtype.is_(_text()) and len(frame):
            cells = _some(frame[name])
            if cells and sum(looks_like_moment(c) for c in cells) > 0.8 * len(cells):
                return [name]
    return []


def _times(
    path: Path, table: Table, columns: list[str], style: NumberStyle, warnings: list[str]
) -> np.ndarray:
    """Each row's time, s, NaN where it has none. Raises InputError: no times in the column that should hold them."""
    frame = table.frame
    if not columns:
        warnings.append("no column of times: rows are taken as one second apart")
        return np.arange(frame.height, dtype=float)
    title = " and ".join(table.titles.get(c, c) for c in columns)
    found = _moments(table, columns, style)
    warnings.extend(found.notes)
    if not np.isfinite(found.seconds).any():
        raise InputError(f"{path}: the times in column {title!r} are no numbers; give seconds from the start")
    return found.seconds


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
        cells = _some(series)
        if sum(is_duration(c) for c in cells) > 0.5 * len(cells):
            return read_durations(series)
        plain = sum(is_number(c) and ":" not in c for c in cells)
        if plain < 0.5 * len(cells):
            return read_moments(series, is_elapsed_title(title))
        factor = factor or TIME_UNITS.get(tidy(_unit_in(cells)))
    return scaled(numbers(series, style), factor)


def _in_order(
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


def _unique_channels(channels: list[Channel]) -> tuple[Channel, ...]:
    names = unique_names([c.name for c in channels])
    return tuple(c if c.name == n else replace(c, name=n) for c, n in zip(channels, names, strict=True))


def _with_obvious_roles(channels: tuple[Channel, ...], warnings: list[str]) -> tuple[Channel, ...]:
    """A chip's log in which one temperature, or one power, stands alone under a name that says no more than that:
    it is the chip's."""
    out = list(channels)
    chip = any(c.quantity in ("clock", "load") and c.domain == "cpu" for c in channels)
    for quantity, role, words in (("temperature", "die", "the die's"), ("power", "package", "the package's")):
        mine = [k for k, c in enumerate(channels) if c.quantity == quantity]
        if len(mine) != 1 or not chip:
            continue
        channel = channels[mine[0]]
        plain = channel.name.lower().strip(" _.#0123456789")
        if channel.role == "other" and plain in (
            "temp",
            "temperature",
            "temperatur",
            "t",
            "power",
            "p",
            "watts",
            "leistung",
        ):
            out[mine[0]] = replace(channel, role=role, domain="cpu")
            warnings.append(f"column {channel.name!r}: taken for {words}, the only {quantity} there is")
    return tuple(out)


def _mapped(path: Path, title: str, entry: dict[str, Any], unit: str) -> Column:
    understood = understand(title, unit)
    quantity = entry.get("quantity") or (understood.channel.quantity if understood else None)
    if quantity not in UNITS:
        raise InputError(
            f"{path}: the map gives column {title!r} the quantity {quantity!r}; take one of {', '.join(UNITS)}, or none to leave it out"
        )
    name = split_title(title)[0]
    scaled_by = understand(f"{name} ({entry['unit']})") if entry.get("unit") else understood
    role = entry.get("role") or (understood.channel.role if understood else "other")
    domain = entry.get("domain") or (
        understood.channel.domain if understood and role == understood.channel.role else domain_of(role)
    )
    try:
        channel = Channel(name, quantity, UNITS[quantity], role, domain)
    except ValueError as problem:
        raise InputError(
            f"{path}: the map's entry for column {title!r}: {problem}; correct the map"
        ) from problem
    return Column(channel, scaled_by.factor if scaled_by else 1.0, scaled_by.offset if scaled_by else 0.0)
