"""A file's content, or a pipe's, as bytes; devices, which may go on for ever, are not read."""

from __future__ import annotations

import contextlib
import fcntl
import mmap
import os
import signal
import stat
from collections.abc import Iterator
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


@contextlib.contextmanager
def mapped(path: Path) -> Iterator[mmap.mmap | None]:
    """A file's content without a copy of it; None where that cannot be had safely.

    A mapped file that somebody cuts short ends the program that looks at it. It is mapped under a lease of the kernel's
    (fcntl(2), F_SETLEASE), which is given only where nobody has it open for writing, and makes whoever wants to wait
    until it is given back.
    """
    descriptor, view = -1, None
    try:
        with contextlib.suppress(OSError, ValueError, AttributeError):
            descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)
            # The signal by which the kernel asks for it back is one that nobody minds.
            fcntl.fcntl(descriptor, fcntl.F_SETSIG, signal.SIGURG)
            fcntl.fcntl(descriptor, fcntl.F_SETLEASE, fcntl.F_RDLCK)
            view = mmap.mmap(descriptor, 0, access=mmap.ACCESS_READ)
        yield view
    finally:
        if view is not None:
            # Something may still look at it; it goes when that does.
            with contextlib.suppress(BufferError):
                view.close()
        if descriptor >= 0:
            os.close(descriptor)
