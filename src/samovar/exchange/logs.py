"""Reading a log of any maker: delimited text or Parquet in, a recording with its warnings out."""

from __future__ import annotations

import re
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from samovar.core.quantity import UNITS, Channel, domain_of
from samovar.core.recording import Recording
from samovar.exchange.cells import FLAGS, NumberStyle, is_nothing, is_number, numbers, split_unit, style_of
from samovar.exchange.log_map import NONE
from samovar.exchange.long_form import widened
from samovar.exchange.parquet import read_parquet
from samovar.exchange.plausible import usable
from samovar.exchange.problems import InputError
from samovar.exchange.row_times import in_order, refuse_impossible_times, time_columns, times_of
from samovar.exchange.some_cells import polars_text, some_cells, unit_in
from samovar.exchange.table import Table, read_table, unique_names
from samovar.exchange.titles import (
    Column,
    channel_named,
    split_title,
    understand,
)
from samovar.exchange.units_of_logs import SIZES, by_size

if TYPE_CHECKING:
    import polars

FIRST = 5
SOUND = (".wav", ".flac")
"""Endings of recordings of sound."""
LONG_ROWS = 50_000
"""From so many rows on, reading columns side by side is worth its while."""


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
    """A log as read: the recording, what could not be used of it, how its columns were understood, the column or
    columns its times come from, and when it began, where its times have a date: with its zone where it names one."""

    recording: Recording
    warnings: list[str]
    columns: list[UnderstoodColumn] = field(default_factory=list)
    time: str = ""
    began: datetime | None = None


FIRST_DATED_S, LAST_DATED_S = 3e8, 7e9
"""Seconds from 1970 of 1979 and 2191: times outside have no date, or a wrong one."""


def read_log(path: Path, column_map: dict[str, Any] | None = None) -> Log:
    """Read a log.

    Args:
        path: delimited text, or Parquet or a recording of sound by its ending.
        column_map: the contents of a MAP.toml, which settles what titles leave open.

    Raises:
        InputError: no file, not readable, or no log.
    """
    if not path.exists():
        raise InputError(f"{path}: there is no such file; check the name")
    if path.is_dir():
        raise InputError(f"{path}: this is a folder; name a log in it")
    column_map = column_map or {}
    if path.suffix.lower() in SOUND:
        # What listens takes packages that no other log needs.
        from samovar.exchange.sound_log import sound_recording

        recording, warnings = sound_recording(path)
        return Log(recording, warnings, time="its own")
    table = read_parquet(path) if path.suffix.lower() in (".parquet", ".pq") else read_table(path)
    if table.frame.height == 0:
        raise InputError(f"{path}: titles but no rows; give a log with titles and rows of numbers")
    return _interpret(path, widened(table), column_map)


def _interpret(path: Path, table: Table, column_map: dict[str, Any]) -> Log:
    frame, warnings = table.frame, list(table.warnings)
    if column_map.get("time") is not None and column_map["time"] not in frame.columns:
        raise InputError(
            f"{path}: no column {column_map['time']!r}, which the map names as time; correct the map"
        )
    mapped: dict[str, Any] = column_map.get("channels", {})
    times = time_columns(table, column_map.get("time"), mapped)
    cells = {
        t: some_cells(frame[t]) for t in frame.columns if t not in times and frame[t].dtype.is_(polars_text())
    }
    style = style_of([[split_unit(c)[0] for c in column if is_number(c)] for column in cells.values()])
    understood: list[UnderstoodColumn] = []
    for name in frame.columns:
        if name in times:
            continue
        title = table.titles.get(name, name)
        entry = next((mapped[key] for key in (name, title, split_title(title)[0]) if key in mapped), None)
        unit = table.units.get(name) or unit_in(cells.get(name, []))
        if entry is not None and entry.get("quantity") == NONE:
            understood.append(UnderstoodColumn(title, None, first=_first(frame[name])))
            continue
        if entry is not None:
            column: Column | None = _mapped(path, title, entry, unit)
        else:
            column = understand(title, unit)
            if _tells_yes_or_no(cells.get(name, [])):
                # Whatever else its title speaks of: what it holds is yes and no.
                column = Column(channel_named(split_title(title)[0], "flag"), 1.0, 0.0)
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
    # The parser lets go of the interpreter, and so does arithmetic on long columns: two at a time.
    with ThreadPoolExecutor(2 if frame.height > LONG_ROWS else 1) as pool:
        timing = pool.submit(times_of, path, table, times, style, warnings)
        values = np.empty((len(kept), frame.height))
        said = list(
            pool.map(
                lambda k: _read_column(frame[kept[k][0]], kept[k][1], style, values[k]), range(len(kept))
            )
        )
        time_s = timing.result()
    channels: list[Channel] = []
    filled: list[int] = []
    for k, ((_, entry_of), words) in enumerate(zip(kept, said, strict=True)):
        assert entry_of.column is not None
        warnings.extend(f"column {entry_of.title!r}: {word}" for word in words)
        if entry_of.doubt and not np.isfinite(values[k]).any():
            # Its words alone spoke for it, and nothing in it is a number: `Fan mode` is no fan's speed.
            warnings.append(f"column {entry_of.title!r}: no numbers in it, left out")
            understood[understood.index(entry_of)] = replace(entry_of, column=None)
            continue
        filled.append(k)
        channels.append(entry_of.column.channel)
    values = values if len(filled) == len(values) else values[filled]
    if not any(np.isfinite(row).any() for row in values) or not np.isfinite(time_s).any():
        raise InputError(f"{path}: no numbers in its columns; give a log with rows of numbers")
    time_s, values = in_order(table, time_s, values, warnings)
    refuse_impossible_times(path, time_s)
    named = _with_obvious_roles(_unique_channels(channels), warnings)
    began = _began(float(time_s[0]), [c for t in times for c in cells_of_time(frame[t])])
    recording = Recording(named, time_s - time_s[0], values)
    return Log(recording, warnings, understood, " and ".join(times), began)


def cells_of_time(series: polars.Series) -> list[str]:
    """Some cells of a column of times; none where it holds numbers."""
    return some_cells(series) if series.dtype.is_(polars_text()) else []


def _began(first_s: float, cells: list[str]) -> datetime | None:
    """The moment of a log's first row, where its times count from 1970 as those with a date do."""
    if not FIRST_DATED_S < first_s < LAST_DATED_S:
        return None
    moment = datetime.fromtimestamp(first_s, UTC)
    zoned = not cells or any(re.search(r"(?:\d|\s)(?:Z|UTC|GMT|[+-]\d\d:?\d\d)\s*$", c) for c in cells)
    # Without a zone it is the time of a clock on some wall, not of one in Greenwich.
    return moment if zoned else moment.replace(tzinfo=None)


def _read_column(
    series: polars.Series, entry: UnderstoodColumn, style: NumberStyle, into: np.ndarray
) -> list[str]:
    """A column's values in its channel's unit, written to `into`, shape (n,); the answer is what has to be said of
    them."""
    column, words = entry.column, list[str]()
    assert column is not None
    raw = numbers(series, style)
    plain = column.factor == 1.0 and column.offset == 0.0
    if plain and entry.doubt:
        raw, as_what = _by_size(column.channel.quantity, raw)
        words += [f"bare numbers of this size are read as {as_what}"] if as_what else []
    into[:], word = usable(column.channel, raw if plain else raw * column.factor + column.offset)
    return [*words, *([word] if word else [])]


def _tells_yes_or_no(cells: list[str]) -> bool:
    """Whether a column's cells, as many as hold something, are words for yes and no."""
    held = [c.lower() for c in cells if not is_nothing(c)]
    return bool(held) and all(c in FLAGS for c in held)


def _by_size(quantity: str, raw: np.ndarray) -> tuple[np.ndarray, str]:
    """Bare numbers in our unit, and what they were taken for where that is another."""
    known = raw[np.isfinite(raw) & (raw != 0)]
    if quantity not in SIZES or len(known) == 0:
        return raw, ""
    factor, words = by_size(quantity, float(np.median(known)))
    return (raw, "") if factor == 1.0 else (raw * factor, words)


def _first(series: polars.Series) -> tuple[str, ...]:
    """The first cells of a column, as they stand."""
    return tuple(str(c) for c in series.head(FIRST).to_list() if c is not None)


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
    name, own_unit = split_title(title)
    if own_unit and (understood is None or understood.channel.quantity != quantity):
        # What looks like a unit is none of this quantity's: it belongs to the name.
        name = title.strip()
    scaled_by = understand(f"{name} ({entry['unit']})") if entry.get("unit") else understood
    role = entry.get("role") or (understood.channel.role if understood else "other")
    domain = entry.get("domain") or (
        understood.channel.domain if understood and role == understood.channel.role else domain_of(role)
    )
    try:
        kept_unit = (
            scaled_by.channel.unit
            if scaled_by and scaled_by.channel.quantity == quantity
            else UNITS[quantity]
        )
        channel = Channel(name, quantity, kept_unit, role, domain)
    except ValueError as problem:
        raise InputError(
            f"{path}: the map's entry for column {title!r}: {problem}; correct the map"
        ) from problem
    return Column(channel, scaled_by.factor if scaled_by else 1.0, scaled_by.offset if scaled_by else 0.0)
