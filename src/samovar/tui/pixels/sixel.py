"""Pictures as sixels: six rows of pixels to a line of characters, colour by colour, runs of one character counted.

Source: Digital Equipment Corporation, "VT330/VT340 Programmer Reference Manual, volume 2: Graphics Programming", chapter 14. Written here
with numpy: the colours are known beforehand, so nothing is quantised, which is what takes a general package its third of a second.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from samovar.tui.pixels.picture import CLEAR, CellPicture, rgb

BAND = 6
LEAST_RUN = 12
"""A shorter run gains little by being counted."""
AT_ONCE = 2_000_000
"""Pixels times colours that are compared at once: more would not stay in the processor's own memory."""
_BITS = np.arange(BAND, dtype=np.uint8)[:, None]
_NONE = ord("?")
"""No pixel of six; each sets a bit over it."""


def sixels(picture: CellPicture) -> str:
    """The picture; what is CLEAR in it leaves what is there (the second parameter, 1)."""
    pixels = picture.pixels
    height, width = pixels.shape
    used = np.flatnonzero(np.bincount(pixels.ravel(), minlength=len(picture.colours) + 1))
    used = used[used != CLEAR].astype(np.uint8)
    if not len(used):
        return ""
    bands = -(-height // BAND)
    if bands * BAND > height:
        pixels = np.concatenate([pixels, np.full((bands * BAND - height, width), CLEAR, np.uint8)])
    by_band = pixels.reshape(bands, 1, BAND, width)
    step = max(1, AT_ONCE // (len(used) * BAND * width))
    bits = np.concatenate([_bits(by_band[k : k + step], used) for k in range(0, bands, step)])
    return "".join((_head(picture, used, width, height), _body(bits, picture.stretch), "\x1b\\"))


def _bits(by_band: NDArray[np.uint8], used: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """What each colour has of six rows, shape (bands, colours, width), the uppermost row the lowest bit."""
    here = (by_band == used[:, None, None]).view(np.uint8)
    np.left_shift(here, _BITS, out=here)
    return np.asarray(here.sum(axis=2, dtype=np.uint8))


def _head(picture: CellPicture, used: NDArray[np.uint8], width: int, height: int) -> str:
    known = _percents(picture.colours)
    tones = "".join(f"#{k};2;{known[number - 1]}" for k, number in enumerate(used.tolist()))
    return f'\x1bP0;1;0q"1;1;{width * picture.stretch};{height}{tones}'


@lru_cache(maxsize=128)
def _percents(colours: tuple[str, ...]) -> list[str]:
    """Colours as sixels have them: percents of red, green and blue."""
    return [";".join(str(round(part / 2.55)) for part in one) for one in rgb(colours)]


def _body(bits: NDArray[np.uint8], stretch: int) -> str:
    """Band by band, colour by colour: what comes in long runs is counted, the rest stands as it is. All lines are written side by side,
    each as long as the longest could be, and what is not needed of them is left out in the end."""
    _, count, width = bits.shape
    sent: NDArray[np.bool_] = np.asarray(bits.any(axis=2))
    # A band with nothing in it is a line all the same, or those below it would move up.
    sent[:, 0] |= ~np.asarray(sent.any(axis=1))
    band, colour = np.nonzero(sent)
    lines = bits[sent]
    begins = np.ones(lines.shape, bool)
    np.not_equal(lines[:, 1:], lines[:, :-1], out=begins[:, 1:])
    starts = np.flatnonzero(begins)
    lengths = np.empty_like(starts)
    np.subtract(starts[1:], starts[:-1], out=lengths[:-1])
    lengths[-1] = lines.size - starts[-1]
    values = lines.reshape(-1)[starts]
    # Nothing is drawn at the end of a line by not writing it.
    idle = ((starts + lengths) % width == 0) & (values == 0)
    long = (lengths * stretch >= LEAST_RUN) & ~idle

    digits, across = len(str(count - 1)), width * stretch
    lead = 1 + digits
    text = np.empty((len(lines), lead + across + 1), np.uint8)
    kept = np.ones(text.shape, bool)
    text[:, 0] = ord("#")
    text[:, 1:lead] = _figures(colour, digits)
    text[:, lead:-1] = np.repeat(lines + np.uint8(_NONE), stretch, axis=1)
    # Another colour goes over the same band; the next band begins below it.
    text[:-1, -1] = np.where(band[1:] > band[:-1], ord("-"), ord("$"))
    kept[-1, -1] = False
    left_out = np.repeat(idle | long, lengths).reshape(lines.shape)
    kept[:, lead:-1] = ~np.repeat(left_out, stretch, axis=1)

    where, spans = starts[long], lengths[long] * stretch
    size = len(str(across))
    counted = np.empty((len(where), 2 + size), np.uint8)
    counted[:, 0] = ord("!")
    counted[:, 1:-1] = _figures(spans, size)
    counted[:, -1] = values[long] + np.uint8(_NONE)
    row, column = np.divmod(where, width)
    at = (row * text.shape[1] + lead + column * stretch)[:, None] + np.arange(2 + size)
    text.reshape(-1)[at] = counted
    kept.reshape(-1)[at] = True
    return text[kept].tobytes().decode("ascii")


def _figures(numbers: NDArray[np.intp], digits: int) -> NDArray[np.uint8]:
    """Numbers as so many digits each, shape (n, digits)."""
    powers = 10 ** np.arange(digits - 1, -1, -1)
    return (numbers[:, None] // powers % 10 + ord("0")).astype(np.uint8)
