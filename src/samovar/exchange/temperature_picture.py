"""Temperature pictures from files: a table of degrees, or a 16-bit PNG or TIFF with its scale and offset."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from samovar.core.by_hand.amounts import clock
from samovar.core.recording import Array
from samovar.core.surfaces.picture import USUAL_EMISSIVITY, Picture, check_picture
from samovar.core.units import Unreadable, number
from samovar.exchange.encoding import as_utf8
from samovar.exchange.problems import InputError

EXAMPLE = "board.csv, at 12:30, emissivity 0.95, reflected 23"
MOST_BYTES = 60_000_000
TABLES = (".csv", ".txt", ".tsv", ".asc")
_WHOLE_NUMBERS = ("I;16", "I;16B", "I;16L", "I;16N", "I")
_PARTS = (";", "\t", ",", None)
"""What parts cells, tried in this order; None is white space."""
_CELL = re.compile(r"[+\-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:e[+\-]?\d+)?", re.I)
_BLANK = frozenset(("", "nan", "-", "--", "n/a"))


@dataclass(frozen=True)
class Named:
    """A picture as a line names it: its file, and what was said beside it."""

    path: Path
    scale: float | None = None
    offset: float | None = None
    at_s: float | None = None
    set_to: float = USUAL_EMISSIVITY
    reflected_c: float | None = None


def named_picture(line: str) -> Named:
    """A picture named in a line: `board.png, scale 0.04, offset -273.15, at 12:30, emissivity 0.95, reflected 23`.

    Raises:
        InputError: a piece that says none of these, with an example.
    """
    first, *rest = [piece.strip() for piece in line.split(", ")]
    said: dict[str, float] = {}
    for piece in filter(None, rest):
        word, _, value = piece.partition(" ")
        try:
            if word == "at":
                found = clock(value)
                if found is None or found[1]:
                    raise Unreadable(f"{value!r} is no time")
                said["at_s"] = found[0]
            elif word in ("scale", "offset", "emissivity", "reflected"):
                said[word] = number(value.removesuffix("°C").strip(), "0.95")
            else:
                raise Unreadable(f"{piece!r} is not understood")
        except Unreadable as problem:
            raise InputError(f"{problem}; write it such as {EXAMPLE}, scale 0.04, offset -273.15") from None
    if not 0.0 < (share := said.get("emissivity", USUAL_EMISSIVITY)) <= 1.0:
        raise InputError(f"emissivity {share:g} is not over 0 and up to 1; write what the camera was set to")
    if not first:
        raise InputError(f"no file is named; write it such as {EXAMPLE}")
    return Named(
        Path(first.strip('"')).expanduser(), said.get("scale"), said.get("offset"), said.get("at_s"), share,
        said.get("reflected"),
    )  # fmt: skip


def read_picture(named: Named, room_c: float | None) -> Picture:
    """Read a temperature picture; what it mirrors is the room where nobody said otherwise.

    Raises:
        InputError: there is no such file, it is no picture of temperatures, or its scale is not known.
    """
    path = named.path
    if not path.is_file():
        raise InputError(
            f"{path}: there is no such file; name a camera's table of degrees, or a 16-bit picture"
        )
    if path.stat().st_size > MOST_BYTES:
        raise InputError(f"{path}: over {MOST_BYTES // 1_000_000} MB; scale the picture down first")
    reflected = named.reflected_c if named.reflected_c is not None else room_c
    if reflected is None:
        raise InputError(
            f"{path}: the room is not known; say what the surface mirrored, such as reflected 23"
        )
    values = _table(path) if path.suffix.lower() in TABLES else _image(named)
    try:
        checked = check_picture(values)
    except ValueError as problem:
        raise InputError(f"{path}: {problem}") from None
    return Picture(checked, named.set_to, reflected, named.at_s, path.name)


def _table(path: Path) -> Array:
    """The largest block of rows of numbers, all of one length; what stands above it is the camera's own."""
    lines = as_utf8(path).data.decode("utf-8").splitlines()
    found = max(
        (_block(lines, part) for part in _PARTS), key=lambda rows: len(rows) * len(rows[0]) if rows else 0
    )
    if not found or len(found) < 2:
        raise InputError(
            f"{path}: no table of degrees in it; export the picture as CSV with a row for each line of it"
        )
    return np.array(found)


def _block(lines: list[str], part: str | None) -> list[list[float]]:
    best: list[list[float]] = []
    rows: list[list[float]] = []
    for line in [*lines, ""]:
        cells = [cell.strip() for cell in line.split(part)] if part else line.split()
        if cells and not cells[-1]:
            cells.pop()
        values = [_value(cell) for cell in cells]
        fits = len(values) >= 2 and None not in values and any(v == v for v in values if v is not None)
        if fits and (not rows or len(values) == len(rows[0])):
            rows.append([v for v in values if v is not None])
            continue
        if len(rows) * len(rows[0] if rows else ()) > len(best) * len(best[0] if best else ()):
            best = rows
        rows = [[v for v in values if v is not None]] if fits else []
    return best


def _value(cell: str) -> float | None:
    if cell.lower() in _BLANK:
        return float("nan")
    return float(cell.replace(",", ".")) if _CELL.fullmatch(cell) else None


def _image(named: Named) -> Array:
    from PIL import Image, UnidentifiedImageError

    path = named.path
    try:
        with Image.open(path) as opened:
            mode = opened.mode
            if opened.width * opened.height * 4 > MOST_BYTES:
                raise InputError(
                    f"{path}: {opened.width} x {opened.height} pixels are too many; scale it down first"
                )
            raw = np.asarray(opened, np.float64) if mode in (*_WHOLE_NUMBERS, "F") else None
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise InputError(
            f"{path}: cannot be read as a picture; export it as CSV of degrees, or as a 16-bit PNG or TIFF"
        ) from None
    if raw is None:
        raise InputError(
            f"{path}: its pixels are colours, not temperatures: a photograph only. Export it as CSV of degrees, or as a "
            "16-bit PNG or TIFF"
        )
    if mode != "F" and (named.scale is None or named.offset is None):
        raise InputError(
            f"{path}: say what its numbers mean, such as scale 0.04, offset -273.15: degrees are number times scale plus offset"
        )
    scale, offset = named.scale if named.scale is not None else 1.0, named.offset or 0.0
    return np.asarray(raw * scale + offset)
