"""What stands in a cell: numbers with either decimal mark, with thousands marked, with a unit behind; flags; nothing."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from samovar.exchange.encoding import mended

if TYPE_CHECKING:
    import polars

NOTHING = frozenset(
    {
        "", "n/a", "na", "#n/a", "nan", "-nan", "null", "none", "nil", "-", "--", "---", "–", "—", "?", "x", "err", "error",
        "unavailable", "not available", "unknown", "invalid", "inf", "-inf", "+inf", "∞", "overflow", "ol", "#value!",
        "#ref!", "missing", "no data", "timeout",
    }
)  # fmt: skip
FLAGS = {
    "yes": 1.0, "true": 1.0, "on": 1.0, "ja": 1.0, "oui": 1.0, "active": 1.0, "y": 1.0, "t": 1.0,
    "no": 0.0, "false": 0.0, "off": 0.0, "nein": 0.0, "non": 0.0, "inactive": 0.0, "n": 0.0, "f": 0.0,
}  # fmt: skip
_NUMBER = re.compile(r"^[+\-−]?(?:\d[\d.,'’ \u00a0\u202f]*|[.,]\d+)(?:[eE][+\-]?\d+)?$")
_WITH_UNIT = re.compile(r"^(?P<number>[+\-−]?(?:\d[\d.,'’ ]*|[.,]\d+)(?:[eE][+\-]?\d+)?)\s*(?P<unit>[^\d\s.,:;+\-/][^\d:]{0,9})?$")  # fmt: skip
_THOUSANDS_COMMA = re.compile(r"^[+\-−]?\d{1,3}(,\d{3})+(\.\d+)?$")
_THOUSANDS_DOT = re.compile(r"^[+\-−]?\d{1,3}(\.\d{3})+(,\d+)?$")


def split_unit(cell: str) -> tuple[str, str]:
    """The number's text and the unit behind it, each empty where there is none."""
    found = _WITH_UNIT.match(mended(cell).strip())
    return ("", "") if found is None else (found["number"].strip(), (found["unit"] or "").strip())


def is_number(cell: str) -> bool:
    """Whether a cell holds a number, a unit behind it or not."""
    return bool(split_unit(cell)[0])


def is_nothing(cell: str) -> bool:
    """Whether a cell says that there is no value."""
    return cell.strip().lower() in NOTHING


@dataclass(frozen=True, slots=True)
class NumberStyle:
    """How a file writes numbers: its decimal mark, and the mark of thousands (empty: none)."""

    decimal: str = "."
    thousands: str = ""


def style_of(columns: list[list[str]]) -> NumberStyle:
    """The style of a file, from cells of its columns that hold numbers: what one column leaves open, another
    tells. `3,400` alone is taken for thousands where some column has points, else for a decimal comma only
    where some comma cannot be one of thousands."""
    comma_decimal = comma_thousands = point_decimal = point_thousands = False
    for cells in columns:
        for cell in cells:
            if "," not in cell and "." not in cell:
                continue
            both = "," in cell and "." in cell
            if both:
                last = max(cell.rfind(","), cell.rfind("."))
                if cell[last] == ",":
                    comma_decimal = True
                else:
                    point_decimal = True
            elif "," in cell:
                if not _THOUSANDS_COMMA.match(cell) or cell.lstrip("+-−").startswith("0,"):
                    comma_decimal = True
                else:
                    comma_thousands = True
            elif cell.count(".") > 1:
                point_thousands = True
            elif not _THOUSANDS_DOT.match(cell) or cell.lstrip("+-−").startswith("0."):
                point_decimal = True
    if comma_decimal and not point_decimal:
        return NumberStyle(",", ".")
    if comma_thousands and not point_decimal and not point_thousands and not comma_decimal:
        return NumberStyle(".", ",")
    if point_thousands and not point_decimal:
        return NumberStyle(",", ".")
    return NumberStyle(".", ",")


def numbers(series: polars.Series, style: NumberStyle) -> np.ndarray:
    """A column's numbers, shape (n,); NaN where a cell holds none. Flags count as 1 and 0."""
    import polars

    if series.dtype != polars.String:
        if series.dtype != polars.Float64:
            series = series.cast(polars.Float64, strict=False)
        # Nulls become NaN on the way to numpy. What is in order needs no copy.
        given = series.to_numpy()
        if given.dtype == np.float64 and not np.isinf(given).any():
            return np.asarray(given)
        out = np.array(given, dtype=float)
        out[np.isinf(out)] = np.nan
        return out
    text = series.str.strip_chars()
    plain = text.cast(polars.Float64, strict=False) if style.decimal == "." else text.replace_strict(
        {}, default=None, return_dtype=polars.Float64
    )  # fmt: skip
    if plain.null_count() > text.null_count():
        # Few different texts are common: flags, N/A, the levels of a slow sensor. Each is looked at once.
        odd = text.filter(plain.is_null() & text.is_not_null()).unique()
        if len(odd) <= 200_000:
            meant = {cell: number_in(cell, style) for cell in odd.to_list()}
            rest = text.replace_strict(meant, default=None, return_dtype=polars.Float64)
            plain = plain.fill_null(rest)
    out = np.array(plain.to_numpy(), dtype=float)
    out[np.isinf(out)] = np.nan
    return out


def number_in(cell: str, style: NumberStyle) -> float | None:
    """The number a cell holds, None where it holds none."""
    if is_nothing(cell):
        return None
    flag = FLAGS.get(cell.lower())
    if flag is not None:
        return flag
    digits = split_unit(cell)[0].replace("−", "-")
    for mark in (" ", "'", "’", "\u00a0", "\u202f"):
        digits = digits.replace(mark, "")
    if not digits:
        return None
    if style.thousands:
        digits = digits.replace(style.thousands, "")
    try:
        return float(digits.replace(style.decimal, "."))
    except ValueError:
        return None
