"""What the workers of a storage load run: one file of a known size, read or written block by block, so many at a time.

The file lies in a folder of its own and has no name from the moment it is open: whatever ends the process gives the room
back. Blocks go past the system's memory where the system allows (`direct`); where it does not, what was read is let go of,
and what was written is waited for, after each stretch of work.
"""

from __future__ import annotations

import contextlib
import itertools
import mmap
import os
import tempfile
import time
from collections.abc import Iterator

from samovar.bench.loads.protocol import LoadError

FOLDER = "SAMOVAR_STORAGE"
"""The environment's word for the folder, and so for the drive, that is loaded."""
STEP_BYTES = 4096
"""Blocks are whole numbers of these: what drives and file systems take directly."""
BLOCK_MOST = 16 << 20
QUEUE_MOST = 256
FILE_MOST = 256 << 30
SEQUENTIAL_BYTES, SEQUENTIAL_QUEUE = 1 << 20, 8
RANDOM_BYTES, RANDOM_QUEUE = 4096, 32
FILE_BYTES = 1 << 30
STRETCH_S = 0.05
"""A stretch of work takes about this long: short enough to be paused and ended by, long beside its beginning and end."""
MOST_ROUNDS = 1 << 14
LAY_BYTES = 1 << 20


def folder() -> str:
    """Where the file is made."""
    return os.environ.get(FOLDER) or tempfile.gettempdir()


def nameless_file(flags: int = 0) -> int:
    """A file open for reading and writing, in a folder of its own that is gone again, as is its name. Raises OSError."""
    home = tempfile.mkdtemp(prefix="samovar-storage-", dir=folder())
    path = os.path.join(home, "block")  # noqa: PTH118
    try:
        return os.open(path, os.O_RDWR | os.O_CREAT | os.O_EXCL | flags, 0o600)
    finally:
        with contextlib.suppress(OSError):
            os.unlink(path)  # noqa: PTH108
        os.rmdir(home)  # noqa: PTH106


def open_file() -> tuple[int, bool]:
    """A file without a name, and whether its blocks go past the system's memory. Raises OSError."""
    direct = getattr(os, "O_DIRECT", 0)
    if direct:
        with contextlib.suppress(OSError):
            descriptor = nameless_file(direct)
            try:
                # Some file systems take the word, and refuse the first block.
                with mmap.mmap(-1, STEP_BYTES) as block:
                    os.pwritev(descriptor, [block], 0)
                return descriptor, True
            except OSError:
                os.close(descriptor)
    descriptor = nameless_file()
    return descriptor, _uncached(descriptor)


def _uncached(descriptor: int) -> bool:
    """Ask another system than Linux to keep nothing of a file in memory."""
    import fcntl

    wish = getattr(fcntl, "F_NOCACHE", None)
    if wish is None:
        return False
    fcntl.fcntl(descriptor, wish, 1)
    return True


def is_direct() -> bool:
    """Whether blocks go past the system's memory here. Raises LoadError: no file can be made."""
    try:
        descriptor, direct = open_file()
    except OSError as problem:
        raise LoadError(
            f"no file can be made in {folder()}: {(problem.strerror or str(problem)).lower()}; name another folder with {FOLDER}"
        ) from None
    os.close(descriptor)
    return direct


class _Blocks:
    """One file with all that reads and writes it."""

    def __init__(self, seed: int, block: int, queue: int, file: int) -> None:
        # For workers alone: who only names these loads does without.
        import random
        from concurrent.futures import ThreadPoolExecutor

        self._block = block
        self._count = max(1, file // block)
        self._descriptor, self._direct = open_file()
        self._buffers = [mmap.mmap(-1, block) for _ in range(queue)]
        for k, buffer in enumerate(self._buffers):
            # No drive makes less of what looks like chance.
            buffer.write(random.Random(seed * 1009 + k).randbytes(block))
        self._chances = [random.Random(seed * 2003 + k) for k in range(queue)]
        self._turn = itertools.count()
        self._stamp = itertools.count(1)
        self._pool = ThreadPoolExecutor(queue)

    def lay_out(self, seed: int) -> Iterator[float]:
        """Fill the file, so that every block of it is on the drive. None of it counts as work."""
        import random

        content = random.Random(seed)
        with mmap.mmap(-1, LAY_BYTES) as lay:
            lay.write(content.randbytes(LAY_BYTES))
            for first in range(0, self._count * self._block, LAY_BYTES):
                lay[:8] = first.to_bytes(8, "little")
                os.pwritev(self._descriptor, [lay], first)
                yield 0.0
        os.fsync(self._descriptor)
        self._let_go()
        yield 0.0

    def go(self, write: bool, at_random: bool, each: float) -> Iterator[float]:
        """Stretches of work, all of the queue at once; each says how many units were done, of `each` a block."""
        rounds = 1
        while True:
            began = time.monotonic()
            for one in [
                self._pool.submit(self._some, k, rounds, write, at_random) for k in range(len(self._buffers))
            ]:
                one.result()
            if not self._direct:
                if write:
                    os.fdatasync(self._descriptor)
                self._let_go()
            took = time.monotonic() - began
            yield rounds * len(self._buffers) * each
            if took < 0.5 * STRETCH_S and rounds < MOST_ROUNDS:
                rounds *= 2
            elif took > 2.0 * STRETCH_S and rounds > 1:
                rounds //= 2

    def _some(self, k: int, rounds: int, write: bool, at_random: bool) -> None:
        descriptor, block, count = self._descriptor, self._block, self._count
        buffer, chance, turn, stamp = [self._buffers[k]], self._chances[k], self._turn, self._stamp
        for _ in range(rounds):
            at = block * (chance.randrange(count) if at_random else next(turn) % count)
            if write:
                # No two blocks alike: a drive that keeps equal ones once would be told on.
                buffer[0][:8] = next(stamp).to_bytes(8, "little")
                os.pwritev(descriptor, buffer, at)
            elif os.preadv(descriptor, buffer, at) != block:
                raise OSError("the file is shorter than it was")

    def _let_go(self) -> None:
        """What was written or read comes from the drive the next time, not from memory."""
        advise = getattr(os, "posix_fadvise", None)
        if advise is not None:
            advise(self._descriptor, 0, 0, os.POSIX_FADV_DONTNEED)


def _work(seed: int, block: int, queue: int, file: int, write: bool, at_random: bool) -> Iterator[float]:
    blocks = _Blocks(seed, block, queue, file)
    yield from blocks.lay_out(seed)
    yield from blocks.go(write, at_random, 1.0 if at_random else block / 1e6)


def read(
    seed: int, block: int = SEQUENTIAL_BYTES, queue: int = SEQUENTIAL_QUEUE, file: int = FILE_BYTES
) -> Iterator[float]:
    """Read from beginning to end, again and again: MB."""
    return _work(seed, block, queue, file, False, False)


def write(
    seed: int, block: int = SEQUENTIAL_BYTES, queue: int = SEQUENTIAL_QUEUE, file: int = FILE_BYTES
) -> Iterator[float]:
    """Written from beginning to end, again and again: MB."""
    return _work(seed, block, queue, file, True, False)


def random_read(
    seed: int, block: int = RANDOM_BYTES, queue: int = RANDOM_QUEUE, file: int = FILE_BYTES
) -> Iterator[float]:
    """Blocks read here and there: each is one operation."""
    return _work(seed, block, queue, file, False, True)


def random_write(
    seed: int, block: int = RANDOM_BYTES, queue: int = RANDOM_QUEUE, file: int = FILE_BYTES
) -> Iterator[float]:
    """Blocks written here and there: each is one operation."""
    return _work(seed, block, queue, file, True, True)


KERNELS = {
    "storage read": read, "storage write": write, "storage random read": random_read,
    "storage random write": random_write,
}  # fmt: skip
