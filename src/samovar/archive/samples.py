"""Samples as bytes: the journal's small blocks, and one compressed series a channel once a run is sealed."""

from __future__ import annotations

import zlib
from collections.abc import Iterable, Sequence

import numpy as np

from samovar.core.recording import Array


def pack_block(times: Sequence[float], rows: Sequence[Sequence[float]]) -> bytes:
    """A block of the journal: n times, then n rows of m values, little-endian doubles."""
    return np.asarray(times, "<f8").tobytes() + np.asarray(rows, "<f8").tobytes()


def unpack_blocks(blocks: Iterable[tuple[int, bytes]], channels: int) -> tuple[Array, Array]:
    """Times, shape (n,), and values, shape (m, n), of the blocks in order.

    Several rows of one moment are one sample: what came late for it stands in a row of its own. A block whose length
    does not fit is the last thing that was written before a fault: it and what follows is left out.
    """
    times, rows = [], []
    for count, data in blocks:
        if len(data) != 8 * count * (channels + 1):
            break
        flat = np.frombuffer(data, "<f8")
        times.append(flat[:count])
        rows.append(flat[count:].reshape(count, channels))
    if not times:
        return np.empty(0), np.empty((channels, 0))
    return _joined(np.concatenate(times).astype(float), np.concatenate(rows).T.astype(float))


def joined_samples(parts: Sequence[tuple[Array, Array]]) -> tuple[Array, Array]:
    """Several stretches of one run, times of shape (n,) and values of shape (m, n) each, as one in order of time; what
    two of them have of one moment is one sample."""
    time_s = np.concatenate([t for t, _ in parts])
    values = np.concatenate([v for _, v in parts], axis=1)
    order = np.argsort(time_s, kind="stable")
    return _joined(time_s[order], values[:, order])


def _joined(time_s: Array, values: Array) -> tuple[Array, Array]:
    """Rows of one moment as one sample, the later row's values first."""
    if len(time_s) < 2 or bool((np.diff(time_s) > 0).all()):
        return time_s, values
    moments, first, place = np.unique(time_s, return_index=True, return_inverse=True)
    joined = values[:, first]
    for k in np.flatnonzero(first[place] != np.arange(len(time_s))):
        known = np.isfinite(values[:, k])
        joined[known, place[k]] = values[known, k]
    return moments, joined


def pack_series(values: Array) -> tuple[str, bytes]:
    """A series as (encoding, bytes): in the narrowest form that gives every value back exactly.

    Bytes of equal weight are laid side by side before compression, since sensors' values differ
    mostly in their low bytes.
    """
    narrow = values.astype("<f4")
    exact = bool(np.array_equal(narrow.astype(float), values, equal_nan=True))
    raw = narrow if exact else values.astype("<f8")
    width = raw.dtype.itemsize
    planes = np.frombuffer(raw.tobytes(), np.uint8).reshape(-1, width).T.tobytes()
    return ("f4" if exact else "f8"), zlib.compress(planes, 1)


def unpack_series(encoding: str, data: bytes) -> Array:
    """The series again, shape (n,).

    Raises:
        ValueError: an encoding this version does not know.
    """
    if encoding not in ("f4", "f8"):
        raise ValueError(f"unknown encoding {encoding!r}")
    width = int(encoding[1])
    planes = np.frombuffer(zlib.decompress(data), np.uint8).reshape(width, -1)
    return np.frombuffer(planes.T.tobytes(), f"<{encoding}").astype(float)
