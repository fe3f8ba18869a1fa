"""A strip's own axis: on which row a value lies, what is written beside the plot, and where a word finds room in it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray


def row_of(value: float, bottom: float, top: float, height: int) -> int:
    """The row of cells that a value lies in, one of `height`."""
    return int(min(max((top - value) / max(top - bottom, 1e-9) * height, 0), height - 1))


def axis_labels(bottom: float, top: float, height: int, levels: Sequence[float]) -> dict[int, str]:
    """What is written beside which row: the ends, and the round values between them where they find a row of their own."""
    span = top - bottom
    decimals = 2 if span < 1 else 1 if span < 4 else 0
    found: dict[int, str] = {}
    for value in levels:
        row = row_of(value, bottom, top, height)
        if 0 < row < height - 1:
            found[row] = f"{value:.{decimals}f}"
    return {**found, 0: f"{top:.{decimals}f}", height - 1: f"{bottom:.{decimals}f}"}


def free_place(taken: NDArray[np.bool_], length: int) -> int | None:
    """The column, as far right as may be, from which so many cells of a row are free; None where there is no such place."""
    width = len(taken)
    if length + 2 > width:
        return None
    busy = np.convolve(taken.astype(int), np.ones(length, int), mode="valid")
    free = np.flatnonzero(busy[: width - length] == 0)
    return int(free[-1]) if len(free) else None


def last_known(row: NDArray[np.float64]) -> float:
    """The last value there is; NaN without any."""
    known = np.flatnonzero(np.isfinite(row))
    return float(row[known[-1]]) if len(known) else float("nan")
