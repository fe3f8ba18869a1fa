"""The first picture of the interface, drawn before anything heavy is imported: whoever starts it sees at once that it
starts. What draws the rest paints over it."""

import os
import sys

from samovar.settings import DARK, LIGHT, read_settings, settings_path

COLOURS = {
    DARK: ((23, 19, 16), (34, 28, 23), (241, 232, 216), (168, 156, 139), (217, 169, 78)),
    LIGHT: ((248, 244, 236), (236, 228, 213), (36, 31, 25), (106, 96, 84), (154, 106, 16)),
}
"""Ground, raised, text, soft and brass by theme, as in `figures.palette`; a test holds them to it."""
PLACES = ("Desk", "Shelf", "Grid", "Bench", "Trace", "Versus", "Write-up")
RAIL = 17
_OTHERWISE = ("-h", "--help", "--version", "--tour")
"""With one of these nothing is opened."""
_WITH_A_VALUE = ("--archive", "--sysroot", "--speed", "--to")
_ENTER, _LEAVE = "\x1b[?1049h\x1b[?25l", "\x1b[?25h\x1b[0m\x1b[?1049l"

_drawn = False


def opens_interface(arguments: list[str]) -> bool:
    """Whether a call with these arguments opens the interface, as far as that can be told at once."""
    if any(a in _OTHERWISE for a in arguments) or not (sys.stdout.isatty() and sys.stdin.isatty()):
        return False
    named = [
        a for k, a in enumerate(arguments) if not a.startswith("-") and arguments[k - 1 : k] not in _VALUED
    ]
    return named in ([], ["demo"])


_VALUED = [[name] for name in _WITH_A_VALUE]


def plain_start(arguments: list[str]) -> dict[str, str] | None:
    """The archive and the sysroot of a call that does nothing but open the interface; None for any other call."""
    found = {}
    for name, value in zip(arguments[::2], arguments[1::2], strict=False):
        if name not in ("--archive", "--sysroot"):
            return None
        found[name] = value
    return found if len(arguments) % 2 == 0 else None


def draw() -> None:
    """Draw the rail, and that the archive is being opened."""
    global _drawn
    ground, raised, text, soft, brass = COLOURS[read_settings(settings_path())[0]["theme"]]
    columns, rows = os.get_terminal_size(sys.stdout.fileno())
    pitch = 4 if rows >= 34 else 3
    lines = {
        1 + k * pitch: f" {_ink(brass)}{k} \x1b[1m{_ink(text)}{name}\x1b[22m" for k, name in enumerate(PLACES)
    }
    picture = [_ENTER, _ground(ground), "\x1b[2J\x1b[H"]
    for row in range(rows):
        shown = lines.get(row, "")
        picture.append(
            f"\x1b[{row + 1};1H{_ground(raised)}{' ' * min(RAIL, columns)}\x1b[{row + 1};1H{shown}"
        )
    picture.append(f"\x1b[1;{RAIL + 2}H{_ground(ground)}{_ink(soft)}Samovar: opening the archive …")
    sys.stdout.write("".join(picture))
    sys.stdout.flush()
    _drawn = True


def leave() -> None:
    """Take it away again: something else is to be said on the terminal."""
    global _drawn
    if _drawn:
        _drawn = False
        sys.stdout.write(_LEAVE)
        sys.stdout.flush()


def _ink(colour: tuple[int, int, int]) -> str:
    return "\x1b[38;2;{};{};{}m".format(*colour)


def _ground(colour: tuple[int, int, int]) -> str:
    return "\x1b[48;2;{};{};{}m".format(*colour)
