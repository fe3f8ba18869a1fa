"""A log's bytes as UTF-8 text, whatever they were written in."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from samovar.exchange.problems import InputError

_MARKS = (
    (b"\xef\xbb\xbf", "utf-8"),
    (b"\xff\xfe\x00\x00", "utf-32"),
    (b"\xff\xfe", "utf-16"),
    (b"\xfe\xff", "utf-16"),
)
_LOOK = 4096
_MENDED = (
    # a degree sign written in one encoding and read in another, once or twice
    ("Ã‚Â°", "°"), ("Â°", "°"), ("ï¿½", "°"), ("\u2103", "°C"), ("\u2109", "°F"), ("º", "°"), ("˚", "°"),
    ("Â", ""), ("\u00a0", " "), ("\u202f", " "), ("\u00b5", "µ"),
)  # fmt: skip


def as_utf8(path: Path) -> bytes:
    """The file's text as UTF-8 without a byte order mark.

    Raises:
        InputError: it cannot be read, or holds no text.
    """
    try:
        data = path.read_bytes()
    except OSError as problem:
        reason = (problem.strerror or "cannot be read").lower()
        raise InputError(f"{path}: {reason}; allow reading it") from problem
    for mark, encoding in _MARKS:
        if data.startswith(mark):
            return data[3:] if encoding == "utf-8" else _clean(data.decode(encoding, errors="replace"))
    nulls = data[:_LOOK].count(0)
    if nulls:
        # Every other byte nothing: UTF-16 that does without its mark.
        head = data[:_LOOK]
        low, high = head[1::2].count(0), head[0::2].count(0)
        if max(low, high) > 0.4 * len(head) / 2 and min(low, high) <= 0.02 * len(head):
            return _clean(data.decode("utf-16-le" if low > high else "utf-16-be", errors="replace"))
        raise InputError(f"{path}: this is no text; give a log as delimited text or Parquet")
    if not data.isascii():
        # Degree signs stand in the titles: where the rest is plain, only those have to be looked at.
        head = data[: data.find(b"\n", _LOOK) + 1] or data
        rest = np.frombuffer(data, np.uint8)[len(head) :]
        try:
            (head if len(rest) == 0 or int(rest.max()) < 128 else data).decode("utf-8")
        except UnicodeDecodeError:
            try:
                return data.decode("cp1252").encode()
            except UnicodeDecodeError:
                return data.decode("latin-1").encode()
    return data


def _clean(text: str) -> bytes:
    return text.removeprefix("\ufeff").encode("utf-8", errors="replace")


def mended(text: str) -> str:
    """A title or a cell with degree signs that went wrong put right, and spaces that are none made plain."""
    if text.isascii():
        return text
    for wrong, right in _MENDED:
        text = text.replace(wrong, right)
    # What could not be decoded stands where a degree sign does: before the letter of a scale.
    for scale in "CF":
        text = text.replace(f"\ufffd{scale}", f"°{scale}").replace(f"\ufffd {scale}", f"°{scale}")
    return text
