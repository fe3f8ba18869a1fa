"""What the workers of a load run: each kernel does one block of work at a time and says how much it was.

Units of work: 100 million floating-point operations for arithmetic, a megabyte (10^6 bytes) for memory,
compression and storage.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator

from samovar.bench.loads import graphics, storage

UNIT_FLOP = 1e8
LARGE_POINTS = 1 << 20
STREAM_BYTES = 64 << 20
FILE_BYTES = 128 << 20
BLOCK_BYTES = 1 << 20


def dense(seed: int) -> Iterator[float]:
    """Products of 160 x 160 matrices, all in a core's own cache."""
    import numpy as np

    generator = np.random.default_rng(seed)
    size = 160
    left, right = generator.standard_normal((size, size)), generator.standard_normal((size, size))
    out = np.empty((size, size))
    while True:
        for _ in range(8):
            np.matmul(left, right, out=out)
        yield 8 * 2 * size**3 / UNIT_FLOP


def transforms(seed: int) -> Iterator[float]:
    """There and back, 32 transforms of 4,096 points: 2 MB, inside a core's cache and its neighbour's."""
    import numpy as np

    block = np.random.default_rng(seed).standard_normal((32, 4096)) + 0j
    while True:
        for _ in range(4):
            block = np.fft.ifft(np.fft.fft(block, axis=1), axis=1)
        # 5 n log2 n operations for each transform, twice, four times over.
        yield 4 * 2 * 32 * 5 * 4096 * 12 / UNIT_FLOP


def large_transforms(seed: int) -> Iterator[float]:
    """There and back, one transform of 2^20 points: 16 MB and as much again for the result, past the cache."""
    import numpy as np

    block = np.random.default_rng(seed).standard_normal(LARGE_POINTS) + 0j
    while True:
        block = np.fft.ifft(np.fft.fft(block))
        yield 2 * 5 * LARGE_POINTS * 20 / UNIT_FLOP


def stream(seed: int) -> Iterator[float]:
    """a = b + s·c over three arrays of 64 MB: what counts is the memory's own speed."""
    import numpy as np

    count = STREAM_BYTES // 8
    b, c = np.full(count, float(seed % 7)), np.full(count, 2.0)
    a = np.empty(count)
    part = count // 16
    while True:
        for first in range(0, count, part):
            piece = slice(first, first + part)
            np.multiply(c[piece], 3.0, out=a[piece])
            np.add(a[piece], b[piece], out=a[piece])
            # Read c, write a, read a and b, write a.
            yield 5 * part * 8 / 1e6


def compression(seed: int) -> Iterator[float]:
    """Text of small words packed and hashed: integers and branches."""
    import hashlib
    import random
    import zlib

    words = [b"cooler", b"panel", b"vane", b"of", b"the", b"rise", b"air", b"fin", b"1004", b"27.4", b"\n"]
    text = b" ".join(random.Random(seed).choices(words, k=50_000))
    while True:
        packed = zlib.compress(text, 6)
        hashlib.sha256(packed).digest()
        yield len(text) / 1e6


def here_and_there(seed: int) -> Iterator[float]:
    """A file written through, read back and read here and there, in a folder of its own.

    The file has no name from the moment it is open: whatever ends this process gives the room back.
    """
    import random

    generator = random.Random(seed)
    descriptor = storage.nameless_file()
    block = generator.randbytes(BLOCK_BYTES)
    advise = getattr(os, "posix_fadvise", None)
    while True:
        for first in range(0, FILE_BYTES, BLOCK_BYTES):
            os.pwrite(descriptor, block, first)
            if first % (16 * BLOCK_BYTES) == 0:
                os.fdatasync(descriptor)
            yield BLOCK_BYTES / 1e6
        os.fdatasync(descriptor)
        if advise is not None:
            # What was written comes from the device, not from memory.
            advise(descriptor, 0, 0, os.POSIX_FADV_DONTNEED)
        for first in range(0, FILE_BYTES, BLOCK_BYTES):
            yield len(os.pread(descriptor, BLOCK_BYTES, first)) / 1e6
        for _ in range(16):
            done = 0
            for _ in range(64):
                at = 4096 * generator.randrange(FILE_BYTES // 4096)
                done += len(os.pread(descriptor, 4096, at)) + os.pwrite(descriptor, block[:4096], at)
            yield done / 1e6


KERNELS: dict[str, Callable[..., Iterator[float]]] = {
    "dense": dense,
    "transforms": transforms,
    "large transforms": large_transforms,
    "stream": stream,
    "compression": compression,
    "storage": here_and_there,
    **storage.KERNELS,
    **graphics.KERNELS,
}
