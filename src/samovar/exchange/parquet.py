"""Parquet as a table: its titles looked at before its rows, and no more rows read than a log can have."""

from __future__ import annotations

from pathlib import Path

from samovar.exchange.problems import InputError
from samovar.exchange.table import Table
from samovar.exchange.titles import is_time_title, understand

MOST_ROWS = 50_000_000
"""A year and a half at one row a second: a small file can claim far more, and would take all memory."""
MOST_CELLS = 400_000_000


def read_parquet(path: Path) -> Table:
    """A Parquet file's rows; columns that hold neither numbers, times nor text are left out.

    Raises:
        InputError: no Parquet, no rows, or more of them than a log has.
    """
    import polars

    try:
        if not path.is_file():
            raise InputError(f"{path}: this is no file; name a log")
        schema = polars.read_parquet_schema(path)
        rows = int(polars.scan_parquet(path).select(polars.len()).collect().item())
        wanted = [
            name
            for name, kind in schema.items()
            if kind.is_numeric() or kind.is_temporal() or kind in (polars.String, polars.Boolean)
        ]
        if rows > MOST_ROWS or rows * len(wanted) > MOST_CELLS:
            raise InputError(f"{path}: {rows} rows of {len(wanted)} columns are no log; give a part of it")
        if rows and not any(is_time_title(n) or understand(n) is not None for n in wanted):
            raise InputError(
                f"{path}: no column says what it measures; give titles with units such as 'CPU die (°C)'"
            )
        frame = polars.read_parquet(path, columns=wanted)
    except (polars.exceptions.PolarsError, OSError) as problem:
        raise InputError(f"{path}: this is no Parquet file; give a log as text or Parquet") from problem
    if frame.width == 0 or frame.height == 0:
        raise InputError(f"{path}: it holds no rows; give a log with rows of numbers")
    frame = frame.with_columns(polars.col(polars.Boolean).cast(polars.Float64))
    left = [name for name in schema if name not in wanted]
    return Table(frame, [f"column {name!r}: holds neither numbers nor text, left out" for name in left])
