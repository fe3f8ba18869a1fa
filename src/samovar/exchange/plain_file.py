"""A file's content, or a pipe's, as bytes; devices, which may go on for ever, are not read."""

from __future__ import annotations

import stat
from pathlib import Path

from samovar.exchange.problems import InputError

MOST_PIPED = 256 << 20
"""Of a pipe, and of what a file has grown by while it was read, no more than that."""


def read_plain(path: Path, most_bytes: int) -> bytes:
    """All of it.

    Raises:
        InputError: it cannot be read, is a device, or is longer than `most_bytes`.
    """
    try:
        found = path.stat()
        if stat.S_ISDIR(found.st_mode):
            raise InputError(f"{path}: this is a folder; name a file in it")
        if not (stat.S_ISREG(found.st_mode) or stat.S_ISFIFO(found.st_mode)):
            raise InputError(f"{path}: this is a device, not a file; name a file")
        if found.st_size > most_bytes:
            raise InputError(f"{path}: longer than {most_bytes >> 20} MB; give a part of it")
        with path.open("rb") as file:
            # Of a file that is being written to, what it has grown by meanwhile too; a pipe tells no length.
            data = file.read(found.st_size) if found.st_size else b""
            return data + file.read(min(MOST_PIPED, most_bytes))
    except OSError as problem:
        reason = (problem.strerror or "cannot be read").lower()
        advice = "check the name" if isinstance(problem, FileNotFoundError) else "allow reading it"
        raise InputError(f"{path}: {reason}; {advice}") from problem
    except MemoryError as problem:
        raise InputError(f"{path}: too long for this machine's memory; give a part of it") from problem
