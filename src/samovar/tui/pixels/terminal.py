"""What the terminal says that it takes: asked once, before the interface begins.

Three questions go out together: whether it knows the graphics protocol (its published specification, "querying support"), how large
a cell is and how many colours a sixel picture may have (xterm's control sequences, XTWINOPS 16 and XTSMGRAPHICS), and, last, what it
is (DEC's primary device attributes, where a 4 stands for sixel). Every terminal answers the last one, so its answer ends the wait.
"""

from __future__ import annotations

import contextlib
import os
import re
import select
import sys
import termios
import time
import tty
from dataclasses import dataclass

from textual.keys import _character_to_key as character_to_key

SIXEL, GRAPHICS = "sixel", "graphics"
ANSWERS_WITHIN_S = 0.3
"""A terminal that has not answered by then, over a slow line, gets dots."""
SETTING = "SAMOVAR_PIXELS"
OFF = ("off", "0", "no")
LEAST_COLOURS = 64
"""Fewer registers would not hold the tones of a strip's edges."""
_SEQUENCE = re.compile(r"\x1b(?:[\[O][0-?]*[ -/]*[@-~]|[_P\]^][^\x1b]*\x1b\\|.)", re.S)
_KEYS = {"\r": "enter", "\n": "enter", "\t": "tab"}
_GRAPHICS_QUERY = "\x1b_Gi=31,s=1,v=1,a=q,t=d,f=24;AAAA\x1b\\"
_CELL_QUERY, _COLOURS_QUERY, _WHAT_QUERY = "\x1b[16t", "\x1b[?1;1;0S", "\x1b[c"
_GRAPHICS_ANSWER = re.compile(rb"\x1b_Gi=31;OK\x1b\\")
_CELL_ANSWER = re.compile(rb"\x1b\[6;(\d+);(\d+)t")
_COLOURS_ANSWER = re.compile(rb"\x1b\[\?1;0;(\d+)S")
_WHAT_ANSWER = re.compile(rb"\x1b\[\?([\d;]*)c")


@dataclass(frozen=True, slots=True)
class Pixels:
    """What a terminal takes: SIXEL or GRAPHICS, and a cell's width and height in pixels."""

    protocol: str
    cell_width: int
    cell_height: int

    @property
    def cell(self) -> tuple[int, int]:
        """A cell's width and height."""
        return self.cell_width, self.cell_height


def pixels_of(answer: bytes, cell: tuple[int, int] | None) -> Pixels | None:
    """What an answer says; None where it takes no pictures, or how large a cell is nobody knows.

    Args:
        answer: all that came back.
        cell: a cell's width and height as the system knows them, where it does.
    """
    what = _WHAT_ANSWER.search(answer)
    attributes = what[1].split(b";") if what is not None else []
    found = _CELL_ANSWER.search(answer)
    if found is not None:
        cell = int(found[2]), int(found[1])
    if cell is None or min(cell) < 1:
        return None
    if _GRAPHICS_ANSWER.search(answer) is not None:
        return Pixels(GRAPHICS, *cell)
    colours = _COLOURS_ANSWER.search(answer)
    if b"4" in attributes[1:] and (colours is None or int(colours[1]) >= LEAST_COLOURS):
        return Pixels(SIXEL, *cell)
    return None


def keys_of(answer: bytes) -> tuple[str, ...]:
    """What hands typed meanwhile, as names of keys: what is left of an answer without its sequences."""
    text = _SEQUENCE.sub("", answer.decode("utf-8", "ignore"))
    return tuple(_KEYS.get(c) or character_to_key(c) for c in text if c in _KEYS or c.isprintable())


def ask_terminal() -> tuple[Pixels | None, tuple[str, ...]]:
    """Ask the terminal that the program runs in. The answer is what it takes, None where it takes no pictures or was told not to
    be asked; and the keys that were typed meanwhile, which nobody else will see."""
    if os.environ.get(SETTING, "").lower() in OFF or not (sys.stdin.isatty() and sys.stdout.isatty()):
        return None, ()
    entry, out = sys.stdin.fileno(), sys.stdout.fileno()
    # What stands between takes the question about graphics for a title of its own.
    between = "TMUX" in os.environ or os.environ.get("TERM", "").startswith(("screen", "tmux"))
    question = ("" if between else _GRAPHICS_QUERY) + _CELL_QUERY + _COLOURS_QUERY + _WHAT_QUERY
    try:
        before = termios.tcgetattr(entry)
    except termios.error:
        return None, ()
    try:
        tty.setcbreak(entry, termios.TCSANOW)
        os.write(out, question.encode())
        answer = _answer(entry)
        return pixels_of(answer, _cell(out)), keys_of(answer)
    except OSError:
        return None, ()
    finally:
        with contextlib.suppress(termios.error):
            termios.tcsetattr(entry, termios.TCSANOW, before)


def _answer(entry: int) -> bytes:
    found = b""
    until = time.monotonic() + ANSWERS_WITHIN_S
    while _WHAT_ANSWER.search(found) is None:
        left = until - time.monotonic()
        if left <= 0.0 or not select.select([entry], [], [], left)[0]:
            break
        found += os.read(entry, 4096)
    return found


def _cell(out: int) -> tuple[int, int] | None:
    """A cell's size by the system's own note of the window, where it has one."""
    import fcntl
    import struct

    try:
        rows, columns, width, height = struct.unpack("HHHH", fcntl.ioctl(out, termios.TIOCGWINSZ, b"\0" * 8))
    except OSError:
        return None
    return (width // columns, height // rows) if rows and columns and width and height else None
