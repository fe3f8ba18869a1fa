"""Pictures as sixels: six rows of pixels to a line of characters, colour by colour, runs of one character counted.

Source: Digital Equipment Corporation, "VT330/VT340 Programmer Reference Manual, volume 2: Graphics Programming", chapter 14. Written here
with numpy: the colours are known beforehand, so nothing is quantised, which is what takes a general package its third of a second.
"""

from __future__ import annotations

import numpy as np

from samovar.tui.pixels.picture import CLEAR, CellPicture, rgb

BAND = 6
LEAST_RUN = 12
"""A shorter run gains little by being counted, and takes time."""


def sixels(picture: CellPicture) -> str:
    """The picture; what is CLEAR in it leaves what is there (the second parameter, 1)."""
    pixels = picture.pixels
    height, width = pixels.shape
    used = np.flatnonzero(np.bincount(pixels.ravel(), minlength=len(picture.colours) + 1))
    used = used[used != CLEAR]
    if not len(used):
        return ""
    bands, count = -(-height // BAND), len(used)
    # What is clear has a line of its own behind the colours', which is never sent.
    place = np.full(len(picture.colours) + 1, count, np.intp)
    place[used] = np.arange(count)
    bits = np.zeros((bands, count + 1, width), np.uint8)
    flat = bits.reshape(-1)
    across = np.arange(width)
    place *= width
    for row in range(BAND):
        part = pixels[row::BAND]
        # A pixel has one colour, so no place comes twice.
        at = place[part]
        at += across
        at += (np.arange(len(part)) * ((count + 1) * width))[:, None]
        flat[at] |= 1 << row
    return "".join((_head(picture, used, width, height), _body(bits[:, :count], picture.stretch), "\x1b\\"))


def _head(picture: CellPicture, used: np.ndarray, width: int, height: int) -> str:
    known = rgb(picture.colours)
    tones = "".join(
        f"#{k};2;" + ";".join(str(round(part / 2.55)) for part in known[number - 1])
        for k, number in enumerate(used.tolist())
    )
    return f'\x1bP0;1;0q"1;1;{width * picture.stretch};{height}{tones}'


def _body(bits: np.ndarray, stretch: int) -> str:
    """Band by band, colour by colour: what comes in long runs is counted, the rest stands as it is."""
    _, count, width = bits.shape
    rows = bits.reshape(-1, width)
    kept = np.flatnonzero(rows.any(axis=1))
    lines = rows[kept]
    begins = np.ones(lines.shape, bool)
    np.not_equal(lines[:, 1:], lines[:, :-1], out=begins[:, 1:])
    starts = np.flatnonzero(begins)
    lengths = np.diff(starts, append=lines.size)
    values = lines.reshape(-1)[starts]
    text = np.repeat((lines + 63).reshape(-1), stretch).tobytes().decode("ascii")
    ends_line = (starts + lengths) % width == 0
    # Nothing is drawn at the end of a line by not writing it.
    idle = ends_line & (values == 0)
    long = np.flatnonzero((lengths * stretch >= LEAST_RUN) | idle)
    line_of = (starts[long] // width).tolist()
    froms = (starts[long] * stretch).tolist()
    spans = (lengths[long] * stretch).tolist()
    runs = [
        "" if is_idle else f"!{span}{chr(63 + value)}"
        for span, value, is_idle in zip(spans, values[long].tolist(), idle[long].tolist(), strict=True)
    ]
    across = width * stretch
    parts: list[str] = []
    band = at_run = 0
    for k, row in enumerate(kept.tolist()):
        at, colour = divmod(row, count)
        # A line of its own begins with the next band; another colour goes over the same one.
        parts.append("-" * (at - band) or ("$" if parts else ""))
        band = at
        parts.append(f"#{colour}")
        here = k * across
        while at_run < len(runs) and line_of[at_run] == k:
            parts.append(text[here : froms[at_run]])
            parts.append(runs[at_run])
            here = froms[at_run] + spans[at_run]
            at_run += 1
        parts.append(text[here : (k + 1) * across])
    return "".join(parts)
