"""Files written whole or not at all: nobody finds half of one, and none is written through a link of a stranger's."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Iterator
from pathlib import Path

from samovar.exchange.problems import InputError

PART_MARK = ".samovar-part-"
"""What begins the names of files that are not whole yet; a random rest makes each one nobody can foresee."""


@contextlib.contextmanager
def whole_file(path: Path) -> Iterator[Path]:
    """Where to write what shall stand at `path`: it takes that place once this ends in order, whole. A link that stands
    there is replaced, not followed.

    Raises:
        InputError: the place cannot be written.
    """
    part: Path | None = None
    try:
        descriptor, name = tempfile.mkstemp(prefix=PART_MARK, suffix=path.suffix, dir=path.parent)
        part = Path(name)
        os.fchmod(descriptor, 0o666 & ~_umask())
        os.close(descriptor)
        yield part
        part.replace(path)
        part = None
    except OSError as problem:
        raise InputError(
            f"{path}: {(problem.strerror or 'cannot be written').lower()}; name a place that can be written"
        ) from problem
    finally:
        if part is not None:
            part.unlink(missing_ok=True)


def write_whole(path: Path, text: str) -> None:
    """Write a text so. Raises InputError: the place cannot be written."""
    with whole_file(path) as part:
        part.write_text(text, encoding="utf-8")


def write_whole_bytes(path: Path, data: bytes) -> None:
    """Write bytes so. Raises InputError: the place cannot be written."""
    with whole_file(path) as part:
        part.write_bytes(data)


def _umask() -> int:
    found = os.umask(0o022)
    os.umask(found)
    return found
