"""Pictures as sixels: six rows of pixels to a line of characters, colour by colour, runs of one character counted.

Source: Digital Equipment Corporation, "VT330/VT340 Programmer Reference Manual, volume 2: Graphics Programming", chapter 14. Written here
with numpy: the colours are known beforehand, so nothing is quantised, which is what takes a general package its third of a second.
"""

from __future__ import annotations

import numpy as np

from samovar.tui.pixels.picture import CLEAR, CellPicture, rgb

BAND = 6
_CHARACTERS = [chr(63 + bits) for bits in range(64)]
LEAST_RUN = 4
"""A shorter run is no longer written out than counted."""


def sixels(picture: CellPicture) -> str:
    """The picture; what is CLEAR in it leaves what is there (the second parameter, 1)."""
    pixels = picture.pixels
    height, width = pixels.shape
    used = np.flatnonzero(np.bincount(pixels.ravel(), minlength=len(picture.colours) + 1))
    used = used[used != CLEAR]
    if not len(used):
        return ""
    place = np.zeros(len(picture.colours) + 1, np.intp)
    place[used] = np.arange(len(used))
    bands, count = -(-height // BAND), len(used)
    bits = np.zeros((bands, count, width), np.uint8)
    y, x = np.nonzero(pixels)
    colour = place[pixels[y, x]]
    for row in range(BAND):
        mine = y % BAND == row
        # A pixel has one colour, so no place comes twice.
        bits[y[mine] // BAND, colour[mine], x[mine]] |= 1 << row
    return "".join((_head(picture, used, width, height), _body(bits), "\x1b\\"))


def _head(picture: CellPicture, used: np.ndarray, width: int, height: int) -> str:
    known = rgb(picture.colours)
    tones = "".join(
        f"#{k};2;" + ";".join(str(round(part / 2.55)) for part in known[number - 1])
        for k, number in enumerate(used.tolist())
    )
    return f'\x1bP0;1;0q"1;1;{width};{height}{tones}'


def _body(bits: np.ndarray) -> str:
    """Band by band, colour by colour: runs found in all rows at once."""
    _, count, width = bits.shape
    rows = bits.reshape(-1, width)
    kept = np.flatnonzero(rows.any(axis=1))
    lines = rows[kept]
    begins = np.ones(lines.shape, bool)
    np.not_equal(lines[:, 1:], lines[:, :-1], out=begins[:, 1:])
    starts = np.flatnonzero(begins)
    lengths = np.diff(starts, append=lines.size).tolist()
    values = lines.ravel()[starts].tolist()
    tokens = [
        _CHARACTERS[value] * length if length < LEAST_RUN else f"!{length}{_CHARACTERS[value]}"
        for value, length in zip(values, lengths, strict=True)
    ]
    first = np.searchsorted(starts, np.arange(len(kept) + 1) * width).tolist()
    parts: list[str] = []
    band = 0
    for k, row in enumerate(kept.tolist()):
        at, colour = divmod(row, count)
        # A line of its own begins with the next band; another colour goes over the same one.
        parts.append("-" * (at - band) or ("$" if parts else ""))
        band = at
        end = first[k + 1] - (1 if values[first[k + 1] - 1] == 0 else 0)
        parts.append(f"#{colour}" + "".join(tokens[first[k] : end]))
    return "".join(parts)
